"""What the glue of a level is: its family, and what its label promises."""

from __future__ import annotations

from collections.abc import Mapping

from adhaero.core.glue.limits import Label
from adhaero.core.materials.glue import GLUES, NO_GLUE
from adhaero.core.plan.document import Plan, level_name
from adhaero.core.quantity import Dimension
from adhaero.core.times import span
from adhaero.core.units import Units

BY_LABEL = "by-label"
"""The policy by which each glue is used as its own label says."""


def is_glued(value: object) -> bool:
    """Whether that level of the glue is a glue at all."""
    return value not in (None, NO_GLUE)


def family_of(plan: Plan, value: object) -> str:
    """The family of a glue level; empty where it is not known."""
    if isinstance(value, str) and value in plan.products:
        return plan.products[value].family
    return value if isinstance(value, str) and value in GLUES else ""


def label_of(plan: Plan, value: object) -> Label | None:
    """What holds for a glue level: its own label's figures, else those usual for its family. ``None`` if unknown."""
    product = plan.products.get(value) if isinstance(value, str) else None
    family = GLUES.get(family_of(plan, value))
    own = dict(product.label) if product else {}
    if family is None:
        return own or None
    usual = {
        "open_s": family.open_s,
        "clamp_s": family.clamp_s,
        "pressure_low_mpa": family.pressure_low_mpa,
        "pressure_high_mpa": family.pressure_high_mpa,
    }
    if family.pot_life_s is not None:
        usual["pot_s"] = family.pot_life_s
    return {**usual, **own}


def in_words(label: Label, units: Units) -> str:
    """What a label promises, in the user's units: "pressed with 0.5 to 1.2 MPa, clamped for 1 h, open for 8 min"."""
    said = []
    low, high = label.get("pressure_low_mpa"), label.get("pressure_high_mpa")
    if low is not None or high is not None:
        ends = [units.text(v, Dimension.STRESS) for v in (low, high) if v is not None]
        only = "at least " if high is None else "up to " if low is None else ""
        said.append(f"pressed with {only}{' to '.join(ends)}")
    for key, word in (("clamp_s", "clamped for {} or longer"), ("open_s", "open for {}"), ("pot_s", "pot life {}")):
        if key in label:
            said.append(word.format(span(label[key])))
    if "least_c" in label:
        said.append(f"from {units.text(label['least_c'], Dimension.TEMPERATURE)} on")
    return ", ".join(said)


def policy_in_words(plan: Plan, units: Units) -> str:
    """How the glues of a plan were used, if each by its own label; empty where all were used alike."""
    varied = next((f for f in plan.factors if f.key == "glue"), None)
    if plan.policy != BY_LABEL or varied is None:
        return ""
    said = []
    for level in varied.levels:
        label = as_label_says(label_of(plan, level.value) or {}) if is_glued(level.value) else {}
        figures = [units.text(v, Dimension.STRESS) if k == "pressure_mpa" else span(v) for k, v in label.items()]
        if figures:
            said.append(f"{level_name('glue', level)} {' for '.join(figures)}")
    return (
        f"Each glue was used as its label says ({'; '.join(said)}): pressure and clamp time run along with the glue, "
        "and the answer is about the glue as its label wants it."
    )


def as_label_says(label: Label) -> Mapping[str, float]:
    """Pressure and clamp time of a glue that is used by its label: the middle of the range of pressure (its least where
    no most is stated), and the least clamp time.
    """
    found = {}
    low, high = label.get("pressure_low_mpa"), label.get("pressure_high_mpa")
    if low is not None or high is not None:
        found["pressure_mpa"] = (low + high) / 2 if low is not None and high is not None else (low or high or 0.0)
    if "clamp_s" in label:
        found["clamp_s"] = label["clamp_s"]
    return found
