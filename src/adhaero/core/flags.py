"""What is worth minding about a piece: each thing a flag of its own, made here and nowhere else.

A flag is shown where it arises, on the piece everywhere, at its treatment's name, and as a filter in Compare: with and
without the pieces that carry it.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from adhaero.core.breaking.details import HOWS, ROUGH
from adhaero.core.breaking.signal import BLIND, Gap
from adhaero.core.glue.clamping import crushes
from adhaero.core.glue.joint_records import LEFT_IN
from adhaero.core.glue.limits import SIZED_WAIT_S
from adhaero.core.glue.pressing import MEANS
from adhaero.core.materials.glue import GLUES
from adhaero.core.piece_record import Gluing, PieceRecord, Reading, Stay
from adhaero.core.plan.document import level_text
from adhaero.core.plan.fields import value_name
from adhaero.core.protocol import SLACK_S, off
from adhaero.core.quantity import Dimension
from adhaero.core.times import clock, span
from adhaero.core.tolerances import WATCHED, departures
from adhaero.core.units import Units

STAY_TOLERANCE = 0.1
"""Share by which a stay in a conditioning may leave the planned one before it is pointed out."""
OUT_OF_BATH_S = 20 * 60
"""How long a wet, hot or frozen piece may wait for its break: afterwards it is on its way to another state."""

DOUBT, DOUBTFUL = "doubt", "doubtful"
"""Event by which somebody doubts a piece, or takes that back; and the flag of one that is doubted."""
UNCHECKED_MARK = "unchecked: "
PULLED_MARK = "pulled before: "
"""Before what earlier pulls of the same piece, of which no reading was kept, had loaded it to."""
"""Begins what a reading keeps of points of the checklist that nobody ticked."""
TAGS: dict[str, str] = {
    "slipped": "slipped in the rig",
    "crushed": "crushed under the rig",
    "hung up": "hung up in the fixture",
    "cracked": "cracked before its break",
    "weight fell": "a weight fell",
}
"""What is noted with one tap while a piece is pulled -> what it says of it."""

NO_DATE = "no date"
"""For an imported reading: nobody knows the day it was broken."""
FLAGS: dict[str, str] = {
    DOUBTFUL: "marked as doubtful",
    "pressure off": "pressed otherwise than planned",
    "pressure unknown": "clamp force not known",
    "other means": "pressed by other means than planned",
    "below label pressure": "pressed less than its glue wants",
    "above label pressure": "pressed harder than its glue wants",
    "near crushing": "pressed near what the wood bears",
    "open time over": "open time exceeded",
    "open time off": "open for another time than planned",
    "pot life over": "pot life exceeded",
    "mix deviates": "mix not as its label says",
    "short clamp": "clamped shorter than its label says",
    "clamp time off": "in clamps for another time than planned",
    "air off": "glued at another temperature than planned",
    "humidity off": "glued in drier or damper air than planned",
    "moisture off": "wood drier or damper than planned",
    "gap off": "another gap than planned",
    "spread off": "more or less glue than planned",
    "cold": "glued colder than its label says",
    "other glue": "glued with another glue than planned",
    "other bottle": "glued from another bottle than planned",
    "bottle changed": "bottle frozen, thawed or thickened",
    "bottle past its date": "bottle past its date",
    "spread thin": "starved of glue",
    "out of place": "slipped after clamping",
    "fastener left in": "fastener left in",
    "disturbed": "disturbed while curing",
    "kept elsewhere": "kept elsewhere than planned",
    "step left out": "a step of the protocol left out",
    "step late": "a step of the protocol done late",
    "not waited for": "closed before a step had its time",
    "step too old": "closed after a step held no more",
    "coat wet": "second coat on a first one that was still wet",
    "swapped": "halves swapped",
    "age off": "broken at another age than planned",
    "exposure off": "conditioned otherwise than planned",
    "out of the bath": "stood too long after its conditioning",
    "early": "broken before its time, on purpose",
    "gap": "load not seen for a moment",
    "two peaks": "the load fell to nothing and rose again",
    "face differs": "failure mode and wood failure contradict each other",
    "very low": "far below what such joints carry",
    "at capacity": "load at the end of the rig's range",
    "finer than the step": "load typed finer than the gauge reads",
    "over capacity": "load above the rig's range",
    "over working share": "load above the rig's working share",
    "not looked over": "rig not looked over after an overload",
    NO_DATE: "date of the break not known",
    "read roughly": "load read roughly",
    "off its middle": "pulled off its middle: cleavage",
    "loaded before": "loaded before the reading that counts",
    **TAGS,
    "tagged": "noted at the rig",
    "not checked": "not looked at before the pull",
    "arm off": "loaded at another arm than planned",
    "pace missed": "loaded at another pace than planned",
    "marks moved": "marks of its curve moved by hand",
    "rig drifted": "check weight of the rig read off",
    "nominal area": "not measured: nominal area",
}
"""Kind of a flag -> what it says of a piece."""


CONFIRMED = (
    "early", "two peaks", "face differs", "at capacity", "finer than the step", "over capacity",
    "over working share", "not looked over", "rig drifted", NO_DATE,
)  # fmt: skip
"""Kinds that follow from what was asked before a reading was saved."""


@dataclass(frozen=True)
class Flag:
    """One thing worth minding: its ``kind`` (a key of FLAGS), the ``piece`` (its code), the ``figure`` in words, and
    the ``source`` that it follows from (the stage).
    """

    kind: str
    piece: str
    figure: str
    source: str

    @property
    def text(self) -> str:
        """In words, with its figure."""
        return f"{FLAGS[self.kind]}: {self.figure}" if self.figure else FLAGS[self.kind]


def flags_of(p: PieceRecord, units: Units) -> tuple[Flag, ...]:
    """Everything worth minding about a piece."""
    if p.not_run:
        return ()
    found: list[tuple[str, str, str]] = []
    if p.swapped_with:
        found.append(("swapped", f"with {p.swapped_with}", "glue"))
    if p.gluing is not None:
        found += _pressed(p, p.gluing, units)
        found += _times(p.gluing)
        found += _mixed(p.gluing, units)
        found += ((kind, figure, "glue") for kind, figure in off(p.protocol, p.gluing.pressed_at))
        found += _coats(p)
    found += ((WATCHED[d.field].flag, d.in_words(units), WATCHED[d.field].source) for d in departures(p))
    found += _noted(p, units)
    if p.reading is not None:
        if (said := p.last(DOUBT)) is not None and said.value.get(DOUBTFUL):
            found.insert(0, (DOUBTFUL, f"{said.note} ({said.value.get('by')})", "compare"))
        if p.stay is not None:
            found += _stayed(p.stay, p.reading)
        found += _read(p, p.reading, units)
    return tuple(Flag(kind, p.code, figure, source) for kind, figure, source in found)


def _coats(p: PieceRecord) -> Iterator[tuple[str, str, str]]:
    """A second coat on a first one that had no time to dry."""
    first, second = p.last("coat"), p.last("spread")
    if first is not None and second is not None and second.at >= first.at:
        dried = (second.at - first.at).total_seconds()
        if dried < SIZED_WAIT_S - SLACK_S:
            yield "coat wet", f"{span(dried)} instead of {span(SIZED_WAIT_S)}", "glue"


def _pressed(p: PieceRecord, g: Gluing, units: Units) -> Iterator[tuple[str, str, str]]:
    pressure, planned = g.pressure_mpa, p.pressure_mpa
    means = level_text(p.levels.get("press_by")) or ""
    if g.pressed_by and means and g.pressed_by != means:
        yield "other means", f"{MEANS[g.pressed_by].lower()} instead of {MEANS.get(means, means).lower()}", "glue"
    if pressure is None:
        if planned:
            yield "pressure unknown", "", "glue"
        return
    shown = units.text(pressure, Dimension.STRESS)
    low, high = g.limits.pressure_low_mpa, g.limits.pressure_high_mpa
    if low is not None and pressure < low:
        yield (
            "below label pressure",
            f"{shown}, {g.limits.whose('pressure_low_mpa')} from {units.text(low, Dimension.STRESS)}",
            "glue",
        )
    elif high is not None and pressure > high:
        yield (
            "above label pressure",
            f"{shown}, {g.limits.whose('pressure_high_mpa')} up to {units.text(high, Dimension.STRESS)}",
            "glue",
        )
    if p.crush_across_mpa is not None and crushes(pressure, p.crush_across_mpa):
        bears = units.text(p.crush_across_mpa, Dimension.STRESS)
        yield "near crushing", f"{shown}, {value_name('species', p.species).lower()} bears {bears}", "glue"


def _times(g: Gluing) -> Iterator[tuple[str, str, str]]:
    limits = g.limits
    for kind, real, limit in (
        ("open time over", g.open_s, limits.open_s),
        ("pot life over", g.stood_s, limits.pot_s),
    ):
        if real is not None and limit is not None and real > limit:
            yield kind, f"by {clock(real - limit)}", "glue"
    if g.clamped_s is not None and limits.clamp_s is not None and g.clamped_s < limits.clamp_s:
        yield "short clamp", f"by {clock(limits.clamp_s - g.clamped_s)}", "glue"


def _mixed(g: Gluing, units: Units) -> Iterator[tuple[str, str, str]]:
    if g.mix_deviation:
        yield "mix deviates", g.mix_deviation, "glue"
    if g.glue in GLUES and g.planned_glue in GLUES and g.glue != g.planned_glue:
        yield "other glue", f"{GLUES[g.glue].name} instead of {GLUES[g.planned_glue].name}", "glue"
    if g.planned_bottle and g.bottle and g.bottle != g.planned_bottle:
        yield "other bottle", f"{g.bottle} instead of {g.planned_bottle}", "glue"
    if g.bottle_state:
        yield "bottle changed", g.bottle_state, "glue"
    if g.bottle_past_days is not None and g.bottle_past_days > 0:
        days = "day" if g.bottle_past_days == 1 else "days"
        yield "bottle past its date", f"{g.bottle_past_days} {days}", "glue"
    least = g.limits.least_c
    if least is not None and g.air_c is not None and g.air_c < least:
        air, wanted = (units.text(v, Dimension.TEMPERATURE) for v in (g.air_c, least))
        yield "cold", f"{air}, label from {wanted}", "glue"


def _noted(p: PieceRecord, units: Units) -> Iterator[tuple[str, str, str]]:
    amount, shift, fastener = (p.last(k) for k in ("amount", "shift", "fastener"))
    if amount is not None and amount.value.get("word") == "starved":
        yield "spread thin", "", "glue"
    if shift is not None:
        names = {"along_mm": "along", "across_mm": "across", "lift_mm": "lifted"}
        moved = [f"{units.text(float(shift.value[k]), Dimension.LENGTH)} {word}"
                 for k, word in names.items() if shift.value.get(k)]  # fmt: skip
        twist = [f"twisted {shift.value['twist_deg']:g}°"] if shift.value.get("twist_deg") else []
        yield "out of place", ", ".join([*moved, *twist]), "glue"
    if fastener is not None and fastener.value.get("left") == LEFT_IN:
        yield "fastener left in", "", "glue"
    planned = level_text(p.levels.get("kept_at"))
    for e in p.events:
        wanted = value_name("kept_at", planned).lower() if planned else ""
        where = str(e.value.get("where", "")).strip()
        if e.kind == "place" and wanted and where.lower() not in (planned, wanted):
            yield "kept elsewhere", f"{where} instead of {wanted}", "glue"
        if e.kind == "disturbed":
            yield "disturbed", str(e.value.get("what", e.note)), "glue"


def _stayed(s: Stay, r: Reading) -> Iterator[tuple[str, str, str]]:
    """The real conditioning against the planned one: how long it was in, and how it waited for its break."""
    if s.in_at is None:
        yield "exposure off", "not conditioned", "glue"
        return
    planned = s.path.total_s - s.path.drying_s
    out = s.out_at or (r.at if not s.path.drying_s else None)
    if out is not None:
        real = (out - s.in_at).total_seconds()
        if planned > 0 and abs(real - planned) > STAY_TOLERANCE * planned:
            yield "exposure off", f"out after {span(real)} of {span(planned)}", "glue"
    if s.out_at is not None:
        waited = (r.at - s.out_at).total_seconds()
        if not s.path.drying_s and waited > OUT_OF_BATH_S:
            yield "out of the bath", f"{waited / 60:.0f} min", "break"
        elif s.path.drying_s and abs(waited - s.path.drying_s) > STAY_TOLERANCE * s.path.drying_s:
            yield "exposure off", f"dried {span(waited)} instead of {span(s.path.drying_s)}", "break"


def _read(p: PieceRecord, r: Reading, units: Units) -> Iterator[tuple[str, str, str]]:
    if r.gaps or r.gap_note:
        yield "gap", r.gap_note or gap_in_words(r.gaps[0]), "break"
    if r.figures is not None and p.pace is not None and (missed := p.pace.missed(r.figures)):
        yield "pace missed", f"{missed}: {p.pace.shown(r.figures, units)}", "break"
    if r.by_hand:
        yield "marks moved", ", ".join(r.by_hand), "break"
    for kind in CONFIRMED:
        if kind in r.confirmed:
            yield kind, "", "break"
    if (high := r.observation.most_n) and high * p.per_newton < p.least:
        yield "very low", "", "break"
    for c in r.confirmed:
        if c.startswith(UNCHECKED_MARK):
            yield "not checked", c.removeprefix(UNCHECKED_MARK), "break"
        elif c.startswith(PULLED_MARK):
            yield "loaded before", c.removeprefix(PULLED_MARK), "break"
    if p.arm_mm is not None and abs(p.arm_mm[0] - p.arm_mm[1]) > 0.005 * p.arm_mm[1]:
        real, planned = (units.text(v, Dimension.LENGTH) for v in p.arm_mm)
        yield "arm off", f"{real} instead of {planned}", "break"
    d = r.observation.details
    if d.how in ROUGH:
        yield "read roughly", HOWS[d.how], "break"
    if d.off_line_mm:
        yield "off its middle", units.text(d.off_line_mm, Dimension.LENGTH), "break"
    if p.earlier:
        most = max((o.low_n or 0.0 for o in p.earlier), default=0.0)
        times = f", {len(p.earlier)} times" if len(p.earlier) > 1 else ""
        yield "loaded before", f"up to {units.text(most, Dimension.FORCE)}{times}", "break"
    for e in p.events:
        if e.kind == "tag" and e.value.get("loading", r.loading) == r.loading:
            what = str(e.value.get("what", ""))
            yield (what, e.note, "break") if what in TAGS else ("tagged", what, "break")
    loaded = r.observation.low_n is not None and r.observation.low_n > 0
    if loaded and not p.measured and p.dimension is not Dimension.FORCE:
        yield "nominal area", "", "break"


def gap_in_words(g: Gap) -> str:
    """Return when the load was not seen, and why."""
    if g.to_s is None:
        return f"{BLIND[g.why]} from {g.from_s:.1f} s on"
    return f"{BLIND[g.why]}, {max(0.01, g.to_s - g.from_s):.2g} s at {g.from_s:.1f} s"


def by_kind(flags: Iterable[Flag]) -> dict[str, list[str]]:
    """Codes of the pieces that carry each kind of flag, in the order of FLAGS."""
    found: dict[str, dict[str, None]] = {}
    for f in flags:
        found.setdefault(f.kind, {})[f.piece] = None
    return {k: list(found[k]) for k in FLAGS if k in found} if found else {}
