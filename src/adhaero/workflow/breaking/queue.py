"""The queue at the rig: what is due, in random order, and what came of what is broken."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from operator import attrgetter

from adhaero.core.breaking import details
from adhaero.core.breaking.details import DIRECTIONS, HOWS, NOTHING, Details
from adhaero.core.breaking.pace import Pace
from adhaero.core.breaking.proposal import BOUNDS
from adhaero.core.breaking.shares import in_words
from adhaero.core.flags import TAGS
from adhaero.core.glue import joint_records
from adhaero.core.observation import wood_failure
from adhaero.core.piece_record import Known, datum
from adhaero.core.piece_standing import Stands
from adhaero.core.plan.document import Outcome
from adhaero.core.quantity import Dimension
from adhaero.core.tolerances import width_of
from adhaero.core.units import as_typed
from adhaero.store import photos, pulls, rigs
from adhaero.store.pulls import Pull
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.breaking import faces
from adhaero.workflow.breaking.checklist import Point, of_session
from adhaero.workflow.breaking.expecting import expected_loads
from adhaero.workflow.breaking.faces import FacesView
from adhaero.workflow.breaking.in_hand import Screen
from adhaero.workflow.breaking.rack_of_shop import rack
from adhaero.workflow.breaking.tags import TAG
from adhaero.workflow.context import AppContext, iso, moment
from adhaero.workflow.piece_records import flags, piece_record
from adhaero.workflow.record_loading import load
from adhaero.workflow.rigs import RigState, state

HURRY = timedelta(hours=2)
"""A session at the rig: what leaves its age within it is broken first."""


@dataclass(frozen=True)
class Loading:
    """One of several loadings of a piece, and whether it is the one that counts; loads in N. ``figure`` is what the
    lower load gives (base unit), ``arm_mm`` the arm of the load then.
    """

    number: int
    kind: str
    low_n: float | None
    high_n: float | None
    held_s: float | None
    at: str
    counts: bool
    beside: int | None
    how: str
    ended: str
    figure: float | None
    arm_mm: float | None


@dataclass(frozen=True)
class BreakRow:
    """A piece in the queue, or broken.

    ``kind`` is what was observed, ``known`` what that gives for the plan's question, ``figure_low`` and ``figure_high``
    its figure of merit. A void piece keeps both, to be shown hollow. ``ready`` says why it should not be broken yet;
    ``out_since`` is when a conditioned one came out of what it stood in; ``shown_low`` and ``shown_high`` are what its
    instrument showed, in its own unit; ``loadings`` are there where it was loaded more than once.
    """

    code: str
    name: str
    treatment: str
    label: str
    role: str
    break_order: int
    part: str
    parent: str
    area_mm2: float
    form: str
    orientation: str
    grain: str
    measured: bool
    ready: str | None
    due_at: str | None
    stands: Stands
    kind: str | None
    known: Known
    low_n: float | None
    high_n: float | None
    held_s: float | None
    figure_low: float | None
    figure_high: float | None
    uncertainty: float | None
    resolution_n: float | None
    failure_mode: str | None
    wood_failure_pct: float | None
    wood_judged_pct: float | None
    shares: list[tuple[str, float]]
    shares_text: str
    note: str
    reason: str
    at: str | None
    pull_id: int | None
    reading_id: int | None
    flags: list[str]
    outdoors: bool
    wetness: str
    out_since: str | None
    shown_low: str
    shown_high: str
    loadings: list[Loading]
    tags: list[str]
    details: Details
    details_text: str
    line_text: str
    arm_mm: float | None


@dataclass(frozen=True)
class LoosePull:
    """A pull without a result: interrupted, or ended and not yet judged."""

    pull: Pull
    code: str


@dataclass(frozen=True)
class Waiting:
    """Pieces that may not be broken yet: how many, how many of them are not glued, and when the first is of age."""

    pieces: int
    not_glued: int
    first_at: str | None


@dataclass(frozen=True)
class BreakView:
    """The break stage: ``rows`` in the random order, ``order`` as they are offered (``in_order``); ``next`` is the one
    to take next, ``elsewhere`` what other screens show (code: name of the device), ``waiting`` what may not be broken
    yet. ``left_out`` are (code, treatment, reason) of pieces that are not run.
    """

    batch_id: int
    name: str
    method: str
    figure_name: str
    figure_dimension: str
    rows: list[BreakRow]
    order: list[str]
    next: str | None
    elsewhere: dict[str, str]
    waiting: Waiting
    done: int
    left_out: list[tuple[str, str, str]]
    loose: list[LoosePull]
    rack: bool
    tag_words: list[tuple[str, str]]
    hows: dict[str, str]
    directions: list[str]
    failure_modes: list[tuple[str, str]]
    bounds: dict[str, str]
    fixture: str
    rig: str
    capacity_n: float | None
    resolution_n: float | None
    working_share: float
    limit_n: float | None
    weakest: str
    pace: Pace | None
    outcomes: list[Outcome]
    faces: FacesView
    expected_most_n: float | None
    rig_state: RigState | None
    checklist: list[Point]
    simulated: bool
    loadless: bool
    to_measure: bool


def not_ready(record: BatchRecord, s: Specimen, at: datetime) -> tuple[str | None, str | None]:
    """Why a joint should not be broken at a moment (``None``: it may), and when it is due."""
    if s.role == "solid":
        return None, None
    if s.id not in record.members:
        return "not glued yet", None
    due, (wet, dry) = record.due_at(s), record.conditioning(s)
    if record.is_held(s) and not record.clamped_until_broken(s):
        return "still in the clamp", iso(due)
    if wet and (s.id, "in") not in record.conditioned:
        return "not conditioned yet", iso(due)
    if dry and (s.id, "out") not in record.conditioned:
        return "still in its conditioning", iso(due)
    late = "its conditioning is not over" if wet else "its cure time is not over"
    return (late if at < due else None), iso(due)


def _row(record: BatchRecord, s: Specimen, ready: str | None, due: str | None) -> BreakRow:
    p = piece_record(record, s)
    r = p.reading
    o = r.observation if r else None
    d, apart = datum(p, record.plan.target), p.apart_at

    def shown(value: float) -> float | None:
        return value if value == value and value not in (float("inf"), float("-inf")) else None

    return BreakRow(
        code=s.code,
        name=s.alias,
        treatment=p.letter,
        label=p.label,
        role=s.role,
        break_order=record.place(s),
        part=p.part,
        parent=record.home_in_words(s),
        area_mm2=p.area_mm2,
        form=p.form,
        orientation=s.orientation,
        grain="".join(record.loaded(s)) if s.role == "solid" else "",
        measured=p.measured,
        ready=ready,
        due_at=due,
        stands=p.stands(due=ready is None),
        kind=o.kind.value if o else "fell_apart" if apart else None,
        known=d.known,
        low_n=o.low_n if o else None,
        high_n=o.high_n if o else None,
        held_s=o.held_s if o else None,
        figure_low=shown(d.low) if o else None,
        figure_high=shown(d.high) if o else None,
        uncertainty=p.uncertainty(o.low_n) if o and o.low_n else None,
        resolution_n=r.resolution_n if r else None,
        failure_mode=o.failure_mode if o else None,
        wood_failure_pct=p.wood_failure_pct,
        wood_judged_pct=wood_failure(o) if o else None,
        shares=list(o.shares) if o else [],
        shares_text=in_words(o.shares) if o else "",
        note=o.note if o else "found apart on its way" if apart else "",
        reason=o.reason if o else "",
        at=iso(r.at) if r else iso(apart) if apart else None,
        pull_id=r.pull_id if r else None,
        reading_id=record.observed[s.id].id if s.id in record.observed else None,
        flags=[f.text for f in flags(record, s)],
        outdoors=bool((path := record.exposure(s)) and path.outdoors and s.role != "solid"),
        out_since=iso(moment(out.at)) if (out := record.conditioned.get((s.id, "out"))) is not None and not r else None,
        shown_low=_shown(record, s, o.low_n if o else None),
        shown_high=_shown(record, s, o.high_n if o else None),
        loadings=_loadings(record, s),
        tags=[str(e.value.get("what", "")) for e in record.joint_records.get(s.id, ()) if e.kind == TAG],
        details=o.details if o else NOTHING,
        details_text="; ".join(details.in_words(o.details, record.units)) if o else "",
        line_text=_line_in_words(record, s),
        arm_mm=p.arm_mm[0] if p.arm_mm else None,
        wetness=str(e.value["state"]) if (e := record.last(s.id, "wetness")) else "",
    )


def _line_in_words(record: BatchRecord, s: Specimen) -> str:
    """What was done to a joint before its break, and how thick its line is: the mean over its places."""
    own = record.joint_records.get(s.id, ())
    done = [joint_records.in_words(e.kind, e.value) for e in own if e.kind == "prepared"]
    places = [float(e.value["mm"]) for e in own if e.kind == "line" and "mm" in e.value]
    if places:
        mean = sum(places) / len(places)
        many = f", the mean of {len(places)} places" if len(places) > 1 else ""
        done.append(f"line {mean:.2f} mm ({mean / 0.0254:.2f} thousandths of an inch){many}")
    return "; ".join(done)


def _loadings(record: BatchRecord, s: Specimen) -> list[Loading]:
    counts = record.observed[s.id].loading if s.id in record.observed else 0
    found = []
    for o in record.loadings.get(s.id, ()):
        seen, sizes = o.observation, record.sizes_loaded(s, o)
        figure = None if seen.low_n is None else seen.low_n * record.method.per_newton(sizes)
        found.append(Loading(o.loading, seen.kind.value, seen.low_n, seen.high_n, seen.held_s, o.at,
                             o.loading == counts, o.beside, seen.details.how, seen.details.ended, figure,
                             sizes["arm"] if o.arm_mm is not None else None))  # fmt: skip
    return found


def _shown(record: BatchRecord, s: Specimen, load_n: float | None) -> str:
    """What the instrument showed at a load, in its unit, as it would be typed."""
    seen = record.observed.get(s.id)
    if load_n is None or seen is None:
        return ""
    used = record.set_ups.get(seen.setup_id) if seen.setup_id is not None else None
    if used is None or used.instrument.is_plain:
        return record.units.typed(load_n, Dimension.FORCE)
    i = used.instrument
    return as_typed(i.shown(load_n), i.dimension, i.unit)


def in_order(record: BatchRecord, now: datetime, *, groups: bool = False, early: bool = False) -> list[str]:
    """The pieces that may be broken now, in the order in which they are offered: first those whose age runs out,
    random within, or treatment by treatment (``groups``); with ``early`` those that may not be yet come after them.
    """

    def rank(s: Specimen) -> tuple[bool, bool, str, int]:
        letter = record.treatments[s.treatment_id].letter
        return s.id in late, not runs_out(record, s, now), letter if groups else "", record.place(s)

    left = [s for s in record.to_break if not record.finished(s)]
    late = {s.id for s in left if not_ready(record, s, now)[0] is not None}
    return [s.code for s in sorted(left, key=rank) if early or s.id not in late]


def waiting(record: BatchRecord, now: datetime) -> Waiting:
    """What is left and not to be broken now."""
    left = [not_ready(record, s, now) for s in record.to_break if not record.finished(s)]
    wait = [(why, due) for why, due in left if why is not None]
    # What is past its time and still waits for a hand (its clamp, its bath) has no date to come.
    coming = (due for _, due in wait if due and moment(due) > now)
    return Waiting(len(wait), sum(due is None for _, due in wait), min(coming, default=None))


def runs_out(record: BatchRecord, s: Specimen, now: datetime) -> bool:
    """Whether a joint that is of age leaves the tolerance of its age within ``HURRY``, or has left it."""
    if s.role == "solid" or s.id not in record.members or not s.cure_s:
        return False
    width = width_of("cure_s", float(s.cure_s), dict(record.plan.tolerances)) or 0.0
    return now + HURRY >= record.due_at(s) + timedelta(seconds=width)


def view(
    w: AppContext, batch_id: int, *, groups: bool = False, early: bool = False, screen: Screen | None = None
) -> BreakView:
    """The queue, what is broken, and the rig; ``groups`` and ``early`` as for ``in_order``. ``screen`` is the page
    that it is for: what others show is not offered to it.
    """
    with w.db.read() as conn:
        record = load(w, conn, batch_id)
        used = rigs.in_use(conn)
        points = of_session(conn, record, used.set_up if used else None, w.now())
        has_rack = bool((own := rack(conn)).weights or own.vessel_g)
        rig_state = state(conn, used.set_up, record.units) if used else None
        loads = {letter: high for letter, (_, high) in expected_loads(w, conn, record).items()}
        photographed = photos.after_the_break(conn)
        code = {s.id: s.code for s in record.pieces}
        loose = [LoosePull(p, code[p.specimen_id]) for p in pulls.loose_pulls(conn, batch_id)]
    rows, now = [], w.now()
    for s in record.to_break:
        ready = (None, None) if record.finished(s) else not_ready(record, s, now)
        rows.append(record.row("break", s, _row, *ready))
    rows.sort(key=attrgetter("break_order"))
    open_ = [r for r in rows if not r.stands.ended]
    set_up = used.set_up if used else None
    order = in_order(record, now, groups=groups, early=early)
    offered, elsewhere = next(iter(order), None), dict[str, str]()
    if screen is not None:
        offered, elsewhere = w.in_hand.offer(batch_id, screen, now, {r.code for r in open_}, order)
    return BreakView(
        batch_id=batch_id,
        name=record.batch.name,
        method=record.plan.method,
        figure_name=record.method.figure_name,
        figure_dimension=record.method.figure_dimension.value,
        rows=rows,
        order=order,
        next=offered,
        elsewhere=elsewhere,
        waiting=waiting(record, now),
        done=len(rows) - len(open_),
        left_out=[(s.code, record.treatments[s.treatment_id].letter, record.not_run[s.id]) for s in record.left_out],
        loose=loose,
        failure_modes=record.method.modes,
        bounds=BOUNDS,
        fixture=set_up.fixture if set_up else "",
        rig=set_up.rig if set_up else "",
        capacity_n=set_up.capacity_n if set_up else None,
        resolution_n=set_up.resolution_n if set_up else None,
        working_share=set_up.working_share if set_up else 0.8,
        limit_n=set_up.limit_n if set_up else None,
        weakest=set_up.weakest if set_up and set_up.weakest_n == set_up.limit_n else "",
        pace=record.plan.pace,
        outcomes=list(record.plan.outcomes),
        faces=faces.of_batch(record, photographed),
        expected_most_n=max((loads[x] for x in {r.treatment for r in open_} if x in loads), default=None),
        rig_state=rig_state,
        checklist=points,
        rack=has_rack,
        tag_words=list(TAGS.items()),
        hows=HOWS,
        directions=list(DIRECTIONS),
        simulated=w.hand_port is not None,
        to_measure=bool(record.to_measure),
        loadless=record.method.loadless,
    )
