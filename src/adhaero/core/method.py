"""Test methods: what each measures, from which sizes, with which cautions and plausible range.

A method is one entry in ``METHODS``. To add one, write its ``Method`` and list it there: plan, cut, break and compare
read sizes, figure, failure words and cautions from it.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from adhaero.core.quantity import Dimension
from adhaero.core.refusal import Problems


@dataclass(frozen=True)
class Size:
    """A size that a method needs of each piece, in mm: its nominal value and the range taken as sane."""

    key: str
    name: str
    nominal_mm: float
    low_mm: float
    high_mm: float


@dataclass(frozen=True)
class Method:
    """A way to break a joint.

    ``glued_area_mm2`` gives the glued area from sizes in mm; ``figure_name`` and ``figure_dimension`` say what the
    load becomes; ``plausible`` is the range of that figure (in its base unit) beyond which a reading is questioned;
    ``failure_modes`` are the words offered for how a piece broke.
    """

    key: str
    name: str
    blurb: str
    sizes: tuple[Size, ...]
    glued_area_mm2: Callable[[Mapping[str, float]], float]
    figure_name: str
    figure_dimension: Dimension
    plausible: tuple[float, float]
    failure_modes: tuple[str, ...]
    cautions: tuple[str, ...]
    checks: tuple[Callable[[Mapping[str, float]], str | None], ...] = ()

    def figure(self, load_n: float, sizes: Mapping[str, float]) -> float:
        """The figure of merit of a load in N on a piece of these sizes (mm): a stress in MPa."""
        return load_n / self.glued_area_mm2(sizes)

    def refuse_bad_sizes(self, sizes: Mapping[str, float], prefix: str = "sizes.") -> None:
        """Raise ``Refusal`` naming each size that is missing or beyond what can be made and held."""
        problems = Problems()
        for s in self.sizes:
            value = sizes.get(s.key)
            field = f"{prefix}{s.key}_mm"
            if value is None:
                problems.add(field, f"{s.name} is missing", f"Type it, for example {s.nominal_mm:g} mm.")
            elif not s.low_mm <= value <= s.high_mm:
                problems.add(
                    field,
                    f"{s.name} of {value:g} mm is outside {s.low_mm:g} to {s.high_mm:g} mm",
                    "Check the unit; a bare number is read in your own unit of length.",
                )
        problems.raise_if_any()

    def warnings(self, sizes: Mapping[str, float]) -> list[str]:
        """What the rules of thumb of this method have to say about these sizes."""
        return [said for check in self.checks if (said := check(sizes)) is not None]


INTERFACE, IN_GLUE, AT_LINE, DEEP, ELSEWHERE, MIXED = (
    "interface",
    "in-glue",
    "wood-at-line",
    "wood-deep",
    "elsewhere",
    "mixed",
)
FAILURE_NAMES: dict[str, str] = {
    INTERFACE: "At the interface",
    IN_GLUE: "In the glue",
    AT_LINE: "In the wood at the line",
    DEEP: "In the wood, deep",
    ELSEWHERE: "Elsewhere",
    MIXED: "Mixed",
}
"""Key of a failure mode -> the field's word for it."""


def _tall_shear_block(sizes: Mapping[str, float]) -> str | None:
    if sizes["overlap"] > 2 * sizes["thickness"]:
        return (
            "The overlap is more than twice the thickness: the block tips in the fixture and the line "
            "peels. Shorten the overlap or use thicker stock."
        )
    return None


COMPRESSION_SHEAR = Method(
    key="compression-shear",
    name="Compression shear block",
    blurb="Two blocks glued with a step; a press pushes one past the other along the line.",
    sizes=(
        Size("width", "Width", 20, 5, 150),
        Size("overlap", "Overlap", 25, 5, 150),
        Size("thickness", "Thickness of each half", 20, 3, 100),
    ),
    glued_area_mm2=lambda s: s["width"] * s["overlap"],
    figure_name="Shear strength",
    figure_dimension=Dimension.STRESS,
    plausible=(0.05, 40.0),
    failure_modes=(INTERFACE, IN_GLUE, AT_LINE, DEEP, ELSEWHERE, MIXED),
    cautions=(
        "Pieces fly at rupture: guard closed, eyes and ears covered, hands clear.",
        "Load slowly; release the pressure before you reach in.",
        "Stay below the weakest part of the rig.",
    ),
    checks=(_tall_shear_block,),
)

METHODS: dict[str, Method] = {m.key: m for m in (COMPRESSION_SHEAR,)}
