"""The plan as a document: what a batch asks, varies, holds constant and makes.

The document is versioned JSON. A draft may be incomplete; ``problems`` says what keeps it from being locked and
``warnings`` what the user should know. Quantities are in SI (``pressure_mpa``, ``clamp_s``), free ones in their own
unit.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field, replace
from typing import Any, TypeVar

from adhaero.core.breaking.pace import Pace
from adhaero.core.breaking.trace import PEAK
from adhaero.core.glue.pressing import PRESSED
from adhaero.core.method import Method, nominal_sizes
from adhaero.core.method_catalogue import METHODS
from adhaero.core.parents import Parents
from adhaero.core.plan.fields import FIELDS, value_name
from adhaero.core.plan.judging import Judging
from adhaero.core.properties import Property
from adhaero.core.protocol import ProtocolStep
from adhaero.core.quantity import BASE, Dimension
from adhaero.core.questions.question import Question
from adhaero.core.refusal import Problem, Refusal
from adhaero.core.units import as_typed

FORMAT = 8
"""2 brought joint forms, single treatments and the costs; 3 brought tolerances, spares, dummies, claims and side
questions that name their treatments; in 4 everything is named by ids, never by position, label or wording; 5 brought
glues of the user's own, levels in words beside numbers and the order of levels; 6 sizes of a form's or a treatment's
own, 7 parents, 8 questions with their kinds. Older documents are read as what they meant (core.plan.formats).
"""
MAX_SPECIMENS = 5000
Value = str | float | None


@dataclass(frozen=True)
class Level:
    """One level of a factor: a text, a number (known quantities in SI), or ``None`` for 'none'.

    ``unit`` is the unit it was typed in, for showing it the same way. ``id`` names the level within its factor for
    good: retyping "4 h" as "240 min" leaves everything that is tied to it where it is. ``late`` ones came by an
    amendment: by which, counted from 1.
    """

    value: Value
    unit: str = ""
    id: str = field(default="", compare=False)
    late: int = field(default=0, compare=False)


@dataclass(frozen=True)
class Factor:
    """What is varied. ``key`` is a field of the record, or a key of the user's own with its ``name``.

    ``order`` is how its levels stand: by "value" where they are numbers, or as "typed". One that is ``whole`` has one
    level for everything that is glued at once: the air, a mix.
    """

    key: str
    name: str
    levels: tuple[Level, ...]
    order: str = "typed"
    whole: bool = False

    def __post_init__(self) -> None:
        """Every level has its own id."""
        object.__setattr__(self, "levels", _identified(self.levels, "l"))

    def place(self, level_id: str) -> int | None:
        """The place of the level with that id."""
        return next((i for i, level in enumerate(self.levels) if level.id == level_id), None)


@dataclass(frozen=True)
class Product:
    """What a glue level of the user's own stands for: a bottle of the shop, a product or a mixture.

    ``family`` keeps its cautions, times and limits where ``label`` (see core.glue.limits) states none; empty for a glue
    of no known family. ``bottle`` is the shop's bottle that it is taken from. ``thinned_pct`` is in percent.
    """

    family: str = ""
    label: Mapping[str, float] = field(default_factory=dict)
    bottle: int | None = None
    grade: str = ""
    thickness: str = ""
    additive: str = ""
    thinned_pct: float | None = None


@dataclass(frozen=True)
class OwnWood:
    """What a wood (or sheet material) that is not listed bears, in MPa along its grain and crushed across it; density
    in kg/m3, tangential shrinkage in %. ``source`` says where the figures come from. A sheet has ``plies`` (0 for one
    without a grain) and a ``grade``; along its grain is along that of its faces.
    """

    shear_mpa: float | None = None
    bending_mpa: float | None = None
    crush_across_mpa: float | None = None
    density_kg_m3: float | None = None
    shrink_tangential_pct: float | None = None
    source: str = ""
    plies: int | None = None
    grade: str = ""


@dataclass(frozen=True)
class AddedComparison:
    """Two treatments (ids) that the user wants compared beside what follows from the factors."""

    first: str
    second: str
    id: str = ""


@dataclass(frozen=True)
class Compared:
    """What the user changed of the comparisons that follow from the plan (core.plan.comparisons): those ``struck`` out
    and those made over ``every_pair`` of levels (by the family's id), and those ``added``.
    """

    struck: tuple[str, ...] = ()
    every_pair: tuple[str, ...] = ()
    added: tuple[AddedComparison, ...] = ()

    def __post_init__(self) -> None:
        """Every added one has its own id."""
        object.__setattr__(self, "added", _identified(self.added, "a"))


TIED = {"questions": "k", "extras": "x", "side_questions": "q", "claims": "c", "protocol": "s", "properties": "p"}
"""Parts of a plan that other parts and records are tied to, with what their ids begin with."""


@dataclass(frozen=True)
class Blocks:
    """Planned blocks: every one of them holds every treatment, as evenly as their numbers allow. ``kind`` is what a
    block is (core.plan.blocks).
    """

    kind: str
    count: int


T = TypeVar("T", "Level", "Extra", "Asked", "AddedComparison", ProtocolStep, Property)


def _identified(things: Sequence[T], prefix: str) -> tuple[T, ...]:
    """The things, those without an id (or with one that stands before) given the next free one."""
    found: list[T] = []
    taken = {x.id for x in things if x.id}
    seen: set[str] = set()
    for x in things:
        own = x.id
        if not own or own in seen:
            own = next(f"{prefix}{n}" for n in range(1, len(things) + len(taken) + 2) if f"{prefix}{n}" not in taken)
            taken.add(own)
        seen.add(own)
        found.append(x if own == x.id else replace(x, id=own))
    return tuple(found)


@dataclass(frozen=True)
class Outcome:
    """A word of the plan's own for how a piece gave way, with the failure ``mode`` that it stands for."""

    word: str
    mode: str


@dataclass(frozen=True)
class Assumptions:
    """What the advice before and the verdict after are based on; shares are fractions. A mixed failure
    with ``mixed_at_pct`` of wood or more counts as one of the wood where the bond is asked for.
    """

    cv: float = 0.15
    alpha: float = 0.05
    power: float = 0.8
    matters: float = 0.10
    fallen_as_zero: bool = True
    mixed_at_pct: float = 50.0
    humidity_low_pct: float = 35.0
    humidity_high_pct: float = 65.0


@dataclass(frozen=True)
class Costs:
    """What a piece takes, for the count of hours and money; times in s, prices in the user's currency."""

    cut_s: float = 240.0
    glue_s: float = 150.0
    break_s: float = 180.0
    wood_per_m3: float = 2400.0
    glue_per_kg: float = 15.0
    spread_g_m2: float = 180.0


@dataclass(frozen=True)
class Extra:
    """A single treatment outside the grid: the plan's usual record with ``changes`` over it.

    ``control`` is what it serves as: plain, untreated, dry, time-zero, standard, or nothing. ``late`` ones came by an
    amendment (by which, counted from 1) and are lettered after everything else.
    """

    label: str
    changes: Mapping[str, Level]
    replicates: int
    control: str | None = None
    late: int = 0
    id: str = field(default="", compare=False)


@dataclass(frozen=True)
class Asked:
    """A side question, or a claim to be tested, with the ids of the treatments that answer it. A side question may be
    set ``against`` one of them, its own control.

    A claim may be put in figures: that its treatments each are what it ``says`` (core.compare.claim_end) ``against``
    another treatment (its id), of which they are to bear the ``share``.
    """

    text: str
    treatments: tuple[str, ...] = ()
    id: str = field(default="", compare=False)
    says: str = ""
    against: str = ""
    share: float = 1.0


Cell = Mapping[str, str]
"""Cells of the grid by id: factor key -> level id. A factor that is not named stands for each of its levels."""


@dataclass(frozen=True)
class Plan:
    """A plan. ``constants`` holds the fields that are not varied; ``control`` the id of each factor's control level.

    ``dropped`` lists cells that are not made, ``extra_replicates`` cells with a count of their own, ``extras`` single
    treatments beside the grid. ``start`` names the question that the plan began from,
    ``tolerance_mm`` how far a measured size may be off before the piece is questioned,
    ``guesses`` the load in N that is guessed for a treatment (by its id); locking the plan seals them.
    ``tolerances`` says how far a field may leave its planned value, in its base unit, before it is pointed out.
    ``spares`` are made of every treatment in case one is spoiled, ``dummies`` only fill places in clamps, and
    ``solid_own`` are solid references with a count of their own, by species; ``products`` what a glue level that is no
    mere family stands for, by the level's value. ``solid_as_loaded`` has solid pieces of every direction in which the
    joints are loaded; plans of older formats have the method's usual one only. ``form_sizes`` are sizes that a joint
    form has for itself; ``area_source`` says where the glued area of a form of the user's own comes from. ``woods``
    says what woods bear that are not listed, by name; ``parents`` which pieces are made as one, ``blank_sizes`` the
    length (along the grain), width and thickness in mm that halves are cut to where the user wants them otherwise,
    ``protocol`` the steps that joints go through before they are closed, ``properties`` what the plan judges besides,
    ``blocks`` the days, sessions or set-ups over which treatments are spread, ``strength`` which mark of a curve is the
    strength of a piece (core.breaking.trace), ``pace`` how quickly pieces are to be loaded,
    ``outcomes`` the plan's own words for how a piece gives way, the best first; ``method_name`` what the shop calls a
    method of its own, ``overlap_most`` its own rule for the overlap, in thicknesses, ``joint_off_mm`` how far the line
    of a bent joint lies from the middle of the span, ``compared`` what was changed of the comparisons,
    ``judging`` what counts as good enough, ``questions`` what is asked, the main one first (none: as proposed).
    Treatments of a ``side_question`` stay out of the main comparison.
    """

    question: str = ""
    guess: str = ""
    target: str = "joint"
    policy: str = "same-for-all"
    method: str = "compression-shear"
    sizes: Mapping[str, float] = field(default_factory=dict)
    factors: tuple[Factor, ...] = ()
    constants: Mapping[str, Level] = field(default_factory=dict)
    replicates: int = 6
    control: Cell = field(default_factory=dict)
    solid_reference: int = 4
    dropped: tuple[Cell, ...] = ()
    extra_replicates: tuple[tuple[Cell, int], ...] = ()
    side_questions: tuple[Asked, ...] = ()
    claims: tuple[Asked, ...] = ()
    extras: tuple[Extra, ...] = ()
    start: str = "own"
    tolerance_mm: float = 1.0
    guesses: Mapping[str, float] = field(default_factory=dict)
    tolerances: Mapping[str, float] = field(default_factory=dict)
    spares: int = 0
    dummies: int = 0
    solid_own: Mapping[str, int] = field(default_factory=dict)
    products: Mapping[str, Product] = field(default_factory=dict)
    solid_as_loaded: bool = True
    form_sizes: Mapping[str, Mapping[str, float]] = field(default_factory=dict)
    woods: Mapping[str, OwnWood] = field(default_factory=dict)
    parents: Parents | None = None
    blank_sizes: Mapping[str, float] = field(default_factory=dict)
    protocol: tuple[ProtocolStep, ...] = ()
    properties: tuple[Property, ...] = ()
    blocks: Blocks | None = None
    area_source: str = ""
    strength: str = PEAK
    pace: Pace | None = None
    outcomes: tuple[Outcome, ...] = ()
    method_name: str = ""
    overlap_most: float | None = None
    joint_off_mm: float = 0.0
    compared: Compared = Compared()
    judging: Judging = field(default_factory=Judging)
    questions: tuple[Question, ...] = ()
    assumptions: Assumptions = Assumptions()
    costs: Costs = Costs()
    format: int = FORMAT

    def __post_init__(self) -> None:
        """Everything that can be tied to has an id."""
        for name, prefix in TIED.items():
            object.__setattr__(self, name, _identified(getattr(self, name), prefix))

    def to_json(self) -> dict[str, Any]:
        """The document as plain JSON values."""
        return asdict(self)


def first_plan() -> Plan:
    """The plan a new batch starts from: everything usual, nothing asked yet."""
    return Plan(
        sizes=nominal_sizes(METHODS["compression-shear"]),
        constants={k: usual_level(k) for k, f in FIELDS.items() if f.needed and k != "glue"},
        factors=(Factor("glue", "Glue", ()),),
    )


def usual_level(key: str) -> Level:
    """The usual value of a known field."""
    return Level(FIELDS[key].usual, _usual_unit(FIELDS[key].dimension))


def _usual_unit(dimension: Dimension | None) -> str:
    usual = {Dimension.TIME: "h", Dimension.STRESS: "MPa", Dimension.LENGTH: "mm", Dimension.SPREAD: "g/m²"}
    return usual.get(dimension, "") if dimension else ""


def level_name(key: str, level: Level) -> str:
    """A level in words: the choice's name, or the number in the unit it was typed in."""
    if level.value is None:
        return "not stated" if key in FIELDS and FIELDS[key].dimension else "none"
    known = FIELDS.get(key)
    if isinstance(level.value, str):
        return value_name(key, level.value)
    if known is not None and known.dimension is not None:
        return as_typed(level.value, known.dimension, level.unit or BASE[known.dimension])
    return f"{level.value:g} {level.unit}".strip()


def treatment_name(factor: Factor, level: Level) -> str:
    """A level as it names a treatment: a glue or a species speaks for itself, a number needs its factor's name."""
    name = level_name(factor.key, level)
    known = FIELDS.get(factor.key)
    if known is not None and known.words and isinstance(level.value, str):
        return PRESSED.get(level.value, name.lower())
    speaks = known is not None and known.choices is not None
    return name if speaks else f"{factor.name.lower()} {name}"


def method_of(plan: Plan) -> Method:
    """The plan's method; ``Refusal`` if it is unknown."""
    found = METHODS.get(plan.method)
    if found is None:
        raise Refusal([Problem("method", f"{plan.method!r} is not a test method", "Choose one from the list.")])
    return found


def level_text(level: Level | None) -> str | None:
    """The text of a level; ``None`` for a number or nothing."""
    return level.value if level is not None and isinstance(level.value, str) else None
