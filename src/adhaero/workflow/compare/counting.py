"""What counts as one in a comparison: a piece, or what pieces were made as one with; and what shared parents take
out.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from adhaero.core.compare.analysis import Analysis
from adhaero.core.compare.as_study import Shared
from adhaero.core.parents import KINDS
from adhaero.core.piece_record import Known
from adhaero.core.plan.blocks import KINDS as KINDS_OF_BLOCKS
from adhaero.core.refusal import refuse
from adhaero.core.statistics.blocked import Blocked, Value, blocked, connected
from adhaero.core.statistics.nested import Nested, components, nested
from adhaero.core.units import half_up
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.compare.blocks_made import blocks_made

PIECES, PARENTS = "pieces", "parents"
ENOUGH = 2
"""Parents of every treatment from which on they are the units unless something else is asked for."""
Figure = Callable[[Specimen], float | None]
Show = Callable[[float], str]


@dataclass(frozen=True)
class Units:
    """What is counted: ``unit`` of the ``choices`` (key, name); ``name`` of a single one."""

    unit: str
    name: str
    choices: list[tuple[str, str]]


def units_for(record: BatchRecord, asked: str) -> Units:
    """The unit that was ``asked`` for; else parents, where several pieces of every treatment share one and each
    treatment has two of them or more; else pieces.
    """
    if asked not in ("", PIECES, PARENTS):
        raise refuse("unit", f"{asked[:20]!r} is no unit", f"Choose {PIECES} or {PARENTS}.")
    parents: dict[int, list[int]] = {}
    for s in record.counting:
        if s.role != "solid" and s.parent_id is not None:
            parents.setdefault(s.treatment_id, []).append(s.parent_id)
    shared = any(len(set(own)) < len(own) for own in parents.values())
    if record.plan.parents is None or not shared:
        if asked == PARENTS:
            raise refuse("unit", "no two pieces of a treatment share a parent", f"Choose {PIECES}.")
        return Units(PIECES, "piece", [])
    kind = KINDS[record.plan.parents.kind]
    choices = [(PARENTS, f"{kind.name}s"), (PIECES, f"{kind.piece.capitalize()}s")]
    enough = all(len(set(own)) >= ENOUGH for own in parents.values())
    unit = asked or (PARENTS if enough else PIECES)
    return Units(unit, kind.name.lower() if unit == PARENTS else "piece", choices)


def in_words(record: BatchRecord, units: Units, figure: Figure, show: Show) -> list[str]:
    """Where several pieces of a treatment come from one glue-up or parent: what is counted, and what it would be
    otherwise. ``figure`` gives the exact figure of a piece.
    """
    parents = bool(units.choices) and record.plan.parents is not None
    kind = KINDS[record.plan.parents.kind] if parents and record.plan.parents else None
    own: dict[int, list[tuple[float, int]]] = {t: [] for t in record.treatments}
    for s in record.counting:
        member = record.members.get(s.id)
        one = s.parent_id if parents and s.parent_id is not None else member.glueup_id if member else None
        if one is not None and (v := figure(s)) is not None:
            own[s.treatment_id].append((v, one))
    found = []
    for t in record.treatments.values():
        n = nested([v for v, _ in own[t.id]], [g for _, g in own[t.id]])
        if n is not None:
            names = (kind.name.lower(), kind.piece) if kind else ("glue-up", "piece")
            found.append(_sentence(t.label, n, units.unit, *names, show) + _between([*own[t.id]], names[0]))
    return found


def _between(values: Sequence[tuple[float, int]], one: str) -> str:
    """How much of the variance lies between the parents."""
    c = components([v for v, _ in values], [g for _, g in values])
    return (
        "" if c is None or c.icc is None else f" {half_up(100 * c.icc, 0):.0f} % of the variance lies between {one}s."
    )


def _sentence(label: str, n: Nested, unit: str, one: str, piece: str, show: Show) -> str:
    made = f"{label}: {n.parents} {one}s, {n.pieces} {piece}s. "
    by_pieces, by_parents = show(n.se_pieces), show(n.se_parents)
    if unit == PARENTS:
        return (
            f"{made}{one.capitalize()}s are the units here (standard error {by_parents}); with {piece}s it would be "
            f"{by_pieces}."
        )
    taken = f" That takes {piece}s of one {one} for independent." if one != "glue-up" else ""
    return (
        f"{made}{piece.capitalize()}s are the units here (standard error {by_pieces}); with {one}s as units it is "
        f"{by_parents}.{taken}"
    )


@dataclass(frozen=True)
class WithinRow:
    """A treatment as if every block carried it; its difference from the reference with an interval that holds for all
    pairs at once.
    """

    letter: str
    label: str
    mean: float
    diff: float | None
    ci_low: float | None
    ci_high: float | None
    p: float | None


@dataclass(frozen=True)
class Within:
    """The comparison within what treatments share: ``name`` of a block, how many there are, the share of the scatter
    that they take out, in percent, and the p value of there being none.
    """

    name: str
    blocks: int
    reference: str
    taken_out_pct: float
    p: float
    rows: list[WithinRow]


def _kinds(record: BatchRecord, board: Mapping[str, str]) -> list[tuple[str, bool, Callable[[Specimen], object]]]:
    """What treatments may share: its name, whether the plan states it, and what a piece belongs to."""
    p, b = record.plan.parents, record.plan.blocks
    kinds: list[tuple[str, bool, Callable[[Specimen], object]]] = []
    if p is not None and p.within:
        kinds.append((KINDS[p.kind].name.lower(), True, lambda s: s.parent_id))
    if b is not None:
        made = blocks_made(record)
        kinds.append((KINDS_OF_BLOCKS[b.kind], True, lambda s: made.get(s.id)))
    if board:
        kinds.append(("board", False, lambda s: board.get(s.code) or None))
    used = {o.setup_id for o in record.observed.values() if o.setup_id is not None}
    if len(used) > 1:
        name = "set-up of the rig"
        kinds.append((name, False, lambda s: o.setup_id if (o := record.observed.get(s.id)) else None))
    return kinds


def shared(record: BatchRecord, board: Mapping[str, str]) -> Shared | None:
    """The first of those that carries several treatments, to be taken out of the comparisons."""
    for name, planned, block in _kinds(record, board):
        carried: dict[object, set[int]] = {}
        of = {}
        for s in record.counting:
            if s.role != "solid" and (own := block(s)) is not None:
                carried.setdefault(own, set()).add(s.treatment_id)
                of[s.code] = str(own)
        if len(carried) > 1 and any(len(t) > 1 for t in carried.values()):
            return Shared(name, planned, of)
    return None


def within(
    record: BatchRecord, analysis: Analysis, reference: int | None, figure: Figure, board: Mapping[str, str]
) -> list[Within]:
    """The tested treatments held against each other within what they share: parents, planned blocks, boards (by the
    code of a piece), set-ups of the rig where there are several; once for each set of treatments that these connect. A
    piece without a figure is left out.
    """
    place = {analysis.rows[i].group.letter: i for i in analysis.tested}
    found = []
    for name, _, block in _kinds(record, board):
        values = [
            (v, place[letter], own)
            for s in record.counting
            if (own := block(s)) is not None
            and (letter := record.treatments[s.treatment_id].letter) in place
            and (v := figure(s)) is not None
        ]
        found += [_connected(analysis, own, reference, name) for own in connected(values)]
    return [w for w in found if w is not None]


def _connected(analysis: Analysis, values: Sequence[Value], reference: int | None, name: str) -> Within | None:
    rows = sorted({t for _, t, _ in values})
    found = blocked([v for v, _, _ in values], [rows.index(t) for _, t, _ in values], [b for _, _, b in values])
    if found is None:
        return None
    base = _base(analysis, rows, reference)
    return Within(
        name=name,
        blocks=len({b for _, _, b in values}),
        reference=analysis.rows[rows[base]].group.label,
        taken_out_pct=100 * (1 - (found.scatter / found.scatter_with_blocks) ** 2),
        p=found.blocks.p,
        rows=_rows(analysis, rows, found, base),
    )


def _base(analysis: Analysis, rows: Sequence[int], reference: int | None) -> int:
    """What the others are held against: the reference, else what is most like it by name, else the first."""
    if reference is not None and reference in rows:
        return list(rows).index(reference)
    wanted = set(analysis.rows[reference].group.label.split(" · ")) if reference is not None else set()
    alike = [len(wanted & set(analysis.rows[i].group.label.split(" · "))) for i in rows]
    return alike.index(max(alike))


def _rows(analysis: Analysis, rows: Sequence[int], found: Blocked, base: int) -> list[WithinRow]:
    made = []
    against = {(d.first, d.second): d for d in found.differences}
    for m in sorted(found.means, key=lambda m: -m.mean):
        group = analysis.rows[rows[m.treatment]].group
        d = against.get((min(base, m.treatment), max(base, m.treatment)))
        if d is None:
            made.append(WithinRow(group.letter, group.label, m.mean, None, None, None, None))
            continue
        turned = d.first == base
        diff, low, high = (-d.diff, -d.tukey_high, -d.tukey_low) if turned else (d.diff, d.tukey_low, d.tukey_high)
        made.append(WithinRow(group.letter, group.label, m.mean, diff, low, high, d.p_tukey))
    return made


def exact(known: Known, low: float, *, fallen_as_zero: bool) -> float | None:
    """The figure of a piece as one number: exact, or 0 for one that fell apart where that is asked."""
    if known is Known.EXACT or (known is Known.BELOW and fallen_as_zero):
        return low
    return None
