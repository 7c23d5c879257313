"""What tenons and dowels bear when a frame corner is racked: a corner is no stronger than what joins it.

Rough guesses, right within a factor of about three. Section: bending of the tenon's own wood, M = f b h^2 / 6; across
the grain f is 0.72 of the shear strength (Wood Handbook, chapter 5). Skin: the glued cheeks twist about their middle,
where the mean distance of a rectangle's points from it is about a fifth of its length and width together. Dowels: half
of them are pulled out, at a lever of six tenths of the joint's height.
"""

from __future__ import annotations

import math

from adhaero.core.joint_forms import Sizes
from adhaero.core.materials.wood import Wood

ACROSS_SHARE, PULLED_SHARE = 0.72, 0.32
"""Bending across the grain, and withdrawal of a dowel, as shares of the shear strength."""


def section_and_skin(form: str, s: Sizes, wood: Wood) -> tuple[float, float] | None:
    """Return the moments in N·m at which the inserts break, and at which their glue of full strength lets go.

    ``None`` for a form without inserts, or without a stated height of the joint.
    """
    if form == "dowelled" and "joint_height" in s:
        skin = PULLED_SHARE * wood.shear_mpa * math.pi * s["dowel_diameter"] * s["insert_depth"] * s["inserts"] / 2
        return math.inf, skin * 0.6 * s["joint_height"] / 1000
    if form == "mortise-tenon":
        n, length, bends = 1.0, s["tenon_length"], wood.bending_mpa
    elif form in ("loose-tenon-along", "loose-tenon-across"):
        along = form == "loose-tenon-along"
        n, length = s["inserts"], s["insert_depth"]
        bends = wood.bending_mpa if along else ACROSS_SHARE * wood.shear_mpa
    else:
        return None
    wide, thick = s["tenon_width"], s["tenon_thickness"]
    twisted = wood.shear_mpa * 2 * length * wide * (length + wide) / 5
    return n * bends * thick * wide**2 / 6 / 1000, n * twisted / 1000
