"""A glue's limits at the bench: from the bottle's label where it states them, else usual for the family, and both at
the temperature of the air.

Warmth hurries a glue: its open time and pot life are halved by ten degrees more and doubled by ten degrees less
(van 't Hoff's rule: reactions run about twice as fast for each 10 K). It is a rule of thumb, so it is carried no
farther than from 5 to 35 degrees; a label that states times for another temperature wins.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from adhaero.core.materials.glue import GLUES
from adhaero.core.refusal import Problems

USUAL_C = 20.0
"""The temperature that labels and the families' figures are for."""
LOWEST_C, HIGHEST_C = 5.0, 35.0
SIZED_WAIT_S = 600.0
"""How long a first thin coat stands before the second: until it no longer looks wet, ten minutes indoors."""

Label = Mapping[str, float]
"""What a label states: any of ``RANGES``, in s, MPa and degrees Celsius."""
RANGES: dict[str, tuple[str, float, float]] = {
    "open_s": ("open time", 5, 86400),
    "pot_s": ("pot life", 30, 7 * 86400),
    "clamp_s": ("least clamp time", 1, 14 * 86400),
    "pressure_low_mpa": ("least pressure", 0, 20),
    "pressure_high_mpa": ("most pressure", 0.001, 20),
    "least_c": ("least temperature", -20, 40),
    "label_c": ("temperature that the times are for", 0, 40),
}


@dataclass(frozen=True)
class Limits:
    """What holds for a glue at a bench; times in s, ``None`` where nothing is known. ``at_c`` is the air they are for,
    ``stated`` which of them the bottle's own label states; the others are usual for the family.
    """

    open_s: float | None
    pot_s: float | None
    clamp_s: float | None
    pressure_low_mpa: float | None
    pressure_high_mpa: float | None
    least_c: float | None
    at_c: float
    stated: frozenset[str] = frozenset()

    def whose(self, key: str) -> str:
        """Where a limit comes from, in a word."""
        return "label" if key in self.stated else "usual"


def check_label(label: Label, field: str = "limits") -> None:
    """Raise ``Refusal`` for figures that no label states."""
    p = Problems()
    for key, value in label.items():
        name, low, high = RANGES.get(key, (key, 1.0, 0.0))
        if key not in RANGES:
            p.add(
                f"{field}.{key}",
                f"{key[:40]!r} is nothing that a label limits",
                "Use one of: " + ", ".join(RANGES) + ".",
            )
        else:
            p.check(low <= value <= high, f"{field}.{key}", f"a {name} of {value:g} is not possible", "Check its unit.")
    low_mpa, high_mpa = label.get("pressure_low_mpa"), label.get("pressure_high_mpa")
    if low_mpa is not None and high_mpa is not None:
        p.check(
            low_mpa < high_mpa, f"{field}.pressure_high_mpa", "the most pressure lies below the least", "Swap the two."
        )
    p.raise_if_any()


def hurried(seconds: float, air_c: float, stated_at_c: float = USUAL_C) -> float:
    """A time stated for one temperature, at another: halved by each ten degrees more.

    480 s at 20 degrees are 240 s at 30, 679 s at 15.
    """
    here = min(HIGHEST_C, max(LOWEST_C, air_c))
    return float(seconds * 2 ** ((stated_at_c - here) / 10))


def limits(family: str, label: Label | None = None, air_c: float | None = None) -> Limits:
    """The limits of a glue in air of ``air_c`` (20 degrees where nobody measured)."""
    own, usual = dict(label or {}), GLUES.get(family)
    at, stated = USUAL_C if air_c is None else air_c, own.get("label_c", USUAL_C)

    def time(key: str, of_family: float | None) -> float | None:
        if key in own:
            return hurried(own[key], at, stated)
        return None if of_family is None else hurried(of_family, at)

    return Limits(
        open_s=time("open_s", usual.open_s if usual else None),
        pot_s=time("pot_s", usual.pot_life_s if usual else None),
        clamp_s=own.get("clamp_s"),
        pressure_low_mpa=own.get("pressure_low_mpa", usual.pressure_low_mpa if usual else None),
        pressure_high_mpa=own.get("pressure_high_mpa", usual.pressure_high_mpa if usual else None),
        least_c=own.get("least_c"),
        at_c=at,
        stated=frozenset(own),
    )


def joints_per_mix(found: Limits, joint_s: float, mix_s: float = 0.0) -> int | None:
    """How many joints one mix does, spread one after the other: by its pot life, mixing included.

    ``None`` for a glue that needs no mixing. At least one: a joint that takes longer is told of elsewhere.
    """
    if found.pot_s is None:
        return None
    return max(1, int((found.pot_s - mix_s) // joint_s))
