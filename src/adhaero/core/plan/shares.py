"""What share of solid wood's strength a joint is taken to bear, where nobody has broken one like it.

Rules of thumb for forecasts, each in a function of its own; a forecast gives a wide range on purpose. They say which
levels they know nothing of, so that nobody takes two equal forecasts for a finding.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from adhaero.core.glue.exposure import WET, path_of
from adhaero.core.grain import ACROSS
from adhaero.core.materials.glue import GLUES, NO_GLUE
from adhaero.core.plan.document import Level, Plan
from adhaero.core.plan.fields import FIELDS
from adhaero.core.plan.glues import family_of, is_glued, label_of

_LINE = {"long-parallel": 0.85, "long-crossed": 0.9, "long-end": 0.35, "end-end": 0.25}
_LINE_ACROSS = 0.9
"""Share of a half that is loaded across its grain: a sound line is about as good as the wood beside it."""
_FORM = {
    "scarf": 0.75, "vee": 0.7, "finger": 0.6, "sheet-key": 0.4, "butt-corner": 0.2, "rebate-dowels": 0.45, "mitre": 0.3,
    "mitre-spline-along": 0.35, "mitre-spline-across": 0.5,
    "mitre-key": 0.4, "rebate": 0.35, "comb": 0.6, "dovetail": 0.6, "mortise-tenon": 0.55, "dowelled": 0.4,
    "loose-tenon-along": 0.5, "loose-tenon-across": 0.25, "half-lap": 0.4,
}  # fmt: skip
_GLUE = {"contact": 0.25, "hot-melt": 0.2, "construction": 0.5, NO_GLUE: 0.02}
_GAP_MM = {"epoxy-slow": 2.0, "epoxy-fast": 2.0, "construction": 3.0, "polyurethane": 0.4, "urea-resin": 0.25}
_GAP_USUAL_MM = 0.15
"""Gap at which half of the strength is left: a tenth or two of a millimetre for glues that shrink, far more for those
that fill.
"""
_AT_RELEASE, _AT_CURE = 0.5, 0.97
"""Shares of the full strength at the label's clamp time and cure time."""
_UNPRESSED = 0.6
_KNOWN = {
    "species", "species_b", "orientation", "glue", "form", "pressure_mpa", "press_by", "clamp_s", "cure_s",
    "conditioning", "gap_mm",
}  # fmt: skip
"""Fields that the forecast knows something of."""


@dataclass(frozen=True)
class Share:
    """A share of solid wood from 0 to 1; ``unknown`` names what it could not take into account."""

    share: float
    unknown: tuple[str, ...] = ()


def line_share(form: str, orientation: str, halves: tuple[str, str] | None) -> float:
    """Of the weaker half's solid wood, by form and by the grain that meets."""
    if form in _FORM:
        return _FORM[form]
    if halves is not None and ACROSS in halves:
        return _LINE_ACROSS
    return _LINE.get(orientation, 0.5)


def cured(seconds: float, clamp_s: float, cure_s: float) -> float:
    """Share of the full strength at an age: half at the label's clamp time, 97 % at its cure time, by a Weibull curve
    1 - exp(-(t/T)^k) through both.
    """
    if seconds <= 0:
        return 0.0
    if cure_s <= clamp_s:
        return _AT_CURE
    half, full = -math.log(1 - _AT_RELEASE), -math.log(1 - _AT_CURE)
    k = math.log(full / half) / math.log(cure_s / clamp_s)
    return 1 - math.exp(-half * (seconds / clamp_s) ** k)


def across_gap(family: str, gap_mm: float) -> float:
    """Share left across a gap: half at the family's own gap, g0 / (g0 + gap)."""
    usual = _GAP_MM.get(family, _GAP_USUAL_MM)
    return usual / (usual + gap_mm)


def pressed(pressure_mpa: float, wanted_mpa: float) -> float:
    """Share by clamp pressure: all from the label's least on, three fifths with none at all."""
    return 1.0 if pressure_mpa >= wanted_mpa else _UNPRESSED + (1 - _UNPRESSED) * pressure_mpa / wanted_mpa


def conditioned(level: str) -> float | None:
    """Share by what a joint goes through, read from its path: wet or dry at the break, frosts, heat, weather."""
    if level in ("", "dry"):
        return 1.0
    path = path_of(level)
    if path is None:
        return None
    wet_s = sum(s.seconds for s in path.steps if s.kind in WET)
    share = 1.0
    if wet_s > 0 and path.drying_s > 0:
        share *= 0.8
    elif wet_s > 0:
        share *= 0.55 if wet_s < 3 * 86400 else 0.4
    if any(s.kind == "boil" for s in path.steps):
        share *= 0.6
    share *= 0.97 ** sum(s.kind == "freeze" for s in path.steps)
    if any(s.kind == "heat" for s in path.steps):
        share *= 0.6
    return share


def made_share(plan: Plan, record: Mapping[str, Level]) -> Share:
    """The share by how a joint is made: its age, its gap and its pressure, against what its glue wants."""
    glue = record["glue"].value
    family = family_of(plan, glue)
    if family not in GLUES:
        return Share(1.0)
    label, usual, share = label_of(plan, glue) or {}, GLUES[family], 1.0
    age, gap, pressure = (_number(record, k) for k in ("cure_s", "gap_mm", "pressure_mpa"))
    if age is not None:
        share *= cured(age, label.get("clamp_s", usual.clamp_s), usual.cure_s)
    if gap:
        share *= across_gap(family, gap)
    if pressure is None:
        return Share(share, ("the pressure",))
    return Share(share * pressed(pressure, label.get("pressure_low_mpa", usual.pressure_low_mpa)))


def exposed_share(record: Mapping[str, Level]) -> Share:
    """The share by what a joint goes through before it is broken."""
    went = record.get("conditioning")
    through = conditioned(str(went.value) if went is not None and went.value is not None else "")
    return Share(1.0, (FIELDS["conditioning"].name.lower(),)) if through is None else Share(through)


def glue_share(plan: Plan, record: Mapping[str, Level]) -> float | None:
    """The share by the family; ``None`` for a glue that nothing is known of: no other one stands in for it."""
    glue = record["glue"].value
    if not is_glued(glue):
        return _GLUE[NO_GLUE]
    family = family_of(plan, glue)
    return _GLUE.get(family, 1.0) if family in GLUES else None


def unknown_factors(plan: Plan) -> tuple[str, ...]:
    """What differs in the plan and is nothing that these rules know."""
    return tuple(f.name.lower() for f in plan.factors if f.key not in _KNOWN)


def _number(record: Mapping[str, Level], key: str) -> float | None:
    level = record.get(key)
    return level.value if level is not None and isinstance(level.value, float | int) else None
