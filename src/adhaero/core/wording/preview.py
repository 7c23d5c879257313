"""The answer as it will read, with blanks, to be seen before any wood is cut."""

from __future__ import annotations

from adhaero.core.plan.document import Factor, Plan, level_name
from adhaero.core.questions.planned_study import asked_factors
from adhaero.core.questions.question import Question, QuestionKind
from adhaero.core.wording.say import lower_first, percent

BLANK = "__"
LINES: dict[QuestionKind, tuple[str, str]] = {
    QuestionKind.WHICH_IS_BEST: ("Which is strongest?", "overall"),
    QuestionKind.BETTER_THAN: ("Is it better than what I use?", "each against mine"),
    QuestionKind.IS_IT_TRUE: ("Is it better than what I use?", "is this claim true?"),
    QuestionKind.DOES_IT_MATTER: ("Does it make any difference?", "to strength"),
    QuestionKind.HOW_MUCH_IS_ENOUGH: ("How much is enough?", "time, pressure, glue or gap"),
    QuestionKind.WHAT_IS_LEFT: ("Will it survive?", "water, weather, frost or heat"),
    QuestionKind.DOES_IT_LAST: ("Will it survive?", "years"),
    QuestionKind.HOW_LONG_DOES_IT_HOLD: ("Will it survive?", "a constant load"),
    QuestionKind.DOES_IT_PASS: ("Is it strong enough?", "by my rule"),
    QuestionKind.CLOSE_TO_SOLID: ("Is it strong enough?", "compared with solid wood"),
    QuestionKind.HOW_STRONG: ("Is it strong enough?", "just tell me what it holds"),
    QuestionKind.HOW_DOES_IT_FAIL: ("Where does it break?", ""),
    QuestionKind.DOES_IT_DEPEND: ("Does it depend?", "on another factor"),
    QuestionKind.IS_IT_WORTH_IT: ("Which should I use?", "strength against price"),
    QuestionKind.WHICH_FOR_WHAT: ("Which should I use?", "one for each job"),
}
"""Kind of question -> the line of the picker it is listed under, and how it differs from others there."""


def asks(q: Question, plan: Plan) -> str:
    """Return a question in words, for one that the user gave none."""
    f = next((x for x in asked_factors(plan) if x.key == q.of), None)
    if f is None:
        return LINES[q.kind][0] if q.kind in LINES else ""
    thing, base = lower_first(f.name), _name(f, q.against)
    within = next((lower_first(x.name) for x in asked_factors(plan) if x.key == q.within), "")
    along = next((x for x in asked_factors(plan) if x.key == q.along), None)
    each = f", for each {within}" if within and q.kind is not QuestionKind.DOES_IT_DEPEND else ""
    match q.kind:
        case QuestionKind.WHICH_IS_BEST:
            text = f"Which {thing} is strongest"
        case QuestionKind.BETTER_THAN:
            text = f"Which {thing} is better than {base}"
        case QuestionKind.DOES_IT_MATTER:
            text = f"Does the {thing} make any difference"
        case QuestionKind.HOW_MUCH_IS_ENOUGH:
            text = f"How much {thing} is enough"
        case QuestionKind.WHAT_IS_LEFT | QuestionKind.DOES_IT_LAST:
            text = f"What is left of each {thing}" if along else "How much of the strength is left"
            text += f" after {_name(along, along.levels[-1].id)}" if along and along.levels else ""
        case QuestionKind.HOW_LONG_DOES_IT_HOLD:
            text = f"How long does each {thing} hold"
        case QuestionKind.DOES_IT_PASS:
            text = f"Which {thing} is good enough by the rule"
        case QuestionKind.CLOSE_TO_SOLID:
            text = f"How does each {thing} compare with solid wood"
        case QuestionKind.HOW_STRONG:
            text = f"How strong is each {thing}"
        case QuestionKind.HOW_DOES_IT_FAIL:
            text = f"Where does it break with each {thing}"
        case QuestionKind.DOES_IT_DEPEND:
            text = f"Does the effect of the {thing} depend on the {within or 'rest'}"
        case QuestionKind.IS_IT_WORTH_IT:
            text = f"Which {thing} is worth its price"
        case QuestionKind.IS_IT_TRUE:
            text = f"Is it true that every other {thing} holds at least {percent(q.share)} of {base}"
        case QuestionKind.WHICH_FOR_WHAT:
            return f"Which {thing} for which {within or 'job'}?"
    return f"{text}{each}?"


def preview(q: Question, plan: Plan) -> str:
    """Return the sentence that will answer a question, in the plan's own names."""
    f = next((x for x in asked_factors(plan) if x.key == q.of), None)
    if f is None:
        return ""
    base = _name(f, q.against)
    within = next((lower_first(x.name) for x in asked_factors(plan) if x.key == q.within), "")
    along = next((x for x in asked_factors(plan) if x.key == q.along), None)
    share, margin = percent(q.share), percent(plan.assumptions.matters)
    b, n = BLANK, plan.replicates
    match q.kind:
        case QuestionKind.WHICH_IS_BEST:
            each = f" in each {within}" if within else ""
            return f"{b} ({b}) holds most{each}; {b} can't be placed yet. {b} (… % less) are weaker."
        case QuestionKind.BETTER_THAN:
            return f"{b} (… % more) is stronger than {base}; {b} is weaker. {b} is the same within {margin}."
        case QuestionKind.DOES_IT_MATTER:
            return f"Yes / No / Not known yet: between {_ends(f)} strength changes by {b} %."
        case QuestionKind.HOW_MUCH_IS_ENOUGH:
            return f"{b} is enough: {b} % of the strength with {b} (at least {share}). {b} reaches only {b} %."
        case QuestionKind.WHAT_IS_LEFT | QuestionKind.DOES_IT_LAST:
            state = _name(along, along.levels[-1].id) if along is not None and along.levels else b
            return f"After {state}, {b} keeps {b} % of its own strength and {b} keeps {b} %. {b} holds most then: {b}."
        case QuestionKind.HOW_LONG_DOES_IT_HOLD:
            return f"{b} lasts longest: half had failed by {b}; {b} still held at the end."
        case QuestionKind.DOES_IT_PASS:
            return f"Good enough: {b} passed {b} of {n}; not good enough: {b} passed {b} of {n}."
        case QuestionKind.CLOSE_TO_SOLID:
            return f"As good as solid wood, within {margin}: {b}. Weaker: {b} ({b} %)."
        case QuestionKind.HOW_STRONG:
            return f"{b} holds {b} on average ({b} to {b}); 19 of 20 such pieces should hold {b}."
        case QuestionKind.HOW_DOES_IT_FAIL:
            return f"With {b}, {b} of {n} failed in the glue; with {b}, {b} of {n} in the wood."
        case QuestionKind.DOES_IT_DEPEND:
            return f"Yes / No: in {b} {b} holds {b} % more than {base}, in {b} there is no difference."
        case QuestionKind.IS_IT_TRUE:
            return f"True / Not true / Not shown: {b} ({b}) holds {b} % of {base}; {share} was claimed."
        case QuestionKind.WHICH_FOR_WHAT:
            return f"Use {b} for {b} and {b} for {b}: every piece passed your rule, and it is the cheapest of those."
        case QuestionKind.IS_IT_WORTH_IT:
            return f"{b} ({b}, {b} a joint) is beaten by no other on strength and price; {b} is beaten on both."
    return ""


def _name(f: Factor | None, level: str) -> str:
    found = next((x for x in f.levels if x.id == level), None) if f is not None else None
    return level_name(f.key, found) if f is not None and found is not None else BLANK


def _ends(f: Factor) -> str:
    if not f.levels:
        return f"{BLANK} and {BLANK}"
    return f"{level_name(f.key, f.levels[0])} and {level_name(f.key, f.levels[-1])}"
