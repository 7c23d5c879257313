"""In which direction each half of a joint is loaded: along its grain or across it. That decides the wood's share.

A half that is pulled or bent with its glued face at the end of its fibres is loaded along them; one that is glued with
its long grain is loaded across them, where wood bears a tenth or less (Wood Handbook, chapter 5: tension perpendicular
to grain). In a shear test the load runs along the line: along the fibres of parallel halves, rolling over those of the
half that lies crosswise. A half sheared at its end grain is cut across its fibres, which is no weaker than along them.
"""

from __future__ import annotations

from adhaero.core.joint import ORIENTATIONS, Face

ALONG, ACROSS = "along", "across"
RUNS_ALONG = ("scarf", "vee", "finger", "half-lap")
"""Forms whose halves run along a bar whatever faces they are glued with."""


def pulled(form: str, orientation: str) -> tuple[str, str]:
    """Both halves of a joint that is pulled apart or bent at its line."""
    if form in RUNS_ALONG:
        return ALONG, ALONG
    o = ORIENTATIONS[orientation]
    a, b = (ALONG if face is Face.END else ACROSS for face in (o.face_a, o.face_b))
    return a, b


def sheared(form: str, orientation: str) -> tuple[str, str]:
    """Both halves of a joint that is sheared along its line: the second one crosswise rolls over its fibres."""
    return ALONG, ACROSS if orientation == "long-crossed" else ALONG


def flatwise(form: str, orientation: str) -> tuple[str, str]:
    """Both halves of a joint that is pulled off a long face."""
    return ACROSS, ACROSS


def weaker(halves: tuple[str, str]) -> str:
    """The direction that decides: across, where any half is loaded so. The solid reference is loaded like it."""
    return ACROSS if ACROSS in halves else ALONG
