"""What the labels of a plan's glues have to say about how its joints are made."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any

from adhaero.core.glue.pressing import CLAMPLESS
from adhaero.core.materials.glue import GLUES
from adhaero.core.plan.caveat import Caveat
from adhaero.core.plan.document import Level, Plan, level_name, level_text
from adhaero.core.plan.glues import BY_LABEL, is_glued, label_of
from adhaero.core.plan.records import records
from adhaero.core.quantity import Dimension
from adhaero.core.times import span
from adhaero.core.units import Units


def label_caveats(plan: Plan, units: Units) -> Iterator[Caveat]:
    """Pressure, clamp time, open time and air against the label of each glue. What is studied itself is no mistake."""
    varied = {f.key for f in plan.factors}
    for record in records(plan):
        value = record["glue"].value
        label = label_of(plan, value)
        if not is_glued(value) or label is None:
            continue
        name = GLUES[str(value)].name if value in GLUES else str(value)
        said = "its label's" if value in plan.products and plan.products[str(value)].label else "the usual"
        if "pressure_mpa" not in varied:
            yield from _pressure(plan, record, label, f"{name}: {{}} is {{}} {said} {{}}.", units)
        if "clamp_s" not in varied:
            yield from _clamp_time(plan, record, label, name, said)
        opened, air = _number(record, "open_s"), _number(record, "air_c")
        if opened is not None and opened > label.get("open_s", opened) and "open_s" not in varied:
            text = f"{name}: open for {span(opened)}, longer than {said} {span(label['open_s'])}."
            yield Caveat("constants.open_s", text)
        if air is not None and air < label.get("least_c", air) and "air_c" not in varied:
            shown = [units.text(v, Dimension.TEMPERATURE) for v in (air, label["least_c"])]
            yield Caveat("constants.air_c", f"{name}: {shown[0]} is colder than its label allows, {shown[1]}.")


def _remedy(plan: Plan, key: str, level: Level, words: str) -> tuple[str, Mapping[str, Any] | None]:
    """For one glue a better value; where glues differ, each by its own label."""
    if any(f.key == "glue" for f in plan.factors):
        return ("Use each as its label says", {"policy": BY_LABEL}) if plan.policy != BY_LABEL else ("", None)
    return words, {"constants": {key: vars(level)}}


def _pressure(
    plan: Plan, record: Mapping[str, Level], label: Mapping[str, float], text: str, units: Units
) -> Iterator[Caveat]:
    pressure, low, high = _number(record, "pressure_mpa"), label.get("pressure_low_mpa"), label.get("pressure_high_mpa")
    if pressure is None or (low is None and high is None):
        return
    if (low is None or pressure >= low) and (high is None or pressure <= high):
        return
    below = low is not None and pressure < low
    nearest = low if below else high
    assert nearest is not None
    usual = " to ".join(units.text(v, Dimension.STRESS) for v in (low, high) if v is not None)
    typed = level_name("pressure_mpa", record["pressure_mpa"])
    better = Level(nearest, units.symbol(Dimension.STRESS))
    remedy, change = _remedy(plan, "pressure_mpa", better, f"Press with {units.text(nearest, Dimension.STRESS)}")
    yield Caveat(
        "constants.pressure_mpa", text.format(typed, "below" if below else "above", usual), remedy, change
    )  # fmt: skip


def _clamp_time(
    plan: Plan, record: Mapping[str, Level], label: Mapping[str, float], name: str, said: str
) -> Iterator[Caveat]:
    clamp, least = _number(record, "clamp_s"), label.get("clamp_s")
    # What takes no clamp has no clamp time that could be too short.
    held = level_text(record.get("press_by")) not in CLAMPLESS
    if not held or clamp is None or least is None or clamp >= least:
        return
    typed = level_name("clamp_s", record["clamp_s"])
    text = f"{name}: {typed} in the clamp is shorter than {said} {span(least)}."
    remedy, change = _remedy(plan, "clamp_s", Level(least, "h"), f"Clamp for {span(least)}")
    yield Caveat("constants.clamp_s", text, remedy, change)


def _number(record: Mapping[str, Level], key: str) -> float | None:
    level = record.get(key)
    return level.value if level is not None and isinstance(level.value, float | int) else None
