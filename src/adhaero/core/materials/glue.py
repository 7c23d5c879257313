"""Glue families: what the program assumes until the user types the figures of his own label.

Times are for about 20 degrees Celsius. Pressure is what the family usually asks for on hardwood; a family that
fills gaps asks for contact only. ``source`` of all figures: the range that data sheets of the family commonly state;
the label on the bottle always wins.
"""

from __future__ import annotations

from dataclasses import dataclass

SOURCE = "usual range for the family; the label on the bottle wins"


@dataclass(frozen=True)
class GlueFamily:
    """A family of glue: times in s, pressure in MPa. ``caution`` is what to say at the bench."""

    key: str
    name: str
    open_s: float
    clamp_s: float
    cure_s: float
    pressure_low_mpa: float
    pressure_high_mpa: float
    pot_life_s: float | None
    caution: str


_MIN, _H = 60.0, 3600.0


def _g(
    key: str,
    name: str,
    minutes_open: float,
    hours_clamp: float,
    hours_cure: float,
    pressure: tuple[float, float],
    caution: str,
    pot_min: float | None = None,
) -> GlueFamily:
    pot = None if pot_min is None else pot_min * _MIN
    low, high = pressure
    return GlueFamily(key, name, minutes_open * _MIN, hours_clamp * _H, hours_cure * _H, low, high, pot, caution)


_RESIN = "Gloves and fresh air: resin and hardener sensitise skin. Mix small, large mixes heat up."

GLUES: dict[str, GlueFamily] = {
    g.key: g
    for g in (
        _g("pva-indoor", "Indoor PVA", 8, 1, 24, (0.3, 1.2), "Wash off skin with water."),
        _g("pva-damp", "Damp-proof PVA", 8, 1, 24, (0.5, 1.2), "Wash off skin with water."),
        _g("pva-wet", "Two-part wet-proof PVA", 10, 2, 72, (0.5, 1.2), "Gloves: the hardener stings.", 480),
        _g("polyurethane", "Foaming polyurethane", 20, 4, 24, (0.3, 1.0),
           "Gloves and fresh air: it stains and sensitises. Foam can creep into the clamps."),
        _g("epoxy-slow", "Slow epoxy", 40, 12, 72, (0.02, 0.3), _RESIN, 40),
        _g("epoxy-fast", "Fast epoxy", 4, 0.5, 24, (0.02, 0.3), _RESIN, 5),
        _g("urea-resin", "Urea resin powder", 15, 6, 48, (0.5, 1.5),
           "Mask when mixing the powder; fresh air: it gives off formaldehyde.", 120),
        _g("resorcinol", "Resorcinol resin", 15, 10, 168, (0.7, 1.5),
           "Gloves, mask and fresh air: formaldehyde and hardener dust.", 150),
        _g("casein", "Casein", 15, 5, 48, (0.5, 1.2), "Lime in the mix is caustic: gloves, eyes.", 360),
        _g("hide-hot", "Hot hide glue", 1.5, 12, 48, (0.1, 0.7), "The pot burns: stand it firmly, unplug it."),
        _g("hide-liquid", "Liquid hide or fish glue", 10, 12, 48, (0.1, 0.7), "Throw spoiled glue away."),
        _g("cyanoacrylate", "Cyanoacrylate", 0.5, 0.05, 24, (0.05, 0.3),
           "It bonds skin in seconds: fresh air, eyes covered, no cotton gloves, remover at hand."),
        _g("construction", "Construction adhesive", 10, 24, 168, (0.02, 0.2), "Fresh air, gloves."),
        _g("contact", "Contact cement", 20, 0.05, 72, (0.3, 0.7), "No flame near the solvent; fresh air."),
        _g("hot-melt", "Hot melt", 0.3, 0.05, 1, (0.05, 0.3), "The melt burns skin: let it cool."),
    )
}  # fmt: skip

EVERYDAY: dict[str, str] = {
    "yellow glue": "pva-damp", "carpenter's glue": "pva-damp", "aliphatic resin": "pva-damp",
    "white glue": "pva-indoor", "wood glue": "pva-indoor", "hide glue": "hide-hot", "bone glue": "hide-hot",
    "fish glue": "hide-liquid", "liquid hide glue": "hide-liquid", "polyurethane": "polyurethane",
    "polyurethane glue": "polyurethane", "pu glue": "polyurethane", "epoxy": "epoxy-slow",
    "5 minute epoxy": "epoxy-fast", "five minute epoxy": "epoxy-fast", "super glue": "cyanoacrylate",
    "ca glue": "cyanoacrylate", "plastic resin glue": "urea-resin", "urea formaldehyde": "urea-resin",
    "resorcinol": "resorcinol", "contact adhesive": "contact", "hot glue": "hot-melt",
    "construction glue": "construction",
}  # fmt: skip
"""Everyday name of a glue -> its family. The shop keeps its own name."""


def family_of_name(name: str) -> str:
    """Return the family that an everyday name stands for; empty for a name that is none."""
    return EVERYDAY.get(" ".join(name.lower().replace("-", " ").split()), "")


NO_GLUE = "none"
"""Level of a factor for pieces that are pressed dry, as an unglued control."""
