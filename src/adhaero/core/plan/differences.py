"""Two plans side by side: everything in which the way of testing differs."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass

from adhaero.core.breaking.trace import STRENGTHS
from adhaero.core.joint_forms import FORMS
from adhaero.core.method_catalogue import METHODS
from adhaero.core.parents import KINDS
from adhaero.core.plan.blocks import KINDS as KINDS_OF_BLOCKS
from adhaero.core.plan.document import Factor, Level, Plan, level_name
from adhaero.core.plan.fields import FIELDS
from adhaero.core.plan.records import whole_factors


@dataclass(frozen=True)
class Difference:
    """One point in words: what it is, and how each plan has it. ``weighs``: results cannot simply be put together."""

    what: str
    first: str
    second: str
    weighs: bool


_NOT = "not stated"


def differences(a: Plan, b: Plan) -> list[Difference]:
    """Everything in which two plans differ, what weighs most first."""
    found = [*_method(a, b), *_record(a, b), *_factors(a, b), *_numbers(a, b)]
    return sorted((d for d in found if d.first != d.second), key=lambda d: not d.weighs)


def _method(a: Plan, b: Plan) -> Iterator[Difference]:
    names = {k: m.name for k, m in METHODS.items()}
    yield Difference("Method", names.get(a.method, a.method), names.get(b.method, b.method), True)
    targets = {"joint": "the joint", "adhesive": "the adhesive"}
    yield Difference("What is tested", targets[a.target], targets[b.target], True)
    policies = {"same-for-all": "same for all", "by-label": "each by its label"}
    own = [p.method_name or _NOT for p in (a, b)]
    yield Difference("Method in own words", own[0], own[1], True)
    off = [f"{p.joint_off_mm:g} mm" for p in (a, b)]
    yield Difference("Joint off the middle", off[0], off[1], True)
    yield Difference("Strength", STRENGTHS[a.strength], STRENGTHS[b.strength], True)
    paces = [p.pace.in_words() if p.pace else _NOT for p in (a, b)]
    yield Difference("Pace of loading", paces[0], paces[1], True)
    words = [", ".join(o.word for o in p.outcomes) or "the usual ones" for p in (a, b)]
    yield Difference("Words for how it gave way", words[0], words[1], False)
    yield Difference("Policy", policies[a.policy], policies[b.policy], True)
    known = {s.key: s for m in METHODS.values() for s in m.sizes_for(m.forms)}
    for key in {**a.sizes, **b.sizes}:
        size = known.get(key)
        unit = f" {size.unit}" if size and size.unit else ""
        texts = [f"{p.sizes[key]:g}{unit}" if key in p.sizes else _NOT for p in (a, b)]
        yield Difference(size.name if size else key, texts[0], texts[1], weighs=True)

    for form in {**a.form_sizes, **b.form_sizes}:
        both = [p.form_sizes.get(form, {}) for p in (a, b)]
        for key in {**both[0], **both[1]}:
            size = known.get(key)
            unit = f" {size.unit}" if size and size.unit else ""
            first, second = (f"{own[key]:g}{unit}" if key in own else _NOT for own in both)
            yield Difference(f"{FORMS[form].name}: {size.name.lower() if size else key}", first, second, weighs=True)


def _record(a: Plan, b: Plan) -> Iterator[Difference]:
    varied = {f.key for f in (*a.factors, *b.factors)}
    for key in {**a.constants, **b.constants}:
        if key in varied:
            continue
        name = FIELDS[key].name if key in FIELDS else key
        yield Difference(name, _held(a.constants, key), _held(b.constants, key), True)


def _held(constants: Mapping[str, Level], key: str) -> str:
    return level_name(key, constants[key]) if key in constants else _NOT


def _factors(a: Plan, b: Plan) -> Iterator[Difference]:
    mine, theirs = ({f.key: f for f in p.factors} for p in (a, b))
    for key in {**mine, **theirs}:
        texts = [_levels(own[key]) if key in own else f"held: {_held(p.constants, key)}"
                 for own, p in ((mine, a), (theirs, b))]  # fmt: skip
        yield Difference((mine.get(key) or theirs[key]).name, texts[0], texts[1], weighs=False)


def _levels(f: Factor) -> str:
    return ", ".join(level_name(f.key, level) for level in f.levels) or "no level"


def _together(p: Plan) -> str:
    if p.parents is None:
        return "each on its own"
    names = {f.key: f.name.lower() for f in p.factors}
    within = ", ".join(names.get(k, k) for k in p.parents.within)
    kind = KINDS[p.parents.kind].name.lower()
    return f"{p.parents.each} of each in a {kind}" + (f", {within} within it" if within else "")


_NUMBERS: tuple[tuple[str, Callable[[Plan], str]], ...] = (
    ("Pieces of each", lambda p: str(p.replicates)),
    ("Solid reference", lambda p: str(p.solid_reference)),
    ("Spares of each", lambda p: str(p.spares)),
    ("Single treatments", lambda p: ", ".join(e.label for e in p.extras) or "none"),
    ("Made together", lambda p: _together(p)),
    ("Blocks", lambda p: f"{p.blocks.count} of {KINDS_OF_BLOCKS[p.blocks.kind]}" if p.blocks else "none"),
    ("Halves cut to", lambda p: ", ".join(f"{k} {v:g} mm" for k, v in p.blank_sizes.items()) or "as it takes"),
    ("One for a glue-up", lambda p: ", ".join(f.name for f in whole_factors(p)) or "nothing"),
    ("Tolerances", lambda p: ", ".join(f"{FIELDS[k].name} ±{v:g}" for k, v in p.tolerances.items()) or "none"),
    ("Difference that matters", lambda p: f"{100 * p.assumptions.matters:g} %"),
)


def _numbers(a: Plan, b: Plan) -> Iterator[Difference]:
    yield Difference("Question", a.question or "none", b.question or "none", False)
    for name, get in _NUMBERS:
        yield Difference(name, get(a), get(b), False)
    fallen = ["counted as zero" if p.assumptions.fallen_as_zero else "beside the mean" for p in (a, b)]
    yield Difference("Pieces that fell apart", fallen[0], fallen[1], True)
