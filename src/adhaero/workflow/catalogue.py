"""What the screens offer: fields and their choices, units, glue families, methods; and the reading of typed
quantities.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from adhaero.core.breaking.trace import STRENGTHS
from adhaero.core.glue.joint_records import KINDS
from adhaero.core.joint import ORIENTATIONS
from adhaero.core.joint_forms import FORMS
from adhaero.core.materials.bottle import EVENTS
from adhaero.core.materials.glue import GLUES, SOURCE
from adhaero.core.materials.wood import WOODS
from adhaero.core.method import FAILURE_NAMES
from adhaero.core.method_catalogue import METHODS
from adhaero.core.plan.claim_kinds import SAYS
from adhaero.core.plan.fields import FIELDS
from adhaero.core.plan.questions import QUESTIONS
from adhaero.core.quantity import BASE, OTHER, UNITS, Dimension, parse
from adhaero.core.refusal import refuse
from adhaero.core.tolerances import WATCHED
from adhaero.core.units import Units, as_typed


@dataclass(frozen=True)
class FieldView:
    """A field of the record. ``choices`` are (key, name), empty for quantities."""

    key: str
    name: str
    choices: list[tuple[str, str]]
    free_text: bool
    dimension: str | None
    needed: bool
    words: list[tuple[str, str]]


@dataclass(frozen=True)
class UnitView:
    """A unit: ``value * factor + offset`` is the value in the base unit."""

    symbol: str
    dimension: str
    factor: float
    offset: float
    other: str | None


@dataclass(frozen=True)
class MethodSize:
    """A size of a method; mm."""

    key: str
    name: str
    nominal: float
    unit: str


@dataclass(frozen=True)
class MethodView:
    """A test method."""

    key: str
    name: str
    blurb: str
    sizes: list[MethodSize]
    figure_name: str
    figure_dimension: str
    cautions: list[str]
    forms: list[tuple[str, str]]
    solid: bool
    overlap_most: float | None
    bent: bool


@dataclass(frozen=True)
class QuestionView:
    """A question to start from."""

    key: str
    name: str
    question: str
    hint: str


@dataclass(frozen=True)
class FamilyView:
    """A glue family; times in s, pressures in MPa."""

    key: str
    name: str
    open_s: float
    clamp_s: float
    cure_s: float
    pressure_low_mpa: float
    pressure_high_mpa: float
    caution: str
    source: str


@dataclass(frozen=True)
class WoodView:
    """A wood; MPa and kg/m3."""

    key: str
    name: str
    density_kg_m3: float
    shear_mpa: float
    crush_across_mpa: float
    source: str


@dataclass(frozen=True)
class PartView:
    """A part of what may be told of a joint: one of ``choices``, ``words``, or a number of ``unit``."""

    key: str
    name: str
    choices: list[str]
    words: bool
    unit: str


@dataclass(frozen=True)
class JointRecordView:
    """A kind of thing that may be told of a glued joint."""

    key: str
    name: str
    parts: list[PartView]


@dataclass(frozen=True)
class ToleratedView:
    """A field that is held against its plan; ``usual`` tells whether it has a usual tolerance."""

    key: str
    usual: bool


@dataclass(frozen=True)
class CatalogueView:
    """Everything the screens offer that does not depend on the user's data."""

    fields: list[FieldView]
    units: list[UnitView]
    base_units: dict[str, str]
    methods: list[MethodView]
    glues: list[FamilyView]
    woods: list[WoodView]
    faces: dict[str, tuple[str, str, float]]
    failure_modes: dict[str, str]
    questions: list[QuestionView]
    joint_records: list[JointRecordView]
    bottle_events: dict[str, str]
    claims: dict[str, str]
    tolerated: list[ToleratedView]
    strengths: dict[str, str]


@lru_cache(maxsize=1)
def view() -> CatalogueView:
    """The reference, made once."""
    return CatalogueView(
        fields=[
            FieldView(f.key, f.name, list((f.choices or {}).items()), f.free_text, f.dimension, f.needed,
                      list(f.words.items()))
            for f in FIELDS.values()
        ],
        units=[
            UnitView(u.symbol, u.dimension, float(u.factor), float(u.offset), OTHER.get(u.symbol)) for u in
            UNITS.values() ],
        base_units={d.value: s for d, s in BASE.items()},
        methods=[
            MethodView(
                m.key, m.name, m.blurb, [MethodSize(s.key, s.name, s.nominal, s.unit) for s in m.sizes], m.figure_name,
                m.figure_dimension.value,
                list(m.cautions), [(f, FORMS[f].name) for f in m.forms], m.solid,
                m.overlap_rule[0] if m.overlap_rule else None, "span" in m.setup_sizes,
            )
            for m in METHODS.values()
        ],
        glues=[
            FamilyView(
                g.key, g.name, g.open_s, g.clamp_s, g.cure_s, g.pressure_low_mpa, g.pressure_high_mpa, g.caution, SOURCE
            )
            for g in GLUES.values()
        ],
        woods=[
            WoodView(x.key, x.name, x.density_kg_m3, x.shear_mpa, x.crush_across_mpa, x.source) for x in WOODS.values()
        ],
        faces={o.key: (o.face_a.value, o.face_b.value, o.grain_angle_deg) for o in ORIENTATIONS.values()},
        failure_modes=dict(FAILURE_NAMES),
        questions=[QuestionView(q.key, q.name, q.question, q.hint) for q in QUESTIONS.values()],
        joint_records=[
            JointRecordView(
                k.key, k.name, [PartView(a.key, a.name, list(a.choices), a.words, a.unit) for a in k.parts]
            )
            for k in KINDS.values()
        ],
        bottle_events=dict(EVENTS),
        claims=dict(SAYS),
        strengths=STRENGTHS,
        tolerated=[ToleratedView(key, watched.share is not None) for key, watched in WATCHED.items()],
    )  # fmt: skip


@dataclass(frozen=True)
class ParsedQuantity:
    """What was understood: the value in the base unit, the unit typed, how to show it, and the other system's view."""

    value: float
    unit: str
    shown: str
    other: str | None


def parse_typed(text: str, dimension: str, default_unit: str) -> ParsedQuantity:
    """Read a typed quantity. ``Refusal`` names the field ``value`` or ``unit``."""
    try:
        d = Dimension(dimension)
    except ValueError:
        raise refuse("dimension", f"{dimension[:40]!r} is not a dimension", "Use length, force, time, ...") from None
    q = parse(text, d, default_unit)
    symbol = q.unit.symbol
    other = OTHER.get(symbol)
    text = as_typed(q.base, d, symbol)
    return ParsedQuantity(q.base, symbol, text, Units(((d, other),)).text(q.base, d) if other else None)
