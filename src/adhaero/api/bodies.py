"""What is sent to a batch, stage by stage: checked for shape and size here, for sense in the core."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import Field

from adhaero.api.shop import Strict

Stage = Literal["plan", "cut", "glue", "break", "compare"]
Short = Annotated[str, Field(max_length=200)]
Code = Annotated[str, Field(max_length=40)]
Codes = Annotated[list[Code], Field(max_length=5000)]


class Id(Strict):
    """The id of something new."""

    id: int


class Done(Strict):
    """How many things an action touched."""

    pieces: int


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


class FactorIn(Strict):
    """A factor with its levels."""

    key: str = Field(max_length=60)
    name: Short
    levels: list[LevelIn] = Field(max_length=64)


class AssumptionsIn(Strict):
    """Assumed scatter and error rates, as shares."""

    cv: float
    alpha: float
    power: float
    matters: float
    fallen_as_zero: bool
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
    late: bool = False


class AskedIn(Strict):
    """A side question or a claim, with the labels of the treatments that answer it."""

    text: str = Field(max_length=2000)
    treatments: list[Short] = Field([], max_length=64)


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
    control: list[int] | None
    solid_reference: int
    dropped: list[list[int]]
    extra_replicates: list[tuple[list[int], int]]
    side_questions: list[AskedIn] = Field([], max_length=20)
    claims: list[AskedIn] = Field([], max_length=40)
    assumptions: AssumptionsIn
    extras: list[ExtraIn] = Field([], max_length=40)
    start: str = Field("own", max_length=40)
    tolerance_mm: float = 1.0
    guesses: dict[str, float] = Field({}, max_length=500)
    tolerances: dict[str, float] = Field({}, max_length=20)
    spares: int = 0
    dummies: int = 0
    solid_own: dict[str, int] = Field({}, max_length=40)
    costs: CostsIn = CostsIn(cut_s=240, glue_s=150, break_s=180, wood_per_m3=2400, glue_per_kg=15, spread_g_m2=180)


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


class LockIn(Strict):
    """Lock version ``version``."""

    version: int


class MoreIn(Strict):
    """More pieces of a treatment, and why."""

    treatment: str = Field(max_length=10)
    count: int
    reason: str = Field(max_length=1000)


class LeaveOutIn(Strict):
    """A treatment to leave out from now on, and why."""

    treatment: str = Field(max_length=10)
    reason: str = Field(max_length=1000)


class ConstantIn(Strict):
    """A constant of a locked plan to hold at another value from now on, and why."""

    field: str = Field(max_length=60)
    level: LevelIn
    reason: str = Field(max_length=1000)


class TreatmentIn(Strict):
    """A further single treatment of a locked plan, and why."""

    treatment: ExtraIn
    reason: str = Field(max_length=1000)


class ClaimIn(Strict):
    """How a claim of the plan ended."""

    text: str = Field(max_length=2000)
    state: str = Field(max_length=40)
    note: str = Field("", max_length=2000)


class SizeIn(Strict):
    """A cell of the cut sheet as typed."""

    code: Code
    quantity: str = Field(max_length=40)
    text: str = Field(max_length=10_000)


class SizesIn(Strict):
    """Cells to save, all or none."""

    cells: list[SizeIn] = Field(min_length=1, max_length=20_000)


class SawIn(Strict):
    """How the boards are cut, mm, and which ones (all of the shop without a list)."""

    kerf: float = 3.0
    end_trim: float = 25.0
    edge_trim: float = 5.0
    planing: float = 2.0
    jointing: float = 1.0
    boards: list[int] | None = Field(None, max_length=1000)
    share: Literal["fewest", "all", "treatment"] = "fewest"


class CodeIn(Strict):
    """A piece."""

    code: Code


class DefectIn(Strict):
    """A fault of a member."""

    side: str = Field(max_length=4)
    text: str = Field(max_length=1000)


class StepIn(Strict):
    """One thing done to a face; ``at`` is when, in ISO 8601."""

    side: str = Field(max_length=4)
    step: str = Field(max_length=500)
    grit: int | None = None
    amount_g_m2: float | None = None
    dilution: str = Field("", max_length=80)
    wait_s: float | None = None
    at: str | None = Field(None, max_length=40)


class StepsIn(Strict):
    """What was done to the faces of these pieces, in order."""

    codes: Codes
    steps: list[StepIn] = Field(max_length=60)


class PairIn(Strict):
    """Two halves by their labels."""

    first: Code
    second: Code


class TrialIn(Strict):
    """A piece that is to be a trial (or to count again), and why."""

    code: Code
    trial: bool
    reason: str = Field(max_length=1000)


class RecutIn(Strict):
    """The piece that was spoiled."""

    code: Code


class GlueupIn(Strict):
    """A glue-up; numbers in N, degrees Celsius, %, g/m2. Without a start it begins now."""

    codes: Codes
    started_at: datetime | None = None
    air_c: float | None = None
    humidity_pct: float | None = None
    bottle: Short = ""
    force_n: float | None = None
    clamps: int = 1
    force_known: Literal["measured", "estimated", "unknown"] = "estimated"
    spread_g_m2: float | None = None
    faces: Literal["one", "both"] = "one"
    note: str = Field("", max_length=2000)
    mixed_at: datetime | None = None
    ratio: str = Field("", max_length=80)
    deviation: str = Field("", max_length=200)
    over: int = 1


class ToldIn(Strict):
    """Something told of glued joints beside their times; which parts a kind has is in the reference."""

    kind: str = Field(max_length=30)
    codes: Codes
    value: dict[str, float | str | None] = Field(max_length=12)
    note: str = Field("", max_length=500)
    at: datetime | None = None


class ExceptionIn(Strict):
    """What was different for one piece; what is left out is as for the glue-up."""

    code: Code
    force_n: float | None = None
    clamps: int | None = Field(None, ge=1, le=50)
    bottle: Short | None = None
    note: str = Field("", max_length=2000)


class UnclampIn(Strict):
    """Pieces that come out of their clamps."""

    codes: Codes
    at: datetime | None = None
    note: str = Field("", max_length=2000)


class ConditionIn(Strict):
    """Pieces that go into their conditioning, or out of it."""

    codes: Codes
    way: Literal["in", "out"]
    at: datetime | None = None


class StageIn(Strict):
    """The stage in which to undo or redo."""

    stage: Stage
