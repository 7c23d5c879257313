"""Compare: the analysis of a batch, in strength or in load, with and without flagged pieces, and its verdict."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from typing import NamedTuple

from adhaero.core.breaking.trace import STRENGTHS
from adhaero.core.compare.analysis import Analysis, analyse
from adhaero.core.compare.as_study import Shared
from adhaero.core.compare.case import OF_STRENGTH
from adhaero.core.compare.caveat import Caveat, Weight
from adhaero.core.compare.changes import changes
from adhaero.core.compare.data import counted, listed
from adhaero.core.compare.efficiency import with_bounds
from adhaero.core.compare.estimates import estimates
from adhaero.core.compare.planned import Setting
from adhaero.core.compare.reaching import reached
from adhaero.core.compare.schools import SCHOOLS, USUAL, by_every_school, by_school
from adhaero.core.compare.verdict import Verdict, judge
from adhaero.core.flags import DOUBTFUL, FLAGS
from adhaero.core.plan.comparisons import Family
from adhaero.core.plan.design import TRIAL
from adhaero.core.quantity import BASE, Dimension
from adhaero.core.refusal import refuse
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.compare.about_batch import (
    any_curve,
    broke_in_wood,
    decimals,
    guess,
    limits,
    policy,
    times_to_peak,
)
from adhaero.workflow.compare.answers import Told, answers, side_answer
from adhaero.workflow.compare.as_done import left_in_words
from adhaero.workflow.compare.background import Background, background
from adhaero.workflow.compare.blocks_made import not_as_planned
from adhaero.workflow.compare.claims import with_figures
from adhaero.workflow.compare.concluding import held
from adhaero.workflow.compare.counting import exact, shared, units_for, within
from adhaero.workflow.compare.counting import in_words as in_words_of_units
from adhaero.workflow.compare.glue_costs import glue_costs
from adhaero.workflow.compare.good_enough import good_enough, unknown_lines
from adhaero.workflow.compare.groups import control_of, counts, figureless, marked, treated
from adhaero.workflow.compare.lasting_view import lasted_of, lasting_of
from adhaero.workflow.compare.own_properties import compared
from adhaero.workflow.compare.planned_view import (
    cell_of,
    factors_view,
    numeric,
    of_question,
    views,
    wanted,
)
from adhaero.workflow.compare.quantities import left_out, quantities
from adhaero.workflow.compare.results import TreatmentResult, pairs, result
from adhaero.workflow.compare.scope import by_load_and_by_strength, other_sections, scope
from adhaero.workflow.compare.view import Beside, CompareView, SideAnswer
from adhaero.workflow.compare.wood import along as wood_along
from adhaero.workflow.compare.wood import board_counts
from adhaero.workflow.context import AppContext
from adhaero.workflow.record_loading import load, version

FIGURES = ("strength", "load")
TARGETS = ("joint", "adhesive")


class _Asked(NamedTuple):
    """How the comparison is looked at."""

    load: bool
    as_zero: bool
    without: tuple[str, ...]
    all_pairs: bool
    unit: str = ""
    boards: tuple[str, ...] = ()
    strength: str = ""
    target: str = ""
    school: str = ""
    only: tuple[str, ...] = ()
    reach: float = 0.9


def compare(
    w: AppContext, batch_id: int, figure: str = "strength", fallen_as_zero: bool | None = None, *,
    all_pairs: bool = False, without: Collection[str] = (), boards: Collection[str] = (), unit: str = "",
    strength: str = "", target: str = "", school: str = "", only: Collection[str] = (), reach: float = 0.9,
    beside: bool = True,
) -> CompareView:  # fmt: skip
    """The comparison of a locked batch. ``figure`` is strength or load; ``fallen_as_zero`` overrides the plan's
    choice; pieces with a flag of the kinds ``without`` or of ``boards`` are left out; ``unit`` is what is counted
    (counting.units_for); ``strength`` the mark of a curve that is taken for the strength, and ``target`` whether the
    joint is compared as it broke or the bond (a piece that broke in the wood bounds it), each instead of the plan's;
    ``only`` are ranges that pieces must lie in (quantities.left_out), ``school`` the rule by which each
    treatment is averaged (core.compare.schools), ``reach`` the share of the reference that is looked for along an axis.
    ``beside``: where pieces are doubtful, the answers with and without them are told beside each other.
    """
    if figure not in FIGURES:
        raise refuse("figure", f"{figure!r} is not a figure to compare", "Choose strength or load.")
    for kind in without:
        if kind not in FLAGS:
            raise refuse("without", f"{kind[:40]!r} is no flag", "Use one of: " + ", ".join(FLAGS) + ".")
    if strength and strength not in STRENGTHS:
        raise refuse("strength", f"{strength[:20]!r} is no strength", "Use one of: " + ", ".join(STRENGTHS) + ".")
    if target not in ("", *TARGETS):
        raise refuse("target", f"{target[:20]!r} is no view", "Use one of: " + ", ".join(TARGETS) + ".")
    if school not in ("", *SCHOOLS):
        raise refuse("school", f"{school[:20]!r} is no school of averaging", "Use one of: " + ", ".join(SCHOOLS) + ".")
    school = "" if school == USUAL else school
    with w.db.read() as conn:
        planned = load(w, conn, batch_id)
        record = looked_at(planned, strength, target)
        as_zero = record.plan.assumptions.fallen_as_zero if fallen_as_zero is None else fallen_as_zero
        # What is asked for in words that the plan uses itself is no other way of looking.
        unit = "" if unit and units_for(planned, unit) == units_for(planned, "") else unit
        strength, target = (
            "" if asked_for == own else asked_for
            for asked_for, own in ((strength, planned.plan.strength), (target, planned.plan.target))
        )
        asked = _Asked(
            figure == "load", as_zero, tuple(sorted(without)), all_pairs, unit, tuple(sorted(boards)), strength, target,
            school, tuple(sorted(only)), reach,
        )  # fmt: skip
        found = w.cached(
            ("compare", batch_id, asked),
            version(conn),
            lambda _: _compare(w, record, background(conn, record, w.now()), asked),
        )
    found = replace(found, planned_strength=planned.plan.strength, planned_target=planned.plan.target)
    if asked._replace(reach=0.9) != _Asked(False, planned.plan.assumptions.fallen_as_zero, (), all_pairs):
        found = replace(found, changed=_changed(compare(w, batch_id, beside=False), found))
    doubted = next((f.codes for f in found.flags if f.kind == DOUBTFUL), [])
    if not beside or not doubted:
        return found
    turned = set(asked.without) ^ {DOUBTFUL}
    other = compare(w, batch_id, figure, as_zero, without=turned, boards=boards, unit=unit, strength=strength,
                    target=target, school=school, only=only, beside=False)  # fmt: skip
    return replace(found, beside=_beside(doubted, *((other, found) if DOUBTFUL in asked.without else (found, other))))


def _beside(codes: list[str], all_of: CompareView, without: CompareView) -> Beside:
    with_them, without_them = (v.answers[0].text if v.answers else "" for v in (all_of, without))
    return Beside(codes, with_them, without_them, _changed(all_of, without))


def looked_at(record: BatchRecord, strength: str, target: str) -> BatchRecord:
    """The record as if its plan took another mark of the curves for the strength, or asked for the bond instead of the
    joint; rows are made anew.
    """
    if strength in ("", record.plan.strength) and target in ("", record.plan.target):
        return record
    plan = replace(record.plan, strength=strength or record.plan.strength, target=target or record.plan.target)
    return replace(record, plan=plan, rows={})


def _changed(usual: CompareView, found: CompareView) -> list[str]:
    """What this way of looking changes against that of the plan."""

    def figures(v: CompareView) -> dict[str, float]:
        return {t.letter: t.estimate.value for t in v.treatments if t.estimate is not None}

    def outcomes(v: CompareView) -> dict[tuple[str, str], str]:
        return {(c.first, c.second): c.outcome for f in v.families for c in f.comparisons}

    label = {t.letter: t.label for t in usual.treatments}
    return changes(figures(usual), figures(found), outcomes(usual), outcomes(found), label)


@dataclass(frozen=True)
class _Answer:
    """The treatments that answer one question, analysed and judged."""

    analysis: Analysis
    verdict: Verdict
    results: list[TreatmentResult]


def dimension_of(record: BatchRecord, *, load: bool) -> Dimension:
    """The dimension of what is compared."""
    return Dimension.FORCE if load else record.method.figure_dimension


def _answer(
    w: AppContext, record: BatchRecord, only: Sequence[int], asked: _Asked, filtered: Collection[str],
    compared: Sequence[Family], in_blocks: Shared | None, against: int = 0,
) -> _Answer:  # fmt: skip
    """The answer from these treatments (by id) and the solid references, by these comparisons; ``against`` is the
    control, where it is not that of the plan.
    """
    plan, a = record.plan, record.plan.assumptions
    units = units_for(record, asked.unit)
    found = treated(record, only, filtered, load=asked.load, unit=units.name, against=against)
    analysis = w.cached(
        ("analysis", record.batch.id, asked, tuple(only), against),
        object(),
        lambda old: analyse(
            [t.group for t in found], fallen_as_zero=asked.as_zero, alpha=a.alpha, old=old[1] if old else None
        ),
    )
    if record.method.loadless:
        verdict = Verdict(None, [])
    else:
        dimension = dimension_of(record, load=asked.load)
        verdict = judge(
            analysis, lambda v: record.units.text(v, dimension), families=compared,
            levels=numeric(record, compared), matters=a.matters, alpha=a.alpha, wanted_power=a.power,
            fallen_as_zero=asked.as_zero, single_figure="load" if asked.load else "strength",
            shared=in_blocks, words=OF_STRENGTH._replace(scale=plan.judging.words),
        )  # fmt: skip
    ids = {t.letter: t.id for t in record.planned.values()}
    told = estimates(verdict.case.setting) if verdict.case else {}
    if asked.school and verdict.case:
        told = by_school(verdict.case.setting, asked.school)
    shares = with_bounds(verdict.case) if verdict.case else {}
    results = [
        result(r, t, plan.guesses.get(ids.get(x, "")), told.get(x), shares.get(x))
        for r, t in zip(analysis.rows, found, strict=True)
        for x in [t.stored.letter]
    ]
    return _Answer(analysis, verdict, results)


class _Aside(NamedTuple):
    """A side question: its treatments (by id), those that answer nothing else, and its own control, if any."""

    question: str
    treatments: list[int]
    only: set[int]
    against: int


def _asides(record: BatchRecord) -> list[_Aside]:
    """The side questions. A control stays with the main question too, as does what a further crossing shares with the
    grid.
    """
    planned = {t.id: t for t in record.planned.values()}
    stored = {t.letter: t.id for t in record.treatments.values()}
    ids = {i: stored[t.letter] for i, t in planned.items() if t.letter in stored}
    grid = {ids[i] for i, t in planned.items() if t.cell is not None and i in ids}
    standard = {t.id for t in record.treatments.values() if control_of(record, t) == "standard"}
    found = []
    for q in record.plan.side_questions:
        own = [ids[i] for i in q.treatments if i in ids]
        against = ids.get(q.against, 0)
        found.append(_Aside(q.text, own, set(own) - standard - (grid if against else set()), against))
    return found


def _filtered(record: BatchRecord, background: Background, asked: _Asked) -> set[str]:
    """The codes of pieces that the filter leaves out: by a flag, by their board, or by a range."""
    kinds, boards = set(asked.without), set(asked.boards)
    if unknown := boards - {b.label for b in background.boards.values()}:
        raise refuse("boards", f"no piece comes from a board {min(unknown)[:40]!r}", "Use a board of this comparison.")
    return {
        s.code
        for s in record.counting
        if (kinds and kinds & set(marked(record, s, load=asked.load)[0].flags))
        or ((b := background.boards.get(s.code)) is not None and b.label in boards)
    } | left_out(record, background, asked.only)


def _filtered_in_words(codes: Collection[str]) -> str:
    return f"{counted(len(codes), 'piece')} left out as you chose: {listed(sorted(codes), 6)}."


def _compare(w: AppContext, record: BatchRecord, background: Background, asked: _Asked) -> CompareView:
    plan, a, load = record.plan, record.plan.assumptions, asked.load
    asides = _asides(record)
    keeps = {t.id for t in record.treatments.values() if t.role == "solid" or control_of(record, t) == "standard"}
    solids = {t.id for t in record.treatments.values() if t.role == "solid"}
    out = {t for q in asides for t in q.only}
    filtered = _filtered(record, background, asked)
    questions = wanted(record)
    board = {c: b.label for c, b in background.boards.items()}
    in_blocks = shared(record, board)
    main = _answer(w, record, [t for t in record.treatments if t not in out], asked, filtered, questions, in_blocks)
    sides, rows = [], list(main.analysis.rows)
    dimension = dimension_of(record, load=load)
    told = Told(record.units, dimension, background.currency, plan.judging.words)
    for number, q in enumerate(asides):
        if q.only or q.against:
            own = set(q.treatments) | (solids if q.against else keeps)
            answer = _answer(w, record, sorted(own), asked, filtered, of_question(record, number), in_blocks, q.against)
            rows += answer.analysis.rows
            told_of = side_answer(record, answer.analysis.rows, q.question, told, in_blocks)
            sides.append(SideAnswer(q.question, answer.results, told_of))
    welch = main.analysis.welch

    units = units_for(record, asked.unit)

    def figure_of(s: Specimen) -> float | None:
        if s.code in filtered:
            return None
        d = marked(record, s, load=load)[0].datum
        return exact(d.known, d.low, fallen_as_zero=asked.as_zero)

    good = good_enough(record, main.analysis, sorted(filtered), background.own, load=load, fallen_as_zero=asked.as_zero)
    costs = glue_costs(record, {r.letter: r.mean for r in main.results})
    along = [
        *background.along,
        *by_load_and_by_strength(record),
        *(other_sections(record) if load else []),
        *wood_along(record, main.analysis, background.boards, figure_of, dimension.value),
    ]
    lasted, holds_for = lasting_of(record), scope(record)
    setting = main.verdict.case.setting if main.verdict.case else Setting({}, a.alpha, a.matters, asked.as_zero)
    figures = {s.code: v for s in record.counting if (v := figure_of(s)) is not None} if background.own else {}
    return CompareView(
        batch_id=record.batch.id,
        name=record.batch.name,
        question=plan.question,
        guess=plan.guess,
        figure="load" if load else "strength",
        figure_name="Load at failure" if load else record.method.figure_name,
        unit=BASE[dimension],
        dimension=dimension.value,
        strength_dimension=record.method.figure_dimension.value,
        decimals=decimals(record, load=load),
        target=plan.target,
        fallen_as_zero=asked.as_zero,
        matters_pct=100 * a.matters,
        loadless=record.method.loadless,
        treatments=main.results,
        pairs=pairs(main.analysis, main.verdict.reference, every=asked.all_pairs),
        pairs_in_all=len(main.analysis.pairs),
        families=views(main.verdict.case, main.verdict.results) if main.verdict.case else [],
        axes=main.verdict.axes,
        reached=reached(
            main.verdict.axes,
            {r.letter: r.estimate for r in main.results if r.estimate},
            asked.reach,
            {x.key: x.level for x in numeric(record, questions)},
        ),
        factors=factors_view(record, questions),
        cells={t.letter: cell for t in main.results if (cell := cell_of(record, t.letter))},
        caveats=[
            *([] if not filtered else [Caveat(_filtered_in_words(filtered), Weight.OVERTURNS)]),
            *(Caveat(text, Weight.OVERTURNS) for text in [*left_in_words(record), *along]),
            *main.verdict.caveats,
            *unknown_lines(good),
            *policy(record),
            *not_as_planned(record),
        ],
        guesses=guess(record, main.analysis, main.verdict.reference, background.guesses, load=load),
        answers=answers(
            record,
            rows,
            good.pieces,
            told,
            {c.letter: c.money for c in costs},
            lasted_of(record),
            in_blocks,
        ),
        good_enough=good,
        flags=counts(record, record.counting),
        without=list(asked.without),
        boards=board_counts(record, background.boards),
        without_boards=list(asked.boards),
        units=in_words_of_units(record, units, figure_of, lambda v: record.units.text(v, dimension)),
        counted=units,
        within=within(record, main.analysis, main.verdict.reference, figure_of, board),
        own=compared(record, [r.group for r in main.analysis.rows], background.own, figures) if background.own else [],
        sides=sides,
        scope=holds_for,
        departed=background.departed,
        not_noted=background.not_noted,
        adherence=background.adherence,
        inspected=background.inspected,
        lasting=lasted,
        forms=sorted({record.form(s).name for s in record.counting if s.role != "solid"}),
        claims=with_figures(record, background.claims, rows, setting),
        conclusions=held(
            record, background.said, rows, holds_for, setting, [j for r in main.verdict.results for j in r.comparisons]
        ),
        comments=background.comments,
        trials=[s.code for s in record.pieces if record.part(s) == TRIAL],
        swaps=[
            (part.instead_of, code.code, part.reason)
            for code in record.pieces
            if (part := record.parts.get(code.id)) and part.instead_of
        ],
        changed=[],
        beside=None,
        planned_target=plan.target,
        bounded_by_wood=broke_in_wood(main.analysis),
        school=asked.school,
        quantities=quantities(record, background, main.analysis, figure_of, dimension),
        only=list(asked.only),
        schools=by_every_school(main.verdict.case.setting) if main.verdict.case else None,
        strength=plan.strength,
        planned_strength=plan.strength,
        strengths=STRENGTHS if any_curve(record) else {},
        times_to_peak=sorted(times_to_peak(record)),
        pace=plan.pace,
        figureless=figureless(record, load=load),
        glue_costs=costs,
        limits=limits(record, load=load),
        welch=None if welch is None else {"f": welch.f, "df_num": welch.df_num, "df_den": welch.df_den, "p": welch.p},
    )
