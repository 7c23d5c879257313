"""Plans whose gluing is hard to schedule; all made up. Hours are local stretches of a week, times in seconds."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime

from adhaero.core.glue.schedule.hours import Hours, stretches
from adhaero.core.glue.schedule.problem import Clamps, GlueLimits, Joint, Pace, Problem

MINUTE, H, D = 60, 3600, 86400
START = datetime(2026, 11, 23, 8, 0, tzinfo=UTC)
"""A Monday morning."""
EVENINGS = Hours((*((d, 17 * 60, 22 * 60) for d in range(5)), (5, 8 * 60, 20 * 60)))
DAYS = Hours((*((d, 7 * 60, 22 * 60) for d in range(7)),))
WEEK = Hours((*((d, 8 * 60, 17 * 60) for d in range(5)),))
AREA_MM2 = 500.0


def joint(
    n: int, treatment: str, *, glue: str = "pva-damp", mpa: float = 0.8, clamp: float = 4 * H, cure: float = 24 * H,
    share: float = 0.05, wet: int = 0, replicate: int = 1, clamp_tol: int | None = None, cure_tol: int | None = None,
) -> Joint:  # fmt: skip
    """A joint with tolerances as a share of its times, two minutes at least."""
    return Joint(
        code=f"J{n:04d}", treatment=treatment, glue=glue, force_n=mpa * AREA_MM2, clamp_s=int(clamp), cure_s=int(cure),
        clamp_tol_s=clamp_tol if clamp_tol is not None else max(120, int(share * clamp)),
        cure_tol_s=cure_tol if cure_tol is not None else max(120, int(share * cure)),
        wet_s=wet, wet_tol_s=max(600, int(0.05 * wet)), replicate=replicate,
    )  # fmt: skip


GLUES = {"pva-damp": GlueLimits(480), "epoxy-slow": GlueLimits(2400, 2400)}
BARS = Clamps("bar", "Bar clamp", 6, 1, 3000.0)


def pressures_by_ages() -> Problem:
    """45 pieces: 3 pressures, 5 ages from 1 to 24 h, 3 of each; 6 clamps, evenings and Saturday."""
    joints = [
        joint(0, f"{mpa} {age}", mpa=mpa, clamp=0.75 * H, cure=age * H, replicate=r, share=0.1)
        for age in (1, 3, 6, 12, 24) for mpa in (0.2, 0.6, 1.2) for r in range(1, 4)
    ]  # fmt: skip
    return _problem(joints, (BARS,), EVENINGS, 21)


def weights_and_clamps() -> Problem:
    """35 pieces in 5 pressures; two dead weights for the lowest, four clamps for the others; 24 h each."""
    weights = Clamps("weight", "Dead weight", 2, 1, 60.0, 60.0)
    clamps = Clamps("clamp", "Screw clamp", 4, 1, 3000.0, 100.0)
    joints = [
        joint(0, f"{mpa}", mpa=mpa, clamp=24 * H, cure=72 * H, replicate=r)
        for mpa in (0.12, 0.4, 0.8, 1.2, 1.6) for r in range(1, 8)
    ]  # fmt: skip
    return _problem(joints, (weights, clamps), DAYS, 40)


def clamp_times() -> Problem:
    """Clamp times from 5 min to 24 h, 5 of each, broken within 10 min of their release."""
    joints = [
        joint(0, f"{t}", clamp=t, cure=t + 10 * MINUTE, replicate=r, clamp_tol=max(60, int(0.05 * t)),
              cure_tol=max(5 * MINUTE, int(0.05 * t)))
        for t in (5 * MINUTE, 15 * MINUTE, H, 4 * H, 10 * H, 24 * H) for r in range(1, 6)
    ]  # fmt: skip
    return _problem(joints, (BARS,), DAYS, 21)


def wet_and_dry() -> Problem:
    """8 glues, dry or soaked for a day, 6 of each."""
    joints = [
        joint(0, f"{g} {wet}", glue=f"glue {g}", cure=72 * H, wet=wet, replicate=r)
        for g in range(8) for wet in (0, 24 * H) for r in range(1, 7)
    ]  # fmt: skip
    glues = {f"glue {g}": GlueLimits(600 + 120 * g) for g in range(8)}
    return _problem(joints, (Clamps("bar", "Bar clamp", 12, 1, 3000.0),), EVENINGS, 40, glues)


def weights_on_two() -> Problem:
    """Seven joints of each of 2 pressures under weights that lie on two side by side: one place is a dummy's."""
    light = Clamps("weight", "Weight on two", 3, 2, 120.0, 120.0, "weight")
    heavy = Clamps("iron", "Iron on two", 3, 2, 300.0, 300.0, "weight")
    joints = [
        joint(0, f"{mpa}", mpa=mpa, clamp=4 * H, cure=24 * H, replicate=r) for mpa in (0.12, 0.3) for r in range(1, 8)
    ]
    return _problem(joints, (light, heavy), DAYS, 21)


def tape_and_nothing() -> Problem:
    """Panels pressed by nothing, by tape and by clamps, sawn into three and broken at four ages."""
    means = (("nothing", 0.0), ("tape", 0.0), ("", 0.6))
    joints = [
        replace(joint(0, f"{m or mpa} {age}", mpa=mpa, clamp=0 if m else H / 2, cure=age * H, replicate=r, share=0.1),
                means=m, sections=3, cure_tol_s=max(270, int(0.1 * age * H)))
        for m, mpa in means for age in (1, 3, 6, 12) for r in (1, 2)
    ]  # fmt: skip
    free = tuple(Clamps(f"free-{m}", m, 20, means=m) for m in ("nothing", "tape"))
    return _problem(joints, (BARS, *free), DAYS, 14)


def exact_clamp_times() -> Problem:
    """Clamp times are the factor: 5 min to overnight, aimed at to a minute, broken at release."""
    joints = [
        joint(0, f"{t} min", clamp=t * MINUTE, cure=t * MINUTE + 10 * MINUTE, replicate=r, clamp_tol=MINUTE,
              cure_tol=max(5 * MINUTE, t * MINUTE // 20))
        for t in (5, 15, 30, 60, 120, 240, 480, 840) for r in range(1, 4)
    ]  # fmt: skip
    return _problem(joints, (BARS,), DAYS, 14)


def two_temperatures() -> Problem:
    """Warm and cold glue-ups of three glues: a mix holds joints of one temperature only."""
    joints = [
        replace(joint(0, f"{g} {air}", glue=g, cure=48 * H, replicate=r), apart=f"{air} C")
        for g in ("pva-damp", "epoxy-slow") for air in (8, 20) for r in range(1, 7)
    ]  # fmt: skip
    return _problem(joints, (BARS,), EVENINGS, 21)


def large() -> Problem:
    """1,280 pieces: 32 glues, 4 conditions, 10 of each; 40 clamps."""
    joints = [
        joint(0, f"{g} {wet}", glue=f"glue {g}", cure=72 * H, wet=wet, replicate=r, share=0.1)
        for g in range(32) for wet in (0, 6 * H, 24 * H, 168 * H) for r in range(1, 11)
    ]  # fmt: skip
    glues = {f"glue {g}": GlueLimits(1200) for g in range(32)}
    return _problem(joints, (Clamps("bar", "Bar clamp", 40, 1, 3000.0),), WEEK, 120, glues)


def five_years() -> Problem:
    """7 families, 10 of each for each of 7 pulls over five years."""
    joints = [
        joint(0, f"{g} {days}", glue=f"glue {g}", cure=days * D, replicate=r, cure_tol=max(D // 2, days * D // 50))
        for g in range(7) for days in (3, 90, 180, 365, 730, 1095, 1825) for r in range(1, 11)
    ]  # fmt: skip
    glues = {f"glue {g}": GlueLimits(1500) for g in range(7)}
    return _problem(joints, (Clamps("bar", "Bar clamp", 20, 1, 3000.0),), EVENINGS, 1825 + 60, glues)


def _problem(
    joints: list[Joint], clamps: tuple[Clamps, ...], hours: Hours, days: int, glues: dict[str, GlueLimits] | None = None
) -> Problem:
    numbered = tuple(Joint(**{**j.__dict__, "code": f"J{n:04d}"}) for n, j in enumerate(joints, 1))
    return Problem(numbered, clamps, glues or GLUES, tuple(stretches(hours, START, days)), Pace())


INSTANCES = {
    "pressures by ages": pressures_by_ages,
    "weights and clamps": weights_and_clamps,
    "clamp times": clamp_times,
    "wet and dry": wet_and_dry,
    "1,280 pieces": large,
    "five years": five_years,
    "weights on two": weights_on_two,
    "tape and nothing": tape_and_nothing,
    "exact clamp times": exact_clamp_times,
    "two temperatures": two_temperatures,
}
