"""What a plan asks: the user's questions, or, if there are none, those its words and factors suggest."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import replace

from adhaero.core.plan.document import Factor, Plan, method_of
from adhaero.core.plan.records import judged_over_all
from adhaero.core.questions import judged_by
from adhaero.core.questions.planned_study import asked_factors, control_of
from adhaero.core.questions.question import (
    NEED_WITHIN,
    OF_ITSELF,
    OWN,
    SOLID,
    JudgeBy,
    Question,
    QuestionKind,
    has_base,
    has_factors,
)

AMOUNTS = ("clamp_s", "pressure_mpa", "gap_mm", "spread_g_m2", "open_s", "moisture_pct")
"""Fields of which people ask how much is enough."""
MONTH_S = 28 * 86400.0
MOST, MOST_PROPOSED = 12, 3
BY_THEMSELVES = (
    QuestionKind.WHAT_IS_LEFT,
    QuestionKind.DOES_IT_LAST,
    QuestionKind.HOW_MUCH_IS_ENOUGH,
    QuestionKind.DOES_IT_PASS,
    QuestionKind.CLOSE_TO_SOLID,
)
"""Kinds that a plan suggests by its factors, its rule or its solid pieces, whatever its words say."""
_WORDS: tuple[tuple[QuestionKind, str], ...] = (
    (QuestionKind.WHICH_FOR_WHAT, r"\bfor what\b|\bwhich .*\bfor (what|which|each job)|what .*\buse .*\bwhere\b"),
    (QuestionKind.IS_IT_TRUE, r"\bis it true\b|\btrue that\b|\bis the claim\b|\bmyth\b"),
    (QuestionKind.IS_IT_WORTH_IT, r"\bworth\b|\bprice|\bcheap|\bdear\b|\bmoney\b"),
    (QuestionKind.HOW_DOES_IT_FAIL, r"where does it (break|fail|let go)|how (do|does|did) .*\bfail|wood goes"),
    (QuestionKind.CLOSE_TO_SOLID, r"\bsolid\b|as the wood itself"),
    (QuestionKind.DOES_IT_PASS, r"good enough|\bpass(es)?\b|strong enough|\bat least \d"),
    (QuestionKind.DOES_IT_LAST, r"\bage(s|ing)?\b|over the years|\byears?\b|\blast(s)?\b"),
    (QuestionKind.WHAT_IS_LEFT, r"\bwater|\bsoak|\bwet\b|\bweather|\bfrost|\boutdoor|\bheat|\bdamp\b|survive"),
    (QuestionKind.HOW_MUCH_IS_ENOUGH, r"how (long|much|hard|soon|early|big|tight)|when (can|to)|\benough\b|overdo"),
    (QuestionKind.DOES_IT_DEPEND, r"\bdepend|\bonly (in|on|at)\b|\bmatter more\b"),
    (QuestionKind.DOES_IT_MATTER, r"\bmatter|\bdifference|\bneeds?\b|\bdoes .* (help|hurt|do)\b|what does .* do"),
    (QuestionKind.BETTER_THAN, r"better than|\bbeat(s)?\b|instead of|as good as"),
    (QuestionKind.HOW_STRONG, r"how strong|what load|how much does .* (take|hold|bear)|count on"),
    (QuestionKind.WHICH_IS_BEST, r"\bwhich\b|\bbest\b|\bstrongest\b"),
)


def asked(plan: Plan) -> list[Question]:
    """Return the questions of a plan; one of an older format, or without any, is read as what it asked."""
    return list(plan.questions) or proposed(plan)


def proposed(plan: Plan) -> list[Question]:
    """Return the questions to begin with: first the one the plan's words point to, then those its factors suggest."""
    fitting = fits(plan)
    wanted = [kind for kind, pattern in _WORDS if re.search(pattern, plan.question.lower())]
    rank = {kind: n for n, kind in enumerate(wanted)}
    first = sorted(fitting, key=lambda q: rank.get(q.kind, len(rank)))[:1]
    of_themselves = [q for q in fitting if q.kind in BY_THEMSELVES]
    # Who asks which of several things matters asks it of each of them.
    of_each = [q for q in fitting if first and q.kind is first[0].kind is QuestionKind.DOES_IT_MATTER]
    found = list(dict.fromkeys([*first, *of_each[:MOST], *of_themselves]))[: max(MOST_PROPOSED, len(of_each))]
    return [replace(q, words=plan.question if n == 0 else "", id=f"k{n + 1}") for n, q in enumerate(found)]


def fits(plan: Plan) -> list[Question]:
    """Return every question that a plan can answer as it stands."""
    return list(dict.fromkeys(_by_factors(plan)))


def _by_factors(plan: Plan) -> Iterator[Question]:
    factors = {f.key: f for f in asked_factors(plan) if len(f.levels) > 1}
    state, age = factors.get("conditioning"), factors.get("cure_s")
    others = [f for f in factors.values() if f.key not in ("conditioning", "cure_s")]
    things = [f for f in others if not _is_amount(f)]
    if method_of(plan).loadless:
        for f in things or others:
            yield Question(QuestionKind.HOW_DOES_IT_FAIL, f.key)
            if plan.judging.rule.asks:
                yield Question(QuestionKind.DOES_IT_PASS, f.key)
        return
    if state is not None:
        yield _kept(QuestionKind.WHAT_IS_LEFT, state, things)
    if age is not None and _in_months(age):
        yield _kept(QuestionKind.DOES_IT_LAST, age, things)
    for f in others:
        if _is_amount(f):
            yield Question(QuestionKind.HOW_MUCH_IS_ENOUGH, f.key, share=_share(plan))
    if age is not None and not _in_months(age):
        yield Question(QuestionKind.HOW_MUCH_IS_ENOUGH, age.key, share=_share(plan))
    # What is asked of amounts and states by themselves is not asked once more of them as of so many things.
    for f in (things or list(factors.values()))[:1]:
        control = control_of(plan, f.key)
        if control and things:
            yield Question(QuestionKind.BETTER_THAN, f.key, control)
        if things:
            yield Question(QuestionKind.WHICH_IS_BEST, f.key)
        if plan.judging.rule.asks:
            yield Question(QuestionKind.DOES_IT_PASS, f.key)
        yield Question(QuestionKind.DOES_IT_MATTER, f.key, control)
        if control:
            yield Question(QuestionKind.IS_IT_TRUE, f.key, control, share=_share(plan))
        if plan.solid_reference or any(plan.solid_own.values()):
            yield Question(QuestionKind.CLOSE_TO_SOLID, f.key, SOLID)
        second = next((x for x in factors.values() if x.key != f.key), None)
        if second is not None:
            yield Question(QuestionKind.DOES_IT_DEPEND, f.key, control or f.levels[0].id, within=second.key)
            if plan.judging.rule.asks:
                yield Question(QuestionKind.WHICH_FOR_WHAT, f.key, within=second.key)
        yield Question(QuestionKind.HOW_DOES_IT_FAIL, f.key)
        yield Question(QuestionKind.HOW_STRONG, f.key)
        yield Question(QuestionKind.IS_IT_WORTH_IT, f.key)
    for f in things[1:]:
        yield Question(QuestionKind.DOES_IT_MATTER, f.key, control_of(plan, f.key))


def _kept(kind: QuestionKind, along: Factor, things: list[Factor]) -> Question:
    """Return the question that compares each thing with itself before; with only one thing, its states are compared."""
    if things:
        return Question(kind, things[0].key, OWN, along=along.key)
    first = next((x.id for x in along.levels if x.value == "dry"), along.levels[0].id)
    return Question(kind, along.key, first)


def _is_amount(f: Factor) -> bool:
    """Whether a factor is an amount: one of the known fields, or of the user's own with numbers for levels."""
    return f.key in AMOUNTS or (len(f.levels) > 2 and all(isinstance(x.value, float | int) for x in f.levels))


def _in_months(f: Factor) -> bool:
    """Whether a factor of times runs over months: then it asks how things age, and not when they are cured."""
    times = [x.value for x in f.levels if isinstance(x.value, float | int)]
    return bool(times) and max(times) >= 2 * MONTH_S


def _share(plan: Plan) -> float:
    return 1 - plan.assumptions.matters


def lacks(q: Question, plan: Plan) -> list[str]:
    """Return what a plan still needs before a question can be answered, a sentence each, with the remedy."""
    f = next((x for x in asked_factors(plan) if x.key == q.of), None)
    if f is None:
        return ["What this question is about does not differ in this plan. Choose something that does."]
    found = []
    if len(f.levels) < 2 and q.kind is not QuestionKind.HOW_STRONG:
        found.append(f"Choose at least two levels of {f.name.lower()}.")
    ids = {x.id for x in f.levels}
    keys = {x.key for x in asked_factors(plan)}
    if not has_base(q, ids) and not (q.against == OWN and q.kind in OF_ITSELF):
        found.append(f"Say which {f.name.lower()} the others are held against.")
    if q.kind in NEED_WITHIN and not q.within:
        depends = q.kind is QuestionKind.DOES_IT_DEPEND
        found.append("Say on what it may depend." if depends else "Choose the factor whose levels are the jobs.")
    elif not has_factors(q, keys):
        found.append("A factor this asks about is not in the plan, or it does not go with the others. Choose again.")
    if q.judge_by != JudgeBy.AVERAGE and q.kind not in judged_by.CAN:
        found.append("This kind of question goes by the average strength, whatever else is chosen.")
    if q.judge_by == JudgeBy.LIMIT and q.kind in judged_by.CAN and not plan.judging.rule.asks:
        found.append("Set a limit under “What counts as good enough”. There is none to judge by yet.")
    if q.figure not in ("strength", "load"):
        found.append("This answer goes by the strength: other figures stand in a table of their own.")
    if q.kind is QuestionKind.CLOSE_TO_SOLID and not (plan.solid_reference or any(plan.solid_own.values())):
        found.append("Without solid pieces you can't say how the joint compares with wood. Add some.")
    if q.kind in (QuestionKind.DOES_IT_PASS, QuestionKind.WHICH_FOR_WHAT) and not plan.judging.rule.asks:
        found.append("Say what counts as good enough: there is no rule yet.")
    if q.kind in OF_ITSELF and q.against in ("", OWN):
        along = next((x for x in asked_factors(plan) if x.key == q.along), None)
        if along is None or len(along.levels) < 2:
            found.append("To say what is left, pieces of each are needed before and after. Add the states as a factor.")
    if q.kind is QuestionKind.HOW_MUCH_IS_ENOUGH and not any(isinstance(x.value, float | int) for x in f.levels):
        found.append(f"How much is enough is asked of amounts: {f.name.lower()} has none.")
    enough = judged_over_all(plan) and not q.within and not q.along
    if plan.replicates < 3 and not enough and q.kind is not QuestionKind.HOW_DOES_IT_FAIL:
        found.append("With one or two pieces of each you see what can happen, not what is usual. Make three or more.")
    return found
