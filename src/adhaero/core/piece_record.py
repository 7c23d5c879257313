"""The record of a piece: what was planned, what really happened to it, and what it gives for a question.

It is made in one place and read by every stage alike. ``datum`` says what a piece gives; nobody else works out a figure
of merit from a load.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime
from enum import StrEnum
from functools import cached_property
from typing import Any

from adhaero.core.breaking.details import FAILED
from adhaero.core.breaking.face import Verdict, counting, verdict_of
from adhaero.core.breaking.instrument import Instrument
from adhaero.core.breaking.pace import Pace
from adhaero.core.breaking.signal import Gap
from adhaero.core.breaking.trace import PEAK, STRENGTHS, Figures
from adhaero.core.glue.exposure import Path
from adhaero.core.glue.joint_records import came_apart
from adhaero.core.glue.limits import Limits
from adhaero.core.observation import WOOD_MODES, Kind, Observation, wood_failure
from adhaero.core.piece_standing import Stands, stands
from adhaero.core.plan.document import Level
from adhaero.core.protocol import StepMark
from adhaero.core.quantity import Dimension

FACE_EVENT = "face"
"""A verdict about the faces of a broken piece, among what was told of it."""


@dataclass(frozen=True)
class Gluing:
    """How a joint was glued; times in s, pressures in MPa; ``None`` is unknown.

    ``clamped_s`` is how long it was in the clamp, ``open_s`` how long it stood open, ``stood_s`` how long its glue had
    been mixed. ``bottle_past_days`` is how far past its date the bottle was. ``glue`` is the family that it held, and
    ``planned_glue`` the planned one, where both are known.
    """

    glueup: int
    pressed_at: datetime
    limits: Limits
    person: str = ""
    bottle: str = ""
    bottle_state: str = ""
    bottle_past_days: int | None = None
    air_c: float | None = None
    humidity_pct: float | None = None
    pressure_mpa: float | None = None
    force_known: str = "unknown"
    spread_g_m2: float | None = None
    open_s: float | None = None
    stood_s: float | None = None
    clamped_s: float | None = None
    mix_deviation: str = ""
    pressed_by: str = ""
    planned_bottle: str = ""
    glue: str = ""
    planned_glue: str = ""


@dataclass(frozen=True)
class JointEvent:
    """Something told of a joint after it was glued: a kind of core.glue.joint_records with its value."""

    kind: str
    at: datetime
    value: Mapping[str, Any]
    note: str = ""


@dataclass(frozen=True)
class Stay:
    """A joint's conditioning: as planned, and when it really went in and came out."""

    path: Path
    in_at: datetime | None = None
    out_at: datetime | None = None


@dataclass(frozen=True)
class Reading:
    """What was observed of a piece, with where and when: ``at`` is when it broke.

    The range is that of the rig as it was then; ``signal_error_n`` is how far off an exact load may be by its signal;
    ``gaps`` are holes in the signal up to the break (``gap_note`` what a
    file said of them), ``marks`` what it bore (N) where its curve has a mark, ``figures`` what follows from the curve
    (``by_hand``: marks that a person moved);
    ``confirmed`` the doubts that were answered with yes before it was saved.
    """

    observation: Observation
    at: datetime
    source: str = "typed"
    person: str = ""
    first_crack_n: float | None = None
    marks: Mapping[str, float] = field(default_factory=dict)
    figures: Figures | None = None
    by_hand: tuple[str, ...] = ()
    pull_id: int | None = None
    set_up_id: int | None = None
    capacity_n: float | None = None
    resolution_n: float | None = None
    instrument: Instrument = field(default_factory=Instrument)
    loading: int = 1
    signal_error_n: float | None = None
    gaps: tuple[Gap, ...] = ()
    gap_note: str = ""
    confirmed: tuple[str, ...] = ()


@dataclass(frozen=True)
class PieceRecord:
    """Everything that stands about one piece.

    ``crush_across_mpa`` is what its wood bears across the grain, where that is known.
    ``part`` is what it is for now (counts, spare, dummy, trial), ``per_newton`` the figure of merit of one newton on
    it, ``not_run`` why it was left out, ``apart_at`` when it was found apart before any test; ``tolerances`` are those
    that its plan states, ``protocol`` the steps that it asks for with what was said of them, ``earlier`` what was
    observed of it in loadings before the one that counts; ``strength`` is the mark of a curve whose load is its
    strength, ``pace`` how quickly it was to be loaded, ``arm_mm`` the arm of the load, and the planned one,
    ``mixed_at_pct`` the share of wood from which on a mixed failure is one of the wood, ``least`` the figure below
    which no such joint breaks.
    """

    code: str
    role: str
    part: str
    treatment_id: int
    letter: str
    label: str
    species: str
    form: str
    orientation: str
    glue: str
    levels: Mapping[str, Level]
    sizes: Mapping[str, float]
    measured: bool
    area_mm2: float
    per_newton: float
    dimension: Dimension
    crush_across_mpa: float | None = None
    pressure_mpa: float | None = None
    clamp_s: float | None = None
    cure_s: float | None = None
    gluing: Gluing | None = None
    stay: Stay | None = None
    events: tuple[JointEvent, ...] = ()
    swapped_with: str = ""
    reading: Reading | None = None
    not_run: str = ""
    sizes_error: tuple[float, ...] = field(default=(), compare=False)
    tolerances: Mapping[str, float] = field(default_factory=dict, compare=False)
    protocol: tuple[StepMark, ...] = ()
    earlier: tuple[Observation, ...] = ()
    strength: str = PEAK
    pace: Pace | None = None
    arm_mm: tuple[float, float] | None = None
    mixed_at_pct: float = 50.0
    least: float = 0.0

    @property
    def kind(self) -> Kind | None:
        """The kind of its reading."""
        return self.reading.observation.kind if self.reading else None

    def stands(self, *, due: bool = False) -> Stands:
        """How far a piece has come; ``due``: it is old enough to be broken."""
        return stands(
            self.kind, not_run=bool(self.not_run), apart=self.apart_at is not None,
            made=self.role == "solid" or self.gluing is not None, due=due,
            proof_failed=self.reading is not None and self.reading.observation.details.ended == FAILED,
        )  # fmt: skip

    @property
    def broken(self) -> bool:
        """Whether it was tested and counts, so that it has faces to look at."""
        return self.kind is not None and self.stands() not in (Stands.EXCLUDED, Stands.LEFT_OUT)

    @property
    def age_s(self) -> float | None:
        """Age at the break, s: from its closing, its conditioning included."""
        if self.gluing is None or self.reading is None:
            return None
        return (self.reading.at - self.gluing.pressed_at).total_seconds()

    @property
    def cured_s(self) -> float | None:
        """Time from its closing to its conditioning, or to its break if it has none, s."""
        if self.stay is None:
            return self.age_s
        if self.gluing is None or self.stay.in_at is None:
            return None
        return (self.stay.in_at - self.gluing.pressed_at).total_seconds()

    @property
    def stayed_s(self) -> float | None:
        """Time in its conditioning, s; until its break if it was not taken out before."""
        if self.stay is None or self.stay.in_at is None:
            return None
        out = self.stay.out_at or (self.reading.at if self.reading else None)
        return None if out is None else (out - self.stay.in_at).total_seconds()

    @property
    def rested_s(self) -> float | None:
        """Time from the end of its conditioning to its break, s."""
        if self.stay is None or self.stay.out_at is None or self.reading is None:
            return None
        return (self.reading.at - self.stay.out_at).total_seconds()

    @cached_property
    def verdicts(self) -> tuple[Verdict, ...]:
        """What was found of its faces, oldest first: at the break, and by whoever looked at them since."""
        if self.reading is None:
            return ()
        at_break = wood_failure(self.reading.observation)
        first = [] if at_break is None else [Verdict(self.reading.person, self.reading.at, "at the break", at_break)]
        return (*first, *(verdict_of(e.value, e.at) for e in self.events if e.kind == FACE_EVENT))

    @cached_property
    def counting_verdicts(self) -> tuple[Verdict, ...]:
        """Of each assessor the last one."""
        return tuple(counting(self.verdicts))

    @property
    def wood_failure_pct(self) -> float | None:
        """Share of the glued area where the wood gave way, %: the mean of its assessors."""
        found = [v.wood_pct for v in self.counting_verdicts]
        return sum(found) / len(found) if found else None

    @cached_property
    def apart_at(self) -> datetime | None:
        """When it was found apart on its way to the break."""
        return next((e.at for e in self.events if came_apart(e.kind, e.value)), None)

    def last(self, kind: str) -> JointEvent | None:
        """The latest that was told of it, of that kind."""
        return next((e for e in reversed(self.events) if e.kind == kind), None)

    def uncertainty(self, load_n: float) -> float:
        """Return the uncertainty of the figure of merit of a load: that of the rig (half a step, or what noise and
        sampling of its signal leave open if that is more), of its calibration and of the caliper, added in squares.
        """
        if load_n <= 0:
            return 0.0
        step = self.reading.resolution_n if self.reading and self.reading.resolution_n else 1.0
        read = max(step / 2, (self.reading.signal_error_n or 0.0) if self.reading else 0.0)
        calibrated = self.reading.instrument.error_n(load_n) if self.reading else 0.0
        parts = (read / load_n, calibrated / load_n, *self.sizes_error)
        return load_n * self.per_newton * math.sqrt(sum(p * p for p in parts))


class Known(StrEnum):
    """How well a figure is known. Below: it gave way before the smallest load that could be read. None: no figure."""

    EXACT = "exact"
    BETWEEN = "between"
    AT_LEAST = "at_least"
    BELOW = "below"
    NONE = "none"


@dataclass(frozen=True)
class Datum:
    """What a piece gives for a question: a figure known to lie in [low, high], or none, with the ``reason``.

    A void piece has no figure that counts; ``low`` and ``high`` still say what was read, to be shown hollow.
    """

    known: Known
    low: float
    high: float
    reason: str = ""

    @property
    def counts(self) -> bool:
        """Whether statistics use it."""
        return self.known is not Known.NONE

    @property
    def is_exact(self) -> bool:
        """Whether it is one number."""
        return self.known is Known.EXACT


def datum(p: PieceRecord, target: str, *, load: bool = False) -> Datum:
    """What a piece gives: its figure of merit, or its ``load`` in N.

    ``target`` ``"adhesive"`` takes a break in the wood, or elsewhere, for a lower bound of the bond; ``"joint"`` takes
    whatever broke for the strength of the joint. What held for a while and then broke bore that load exactly.
    """
    if p.not_run:
        return Datum(Known.NONE, math.nan, math.nan, f"not run: {p.not_run}")
    if p.reading is None:
        if p.apart_at is not None:
            return Datum(Known.BELOW, 0.0, 0.0, "found apart before the test")
        return Datum(Known.NONE, math.nan, math.nan, "not broken yet")
    o, scale = _as_marked(p, p.reading), 1.0 if load else p.per_newton
    if o is None:
        return Datum(Known.NONE, math.nan, math.nan, f"without a curve {STRENGTHS[p.strength]} is not known")
    low = math.nan if o.low_n is None else o.low_n * scale
    high = math.inf if o.high_n is None else o.high_n * scale
    match o.kind:
        case Kind.VOID:
            return Datum(Known.NONE, low, math.nan if o.low_n is None else high, f"void: {o.reason}")
        case Kind.SEEN:
            return Datum(Known.NONE, math.nan, math.nan, "it has no load: opened by hand, or not read")
        case Kind.PROOF:
            return Datum(Known.NONE, math.nan, math.nan, f"proof load, {o.details.ended}: no strength")
        case Kind.FELL_APART:
            return Datum(Known.BELOW, 0.0, 0.0, "fell apart before the test")
        case Kind.AT_LEAST:
            return Datum(Known.AT_LEAST, low, math.inf, "held, at least")
    if not load and p.dimension is Dimension.STRESS and o.details.off_line_mm:
        return Datum(Known.NONE, math.nan, math.nan, "pulled off its middle: cleavage has a load, but no mean stress")
    mixed = o.failure_mode == "mixed" and (p.wood_failure_pct or 0.0) >= p.mixed_at_pct
    # Solid wood has no bond to be bounded.
    away = (
        target == "adhesive"
        and p.role != "solid"
        and (mixed or o.failure_mode == "elsewhere" or o.failure_mode in WOOD_MODES)
    )
    if away:
        where = "elsewhere" if o.failure_mode == "elsewhere" else "in the wood"
        return Datum(Known.AT_LEAST, low, math.inf, f"broke {where}: the glue bore at least this")
    if o.kind is Kind.BETWEEN:
        return Datum(Known.BETWEEN, low, high)
    return Datum(Known.EXACT, low, low)


def _as_marked(p: PieceRecord, r: Reading) -> Observation | None:
    """The observation with the load of the mark that is its strength; ``None`` where its curve was not recorded.

    A mark that lies before the end of what was seen is known exactly, whatever came of the piece afterwards.
    """
    o = r.observation
    if p.strength == PEAK or o.kind in (Kind.VOID, Kind.SEEN, Kind.PROOF, Kind.FELL_APART):
        return o
    marked = r.marks.get(p.strength)
    if marked is not None:
        return replace(o, kind=Kind.EXACT, low_n=marked, high_n=marked)
    # Nothing of the kind up to where it held: that load is a bound of it, too.
    return o if r.marks and o.kind is Kind.AT_LEAST else None
