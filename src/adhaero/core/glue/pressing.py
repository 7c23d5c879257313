"""How a joint is pressed while its glue takes hold: by clamps that give a wanted force, by something that gives its own
force, or by nothing that anybody could measure."""

from __future__ import annotations

MEANS: dict[str, str] = {
    "nothing": "Nothing on it",
    "hand": "By hand",
    "tape": "Tape",
    "weight": "A weight",
    "spring": "Spring clamp",
    "screw": "Bar or screw clamp",
    "vacuum": "Vacuum",
}
"""Means of pressing by key."""
PRESSED: dict[str, str] = {
    "nothing": "pressed by nothing",
    "hand": "pressed by hand",
    "tape": "pressed by tape",
    "weight": "pressed by a weight",
    "spring": "pressed by a spring clamp",
    "screw": "pressed by a screw clamp",
    "vacuum": "pressed by vacuum",
}
"""The same as it names a treatment."""
CLAMPLESS = ("nothing", "hand", "tape")
"""Means that take no clamp and no clamp's place."""
OWN_FORCE = ("weight", "spring")
"""Means that give their own force, whatever is wanted."""
