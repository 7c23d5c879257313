"""What the user should know before locking: what will happen, at which field, and a remedy to press.

Everything here is advice. A plan with caveats may be locked; the report repeats those that still hold.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from adhaero.core.glue.clamping import crushes
from adhaero.core.glue.exposure import path_of
from adhaero.core.materials.glue import GLUES
from adhaero.core.materials.wood import WOODS, moisture_at, movement_mm
from adhaero.core.plan.design import reach
from adhaero.core.plan.document import Level, Plan, cells, level_name, method_of, records
from adhaero.core.plan.forecast import TOO_STRONG, Expected, Range
from adhaero.core.quantity import Dimension, shown

CROSS_GRAIN_MM = 0.5
"""Movement across a crossed line above which the line is worked loose over the seasons: a bench rule of thumb."""


@dataclass(frozen=True)
class Caveat:
    """``change`` is what the remedy does to the plan's document, ``remedy`` what its button says."""

    field: str
    text: str
    remedy: str = ""
    change: Mapping[str, Any] | None = None


def caveats(plan: Plan) -> list[Caveat]:
    """What the plan cannot find out, or does against the usual. Assumes that it could be locked."""
    found = [Caveat("sizes", text) for text in method_of(plan).warnings(plan.sizes)]
    found += [
        *_numbers(plan),
        *_controls(plan),
        *_label(plan),
        *_runs_along(plan),
        *_movement(plan),
        *_crush(plan),
        *_exposure(plan),
    ]
    return list({c.text: c for c in found}.values())


def _numbers(plan: Plan) -> Iterator[Caveat]:
    enough = Caveat("replicates", "", "Make 5 of each", {"replicates": 5})
    if plan.replicates == 1:
        text = "One piece shows that it can happen, not how often: no scatter, no test."
        yield Caveat("replicates", text, enough.remedy, enough.change)
    elif plan.replicates == 2:
        text = "Two pieces give hardly a scatter: only very large differences show."
        yield Caveat("replicates", text, enough.remedy, enough.change)
    else:
        r = reach(plan)
        if r.all_pairs is not None and r.all_pairs > plan.assumptions.matters * 1.05 and r.needed:
            text = (
                f"{plan.replicates} of each show differences of {100 * r.all_pairs:.0f} %; "
                f"{100 * plan.assumptions.matters:.0f} % matters to you and takes {r.needed}."
            )
            if r.needed <= 60:
                yield Caveat("replicates", text, f"Make {r.needed} of each", {"replicates": r.needed})
            else:
                share = round(r.all_pairs + 0.005, 2)
                change = {"assumptions": {"matters": min(0.9, share)}}
                yield Caveat("replicates", text, f"Ask for {100 * share:.0f} % only", change)


def _controls(plan: Plan) -> Iterator[Caveat]:
    if plan.control is None and not any(e.control for e in plan.extras):
        first = cells(plan)[0] if cells(plan) else None
        text = "No control: nothing to measure 'better' against."
        yield Caveat("control", text, "Take the first treatment", {"control": first} if first else None)
    if method_of(plan).solid and plan.solid_reference < 3:
        text = (
            "Fewer than three solid pieces: joint efficiency gets no interval worth having."
            if plan.solid_reference
            else "No solid reference: joint efficiency stays unknown."
        )
        yield Caveat("solid_reference", text, "Add 4 solid pieces", {"solid_reference": 4})


def _number(level: Level | None) -> float | None:
    return level.value if level is not None and isinstance(level.value, float | int) else None


def _label(plan: Plan) -> Iterator[Caveat]:
    varied = {f.key for f in plan.factors}
    for record in records(plan):
        family = GLUES.get(str(record["glue"].value))
        pressure, clamp, opened = (_number(record.get(k)) for k in ("pressure_mpa", "clamp_s", "open_s"))
        if family is None:
            continue
        low, high = family.pressure_low_mpa, family.pressure_high_mpa
        if pressure is not None and not low <= pressure <= high:
            side = "below" if pressure < low else "above"
            nearest = low if pressure < low else high
            typed = level_name("pressure_mpa", record["pressure_mpa"])
            text = f"{family.name}: {typed} is {side} the usual {low:g} to {high:g} MPa."
            free = "pressure_mpa" not in varied and "glue" not in varied
            yield Caveat("constants.pressure_mpa", text, f"Press with {nearest:g} MPa" if free else "",
                         {"constants": {"pressure_mpa": vars(Level(nearest, "MPa"))}} if free else None)  # fmt: skip
        if clamp is not None and clamp < family.clamp_s:
            text = (
                f"{family.name}: {level_name('clamp_s', record['clamp_s'])} in the clamp is shorter than the usual "
                f"{family.clamp_s / 3600:g} h."
            )
            free = "clamp_s" not in varied
            yield Caveat("constants.clamp_s", text, f"Clamp for {family.clamp_s / 3600:g} h" if free else "",
                         {"constants": {"clamp_s": vars(Level(family.clamp_s, "h"))}} if free else None)  # fmt: skip
        if opened is not None and opened > family.open_s:
            minutes = family.open_s / 60
            text = f"{family.name}: open for {opened / 60:g} min, longer than the usual {minutes:g} min."
            yield Caveat("constants.open_s", text)


def _runs_along(plan: Plan) -> Iterator[Caveat]:
    """A covariate that runs along with a factor, so that the two cannot be told apart."""
    grid = cells(plan)
    for i, a in enumerate(plan.factors):
        for j, b in enumerate(plan.factors):
            if i < j and len(grid) > 1:
                pairs = {(c[i], c[j]) for c in grid}
                if len(pairs) == len({p[0] for p in pairs}) == len({p[1] for p in pairs}) > 1:
                    text = (
                        f"{a.name} and {b.name.lower()} change together in every treatment: they cannot be told apart."
                    )
                    yield Caveat("dropped", text, "Make every combination", {"dropped": []})
    if plan.policy == "by-label" and any(f.key == "glue" for f in plan.factors):
        text = (
            "Each glue by its label: clamp time and pressure run along with the glue. The answer is about the glue as "
            "its label wants it, not about the glue alone."
        )
        yield Caveat("policy", text, "Same for all", {"policy": "same-for-all"})


def _movement(plan: Plan) -> Iterator[Caveat]:
    """Crossed grain: how far the seasons move one piece against the other."""
    a = plan.assumptions
    for record in records(plan):
        crossed = record["orientation"].value in ("long-crossed", "long-end") or record.get("form") == Level("half-lap")
        wood = WOODS.get(str(record["species"].value))
        if not crossed or wood is None:
            continue
        width = max(plan.sizes.get("width", 0.0), plan.sizes.get("overlap", 0.0), plan.sizes.get("other_width", 0.0))
        swing = moisture_at(a.humidity_high_pct) - moisture_at(a.humidity_low_pct)
        moved = movement_mm(width, wood.shrink_tangential_pct, swing)
        if moved > CROSS_GRAIN_MM:
            most = width * CROSS_GRAIN_MM / moved
            text = (
                f"Crossed grain: {width:g} mm of {wood.name.lower()} move {moved:.1f} mm between "
                f"{a.humidity_low_pct:g} and {a.humidity_high_pct:g} % humidity; up to about {most:.0f} mm wide a line "
                "bears that."
            )
            yield Caveat("sizes.width_mm", text)


def _crush(plan: Plan) -> Iterator[Caveat]:
    for record in records(plan):
        wood, pressure = WOODS.get(str(record["species"].value)), _number(record.get("pressure_mpa"))
        if wood and pressure and crushes(pressure, wood.crush_across_mpa):
            text = (
                f"{level_name('pressure_mpa', record['pressure_mpa'])} comes near crushing {wood.name.lower()} "
                f"({wood.crush_across_mpa:g} MPa across the grain)."
            )
            yield Caveat("constants.pressure_mpa", text)


def rig_caveats(
    plan: Plan, forecast: Sequence[Expected], rig: Range | None, fit: tuple[str, float] | None
) -> list[Caveat]:
    """What the forecast says about the rig; ``fit`` is the size with which it breaks 19 of 20 pieces."""
    if rig is None:
        return [Caveat("rig", "No rig is set up in the shop: whether it can break these pieces is not known.")]
    strong = [e for e in forecast if (e.beyond or 0.0) > TOO_STRONG]
    weak = [e for e in forecast if (e.unreadable or 0.0) > 0.5]
    found = []
    if strong:
        worst = max(strong, key=lambda e: e.beyond or 0.0)
        limit = shown(rig.limit_n, "N", Dimension.FORCE)
        load, share = shown(round(worst.load_n, -1), "N", Dimension.FORCE), 100 * (worst.beyond or 0)
        text = (
            f"Too strong for the rig: treatment {worst.letter} is expected near {load}, the rig is used up to {limit}. "
            f"About {share:.0f} % of its pieces would not break."
        )
        if fit is None:
            found.append(Caveat("sizes", text + " No sane size fits: choose another method, or a stronger rig."))
        else:
            key, value = fit
            size = next(s for s in method_of(plan).sizes_for() if s.key == key)
            change = {"sizes": {key: value}}
            found.append(Caveat("sizes", text, f"Make the {size.name.lower()} {value:g} mm", change))
    if weak:
        letters = ", ".join(e.letter for e in weak)
        text = (
            f"Too weak to read well: treatment {letters} breaks within fifty steps of the rig "
            f"({shown(rig.resolution_n, 'N', Dimension.FORCE)} each). Make the joint larger or read it finer."
        )
        found.append(Caveat("sizes", text))
    return found


def _exposure(plan: Plan) -> Iterator[Caveat]:
    """A conditioning in words without times: nothing can be scheduled for it."""
    for own in records(plan):
        level = own.get("conditioning")
        text = str(level.value) if level is not None and level.value is not None else "dry"
        if text != "dry" and path_of(text) is None:
            yield Caveat(
                "conditioning",
                f"{text!r} states no times: neither bath nor break is scheduled for it. "
                "Write it like: soak 6 h at 18 °C, dry 12 h, soak 6 h.",
            )
