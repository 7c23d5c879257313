"""What is sent to the plan stage: checked for shape and size here, for sense in the core."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from adhaero.api.judging_bodies import JudgingIn
from adhaero.api.wire import Short, Strict
from adhaero.core.breaking.trace import PEAK
from adhaero.core.questions.question import Question, QuestionKind


class BatchIn(Strict):
    """A new batch."""

    name: str = Field(max_length=1000)
    start: str = Field("own", max_length=40)


class CopyIn(Strict):
    """A new batch with a copy of a plan."""

    name: str = Field(max_length=1000)


class LevelIn(Strict):
    """A level: text, number (known quantities in their base unit), or null for 'none'."""

    value: Short | float | None
    unit: str = Field("", max_length=20)
    id: str = Field("", max_length=40)
    late: int = 0


class FactorIn(Strict):
    """A factor with its levels."""

    key: str = Field(max_length=60)
    name: Short
    levels: list[LevelIn] = Field(max_length=64)
    order: Literal["value", "typed"] = "typed"
    whole: bool = False


class ProductIn(Strict):
    """What a glue level of the user's own stands for; its label as in a bottle's."""

    family: str = Field("", max_length=40)
    label: dict[str, float] = Field(max_length=20)
    bottle: int | None = None
    grade: str = Field("", max_length=80)
    thickness: str = Field("", max_length=80)
    additive: str = Field("", max_length=80)
    thinned_pct: float | None = None


class OwnWoodIn(Strict):
    """What a wood bears that is not listed: MPa, kg/m3, %."""

    shear_mpa: float | None = None
    bending_mpa: float | None = None
    crush_across_mpa: float | None = None
    density_kg_m3: float | None = None
    shrink_tangential_pct: float | None = None
    source: str = Field("", max_length=500)
    plies: int | None = None
    grade: str = Field("", max_length=500)


class LevelListIn(Strict):
    """Levels of a field as they were listed; a bare number is in ``unit`` where no later entry has one."""

    field: str = Field(max_length=60)
    text: str = Field(max_length=20_000)
    unit: str = Field("", max_length=20)
    method: str = Field("", max_length=60)


class AssumptionsIn(Strict):
    """Assumed scatter and error rates, as shares."""

    cv: float
    alpha: float
    power: float
    matters: float
    fallen_as_zero: bool
    mixed_at_pct: float = Field(50.0, ge=0, le=100)
    humidity_low_pct: float = Field(35.0, ge=0, le=99)
    humidity_high_pct: float = Field(65.0, ge=0, le=99)


class CostsIn(Strict):
    """What a piece takes: times in s, prices in the user's currency."""

    cut_s: float = Field(ge=0, le=86400)
    glue_s: float = Field(ge=0, le=86400)
    break_s: float = Field(ge=0, le=86400)
    wood_per_m3: float = Field(ge=0, le=1e6)
    glue_per_kg: float = Field(ge=0, le=1e6)
    spread_g_m2: float = Field(ge=0, le=5000)


class ExtraIn(Strict):
    """A single treatment outside the grid."""

    label: Short
    changes: dict[str, LevelIn]
    replicates: int
    control: str | None = Field(None, max_length=20)
    late: int = 0
    id: str = Field("", max_length=40)


class ProtocolStepIn(Strict):
    """A step that joints go through before they are closed."""

    text: str = Field(max_length=500)
    treatments: list[Short] = Field([], max_length=128)
    wait_s: float | None = None
    within_s: float | None = None
    id: str = Field("", max_length=40)


class PropertyIn(Strict):
    """A property of the plan's own: a number with its unit, or grades, the lowest first."""

    name: str = Field(max_length=200)
    of: Literal["board", "bottle", "joint", "face", "reading"] = "joint"
    when: Literal["before", "at", "after"] = "before"
    unit: str = Field("", max_length=40)
    grades: list[Annotated[str, Field(max_length=60)]] = Field([], max_length=20)
    id: str = Field("", max_length=40)


class BlocksIn(Strict):
    """Planned blocks: see core.plan.blocks."""

    kind: Literal["day", "session", "maker", "set-up", "tester"]
    count: int


class PaceIn(Strict):
    """How quickly pieces are to be loaded: see core.breaking.pace."""

    kind: Literal["time", "force", "travel"]
    low: float
    high: float


class OutcomeIn(Strict):
    """A word of the plan's own for how a piece gave way, and the failure mode that it stands for."""

    word: str = Field(max_length=60)
    mode: str = Field(max_length=40)


class ParentsIn(Strict):
    """How pieces are made together: see core.parents."""

    kind: Literal["panel", "beam", "backing"]
    each: int = 1
    within: list[Short] = Field([], max_length=8)
    length_mm: float | None = None
    between_mm: float = 3.0


class AskedIn(Strict):
    """A side question or a claim, with the ids of the treatments that answer it."""

    text: str = Field(max_length=2000)
    treatments: list[Short] = Field([], max_length=128)
    id: str = Field("", max_length=40)
    says: str = Field("", max_length=20)
    against: str = Field("", max_length=2000)
    share: float = Field(1.0, gt=0, le=10)


Cell = Annotated[dict[str, Short], Field(max_length=8)]
"""A cell of the grid: factor key -> level id."""


class AddedComparisonIn(Strict):
    """Two treatments to be compared beside what follows from the factors."""

    first: str = Field(max_length=200)
    second: str = Field(max_length=200)
    id: str = Field("", max_length=20)


class ComparedIn(Strict):
    """What is changed of the comparisons that follow from the plan."""

    struck: list[Short] = Field([], max_length=500)
    every_pair: list[Short] = Field([], max_length=20)
    added: list[AddedComparisonIn] = Field([], max_length=100)


class QuestionIn(Strict):
    """A question: its kind, what it is of, and what it is held against."""

    kind: QuestionKind
    of: str = Field("", max_length=200)
    along: str = Field("", max_length=200)
    against: str = Field("", max_length=200)
    within: str = Field("", max_length=200)
    share: float = Field(0.9, gt=0, le=5)
    figure: Literal["strength", "load", "pass", "time", "cost"] = "strength"
    judge_by: Literal["average", "weakest", "wood", "limit"] = "average"
    words: str = Field("", max_length=5000)
    late: bool = False
    id: str = Field("", max_length=40)

    def question(self) -> Question:
        """The question as the core knows it."""
        return Question(**self.model_dump())


class QuestionsIn(Strict):
    """What a locked plan asks from now on, the main question first."""

    questions: list[QuestionIn] = Field(max_length=12)


class PlanDocument(Strict):
    """The plan as a document; see docs/data-format.md."""

    format: int
    question: str = Field(max_length=5000)
    guess: str = Field(max_length=10_000)
    target: Literal["joint", "adhesive"]
    policy: Literal["same-for-all", "by-label"]
    method: str = Field(max_length=60)
    sizes: dict[str, float]
    factors: list[FactorIn] = Field(max_length=8)
    constants: dict[str, LevelIn]
    replicates: int
    control: Cell
    solid_reference: int
    dropped: list[Cell] = Field(max_length=4096)
    extra_replicates: list[tuple[Cell, int]] = Field(max_length=4096)
    questions: list[QuestionIn] = Field([], max_length=12)
    side_questions: list[AskedIn] = Field([], max_length=20)
    claims: list[AskedIn] = Field([], max_length=40)
    assumptions: AssumptionsIn
    extras: list[ExtraIn] = Field([], max_length=128)
    start: str = Field("own", max_length=40)
    tolerance_mm: float = 1.0
    guesses: dict[str, float] = Field({}, max_length=500)
    tolerances: dict[str, float] = Field({}, max_length=20)
    spares: int = 0
    dummies: int = 0
    solid_own: dict[str, int] = Field({}, max_length=64)
    solid_as_loaded: bool = True
    products: dict[Short, ProductIn] = Field({}, max_length=200)
    form_sizes: dict[Short, dict[str, float]] = Field({}, max_length=40)
    area_source: str = Field("", max_length=1000)
    woods: dict[Short, OwnWoodIn] = Field({}, max_length=64)
    parents: ParentsIn | None = None
    blank_sizes: dict[Literal["length", "width", "thickness"], float] = Field({}, max_length=3)
    protocol: list[ProtocolStepIn] = Field([], max_length=40)
    properties: list[PropertyIn] = Field([], max_length=40)
    blocks: BlocksIn | None = None
    strength: str = Field(PEAK, max_length=20)
    pace: PaceIn | None = None
    outcomes: list[OutcomeIn] = Field([], max_length=9)
    method_name: str = Field("", max_length=200)
    overlap_most: float | None = None
    joint_off_mm: float = 0.0
    compared: ComparedIn = Field(default_factory=lambda: ComparedIn.model_validate({}))
    judging: JudgingIn = Field(default_factory=lambda: JudgingIn.model_validate({}))
    costs: CostsIn = CostsIn(cut_s=240, glue_s=150, break_s=180, wood_per_m3=2400, glue_per_kg=15, spread_g_m2=180)


class ListingIn(Strict):
    """A field with its levels as they are listed, the control first."""

    key: str = Field(max_length=60)
    text: str = Field(max_length=20_000)
    unit: str = Field("", max_length=20)


class CrossingIn(Strict):
    """A further crossing for a document."""

    document: PlanDocument
    question: str = Field(max_length=1000)
    factors: list[ListingIn] = Field(max_length=6)
    replicates: int


class PlanFileIn(Strict):
    """A plan as it was exported, by this version or an older one, for a new batch."""

    name: str = Field(max_length=1000)
    document: dict[str, Any]


class PlanIn(Strict):
    """A draft to save over version ``version``."""

    version: int
    name: str = Field(max_length=1000)
    document: PlanDocument


class StartIn(Strict):
    """Begin version ``version`` of the draft anew from a question."""

    version: int
    start: str = Field(max_length=40)


class VersionIn(Strict):
    """Change version ``version``."""

    version: int


class LockIn(Strict):
    """Lock version ``version``; ``seed`` gives the random orders of another batch once more."""

    version: int
    seed: int | None = Field(None, ge=0, le=2**53)


class MoreIn(Strict):
    """More pieces of a treatment, and why."""

    treatment: str = Field(max_length=10)
    count: int
    reason: str = Field(max_length=1000)


class LeaveOutIn(Strict):
    """Treatments to leave out from now on, and why."""

    treatments: list[Annotated[str, Field(max_length=10)]] = Field(min_length=1, max_length=128)
    reason: str = Field(max_length=1000)


class ControlIn(Strict):
    """Another treatment for the control of a locked plan, and why."""

    treatment: str = Field(max_length=10)
    reason: str = Field(max_length=1000)


class ConstantIn(Strict):
    """A constant of a locked plan to hold at another value from now on, and why."""

    field: str = Field(max_length=60)
    level: LevelIn
    reason: str = Field(max_length=1000)


class ProtocolIn(Strict):
    """Steps to keep under a name."""

    name: str = Field(max_length=1000)
    steps: list[ProtocolStepIn] = Field(min_length=1, max_length=40)


class NewLevelIn(Strict):
    """A further level of a factor across the grid, how many pieces of each new treatment, and why."""

    factor: str = Field(max_length=60)
    level: LevelIn
    count: int
    reason: str = Field(max_length=1000)


class DrawIn(Strict):
    """Pieces to draw from store for a break at another age, and why."""

    treatment: str = Field(max_length=10)
    count: int
    age: LevelIn
    reason: str = Field(max_length=1000)


class GuessIn(Strict):
    """What somebody guesses before the first break."""

    how: Literal["load", "share", "rank", "outcome"]
    values: dict[Annotated[str, Field(max_length=10)], float] = Field({}, max_length=128)
    order: list[Annotated[str, Field(max_length=10)]] = Field([], max_length=128)
    words: str = Field("", max_length=1000)


class RejudgeIn(Strict):
    """What counts as good enough from now on in a locked plan, and why."""

    judging: JudgingIn
    reason: str = Field(max_length=1000)


class TreatmentIn(Strict):
    """A further single treatment of a locked plan, and why."""

    treatment: ExtraIn
    reason: str = Field(max_length=1000)
