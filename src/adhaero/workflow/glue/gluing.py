"""What has been glued, pressed, unclamped and conditioned, and what is noted of each joint."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime, timedelta
from operator import attrgetter

from adhaero.core.glue import joint_records
from adhaero.core.glue.clamping import caul_for, force_n, line_of
from adhaero.core.glue.exposure import NAMED
from adhaero.core.glue.pressing import CLAMPLESS, MEANS
from adhaero.core.materials.glue import GLUES
from adhaero.core.plan.bottle_caveats import APART_DAYS
from adhaero.core.plan.document import level_name
from adhaero.core.units import half_up
from adhaero.store import bottles as store
from adhaero.store.bottles import Bottle
from adhaero.store.glueups import Glueup
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import AppContext, iso, moment
from adhaero.workflow.glue.demand import line_clamps
from adhaero.workflow.piece_records import flags, piece_record
from adhaero.workflow.record_loading import load


@dataclass(frozen=True)
class GluePiece:
    """A joint as the bench sees it, or a panel that is glued as one, with the codes of its ``pieces``; ``parent`` says
    what a piece comes from. Pressure follows from force and measured area; ``flags`` say what is off.

    ``open_s`` is how long it stood open, ``told`` what else was told of it: (kind, in words). ``clamps_wanted`` is how
    many clamps its line wants for even pressure, ``cauls`` with which caul (mm) fewer clamps do.
    """

    code: str
    pieces: list[str]
    parent: str
    treatment: str
    label: str
    glue: str
    glue_order: int
    orientation: str
    form: str
    area_mm2: float
    measured: bool
    wanted_mpa: float | None
    wanted_force_n: float | None
    wanted_by: str
    pressed_mm2: float
    clamps_wanted: int
    cauls: list[tuple[int, float]]
    glueup: int | None
    pressure_mpa: float | None
    open_s: float | None
    flags: list[str]
    joint_records: list[tuple[str, str]]
    exception: bool
    note: str
    not_run: str
    unclamped_at: str | None
    clamp_until: str | None
    clamp_s: float | None
    conditioning: str
    condition_at: str | None
    in_at: str | None
    out_at: str | None


@dataclass(frozen=True)
class GlueupView:
    """A glue-up with the number of its pieces still in clamps; ``ended_at`` is when the last of them was closed, as it
    was told or tapped, empty where they were written down as one.
    """

    glueup: Glueup
    pieces: int
    in_clamps: int
    exceptions: int
    ended_at: str | None


@dataclass(frozen=True)
class GlueView:
    """The gluing of a batch; ``means`` of pressing by key, those of them that take no
    clamp.
    """

    batch_id: int
    name: str
    glueups: list[GlueupView]
    pieces: list[GluePiece]
    bottles: list[tuple[str, str, str]]
    warnings: list[str]
    means: list[tuple[str, str]]
    clampless: list[str]


def _conditioning(record: BatchRecord, s: Specimen) -> str:
    """The conditioning of a piece in words; empty for one that has none."""
    level, path = record.level(s, "conditioning"), record.exposure(s)
    if level is None or path is None:
        return ""
    # A path written out says what it adds up to; those with a name say it in their name.
    name = level_name("conditioning", level)
    return name if level.value in NAMED else f"{name} ({path.in_words()})"


def holds(family: str) -> str:
    """The name of the glue that a bottle holds."""
    return GLUES[family].name if family in GLUES else family


def _late(record: BatchRecord, s: Specimen, now: datetime) -> bool:
    """Whether a piece is still in its clamps after its clamp time."""
    member = record.members.get(s.id)
    if member is None or not record.is_held(s) or record.finished(s):
        return False
    return now > record.pressed_at(s) + timedelta(seconds=s.clamp_s or 0)


def _piece(record: BatchRecord, s: Specimen, late: bool, whole: bool) -> GluePiece:
    """A joint, or (``whole``) the panel that its pieces are until it comes out of the clamp."""
    p, member = piece_record(record, s), record.members.get(s.id)
    own = record.as_one(s) if whole else [s]
    area = record.spread_mm2(s) if whole else p.area_mm2
    g, pressed_mm2 = p.gluing, record.pressed_mm2(s)
    said = dict.fromkeys(f.text for x in own for f in flags(record, x))
    out = record.unclamped.get(s.id)
    held = record.is_held(s) or out is not None
    until = g.pressed_at + timedelta(seconds=s.clamp_s) if g and held and s.clamp_s else None
    wanted = line_clamps(record, s, 0.0)
    begun, ended = record.conditioned.get((s.id, "in")), record.conditioned.get((s.id, "out"))
    return GluePiece(
        code=record.unit_code(s) if whole else s.code,
        pieces=[x.code for x in own] if len(own) > 1 else [],
        parent=record.home_in_words(s),
        treatment=p.letter,
        label=p.label,
        glue=s.glue,
        glue_order=s.glue_order,
        orientation=s.orientation,
        form=p.form,
        area_mm2=area,
        measured=p.measured,
        wanted_mpa=s.pressure_mpa,
        wanted_force_n=None if s.pressure_mpa is None else force_n(s.pressure_mpa, pressed_mm2),
        wanted_by=record.pressed_by(s),
        pressed_mm2=pressed_mm2,
        clamps_wanted=wanted,
        cauls=_cauls(record, s, wanted),
        glueup=g.glueup if g else None,
        pressure_mpa=g.pressure_mpa if g else None,
        open_s=g.open_s if g else None,
        flags=[*said, *(["past its clamp time"] if late else [])],
        joint_records=_joint_records(record, s, area),
        exception=member.is_exception if member else False,
        note=member.note if member else "",
        not_run=p.not_run,
        unclamped_at=out.at if out else None,
        clamp_until=iso(until) if until else None,
        clamp_s=g.clamped_s if g else None,
        conditioning=_conditioning(record, s),
        condition_at=iso(g.pressed_at + timedelta(seconds=s.cure_s or 0)) if g else None,
        in_at=begun.at if begun else None,
        out_at=ended.at if ended else None,
    )


def _cauls(record: BatchRecord, s: Specimen, clamps: int) -> list[tuple[int, float]]:
    """For each smaller number of clamps than a line wants, the caul that makes it do, mm."""
    length, through = line_of(record.form(s).key, record.line_sizes(s))
    return [(n, caul_for(length, through, n)) for n in range(1, min(clamps, 9))]


def _joint_records(record: BatchRecord, s: Specimen, area: float) -> list[tuple[str, str]]:
    """What was told of a joint: the latest of each kind, and how far its clamp relaxed."""
    said = {e.kind: e for e in record.joint_records.get(s.id, ()) if e.kind in joint_records.KINDS}
    found = []
    for kind, e in said.items():
        words = ", ".join(x for x in (joint_records.in_words(kind, e.value, area), e.note) if x)
        found.append((kind, words))
    fell = joint_records.relaxed([e.value["force_n"] for e in record.joint_records.get(s.id, ()) if e.kind == "force"])
    if fell is not None:
        found.append(("force", f"fell by {half_up(100 * fell, 0):.0f} % since the first reading"))
    return found


def view(w: AppContext, batch_id: int) -> GlueView:
    """All joints of a locked batch with their gluing, and its glue-ups."""
    with w.db.read() as conn:
        record = load(w, conn, batch_id)
        bottles = {b.label: b for b in store.bottles(conn)}
    now = w.now()
    pieces = []
    for own in record.as_units(s for s in record.pieces if s.role != "solid"):
        late = _late(record, own[0], now)
        whole = len(own) > 1 and (own[0].id not in record.members or record.is_held(own[0]))
        if whole:
            # What is seen of one section is told of its panel: those rows are made anew each time.
            pieces.append(_piece(record, own[0], late, whole))
        else:
            pieces += [record.row("glue", s, _piece, late, whole) for s in own]
    pieces.sort(key=attrgetter("glue_order"))
    by_glueup: dict[int | None, list[GluePiece]] = {}
    for p in pieces:
        by_glueup.setdefault(p.glueup, []).append(p)
    return GlueView(
        batch_id=batch_id,
        name=record.batch.name,
        glueups=[_glueup(record, g, by_glueup.get(g.number, [])) for g in record.glueups.values()],
        pieces=pieces,
        bottles=[(b.label, b.family, holds(b.family)) for b in bottles.values()],
        warnings=_bottle_warnings(record, bottles),
        means=list(MEANS.items()),
        clampless=list(CLAMPLESS),
    )


def _bottle_warnings(record: BatchRecord, known: dict[str, Bottle]) -> list[str]:
    """What the bottles add to the test: two of one glue opened at different times, or one past its date when used."""
    used: dict[str, dict[str, str]] = {}
    for s in record.pieces:
        member = record.members.get(s.id)
        if member is not None:
            g = record.glueups[member.glueup_id]
            label = record.bottle(s)
            if label in known:
                used.setdefault(s.glue, {}).setdefault(label, g.started_at[:10])
    found = []
    for glue, labels in used.items():
        name = GLUES[glue].name if glue in GLUES else glue
        opened = {label: known[label].opened_on for label in labels}
        days = sorted(date.fromisoformat(d) for d in opened.values() if d)
        if len(days) > 1 and (days[-1] - days[0]).days >= APART_DAYS:
            listed = " and ".join(f"{label} ({d or 'not known'})" for label, d in opened.items())
            found.append(f"{name} came from bottles opened at different times: {listed}. Their age runs along.")
        for label, at in labels.items():
            end = known[label].expires_on
            if end and end < at:
                found.append(f"{label} was past its date ({end}) when it was used.")
    return found


def _glueup(record: BatchRecord, g: Glueup, own: list[GluePiece]) -> GlueupView:
    closed = [record.pressed_at(s) for s in record.pieces if (m := record.members.get(s.id)) and m.glueup_id == g.id]
    last = max(closed, default=moment(g.started_at))
    ended = g.ended_at or (iso(last) if last > moment(g.started_at) else None)
    held = sum(p.unclamped_at is None and p.clamp_until is not None and not p.not_run for p in own)
    return GlueupView(g, len(own), held, sum(p.exception for p in own), ended)
