"""What is off about a glued joint: pressure, open time, pot life and clamp time against plan, label and wood."""

from __future__ import annotations

from collections.abc import Iterator

from adhaero.core.glue.clamping import crushes
from adhaero.core.glue.limits import Limits
from adhaero.core.materials.wood import WOODS
from adhaero.store.specimens import Specimen
from adhaero.workflow.facts import Facts
from adhaero.workflow.workshop import moment

PRESSURE_TOLERANCE = 0.2
"""Share by which the clamp pressure may leave the planned one before it is pointed out."""


def pressure_flags(s: Specimen, pressure: float, found: Limits) -> Iterator[str]:
    """A pressure (MPa) off the planned one, outside of the glue's window, or near what the wood bears."""
    if s.pressure_mpa and abs(pressure / s.pressure_mpa - 1) > PRESSURE_TOLERANCE:
        yield f"{100 * (pressure / s.pressure_mpa - 1):+.0f} % off the planned pressure"
    low, high = found.pressure_low_mpa, found.pressure_high_mpa
    whose = "its label's" if found.label else "the usual"
    if low is not None and pressure < low:
        yield f"below {whose} {low:g} MPa"
    elif high is not None and pressure > high:
        yield f"above {whose} {high:g} MPa"
    wood = WOODS.get(s.species_a)
    if wood and crushes(pressure, wood.crush_across_mpa):
        yield f"near crushing {wood.name.lower()} ({wood.crush_across_mpa:g} MPa)"


def time_flags(facts: Facts, s: Specimen, open_s: float | None, taken: float | None, found: Limits) -> Iterator[str]:
    """Times outside of what the glue allows, and a mix that was not as it should be."""
    if open_s is not None and found.open_s is not None and open_s > found.open_s:
        yield f"open time exceeded by {minutes(open_s - found.open_s)}"
    mix = facts.mixes.get(facts.members[s.id].glueup_id)
    if mix is not None:
        stood = (facts.pressed_at(s) - moment(mix.mixed_at)).total_seconds()
        if found.pot_s is not None and stood > found.pot_s:
            yield f"pot life exceeded by {minutes(stood - found.pot_s)}"
        if mix.deviation:
            yield f"mix: {mix.deviation}"
    if taken is not None and found.clamp_s is not None and taken < found.clamp_s:
        yield f"clamped {minutes(found.clamp_s - taken)} shorter than its label says"
    air = facts.glueups[facts.members[s.id].glueup_id].air_c
    if found.least_c is not None and air is not None and air < found.least_c:
        yield f"colder than its label's {found.least_c:g} °C"


def minutes(seconds: float) -> str:
    """A short time as on a kitchen clock: 70 s are "1:10", 4 h 5 min are "4 h 05"."""
    whole = round(seconds)
    if whole < 3600:
        return f"{whole // 60}:{whole % 60:02d}"
    return f"{whole // 3600} h {whole % 3600 // 60:02d}"
