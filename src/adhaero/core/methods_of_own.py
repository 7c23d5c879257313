"""Methods of the shop's own making: a lever over an edge, a frame, a hung weight, and what the user calls as he likes.

Where several actions are at work at once (a frame that is racked, peeled and sheared), or nobody can say how the load
spreads, the result is the load itself: a stress would be a number without a meaning.
"""

from __future__ import annotations

from collections.abc import Callable

from adhaero.core.joint_forms import FORMS, OVERLAP, THICKNESS, Size, Sizes
from adhaero.core.method import AT_LINE, DEEP, ELSEWHERE, IN_GLUE, INTERFACE, MIXED, Method
from adhaero.core.quantity import Dimension

_MODES = (INTERFACE, IN_GLUE, AT_LINE, DEEP, ELSEWHERE, MIXED)
_CAUTIONS = (
    "Pieces fly at rupture: guard closed, eyes and ears covered, hands clear.",
    "Weights fall when it breaks: feet clear, something soft below.",
)
WIDTH = Size("width", "Width", 50, 5, 600)
ARM = Size("arm", "Arm of the load", 300, 10, 3000)
LINES = Size("lines", "Glued lines that bear", 1, 1, 6, "")
MEMBERS = Size("members", "Members", 2, 2, 3, "")
_ALL_FORMS = ("lap", *(f for f in FORMS if f != "lap"))
MOST = 1e6
"""Beyond this no figure of any of them is possible, whatever its unit."""


def _own(
    key: str, name: str, blurb: str, figure: str, dimension: Dimension, per_newton: Callable[[Sizes], float], *,
    needs: tuple[str, ...] = (), more: tuple[Size, ...] = (), loadless: bool = False,
) -> Method:  # fmt: skip
    """A method in which nobody knows what solid wood would bear; ``needs`` are the sizes that its figure takes."""
    return Method(
        key=key,
        name=name,
        blurb=blurb,
        own_sizes=(WIDTH, OVERLAP, THICKNESS, *more),
        forms=_ALL_FORMS,
        per_newton=per_newton,
        figure_sizes=needs,
        figure_name=figure,
        figure_dimension=dimension,
        solid_figure=lambda _wood, _sizes: 0.0,
        plausible=(0.0, 0.0 if loadless else MOST),
        failure_modes=_MODES,
        cautions=_CAUTIONS,
        working="overlap",
        setup_sizes=tuple(k for k in needs if k in ("arm", "lines")),
        solid=False,
        loadless=loadless,
    )


def _one(_: Sizes) -> float:
    return 1.0


def _moment(s: Sizes) -> float:
    return s["arm"] / 1000


def _on_lines(s: Sizes) -> float:
    return 1 / (s["lines"] * s["width"] * s["overlap"])


def _per_width(s: Sizes) -> float:
    return 1 / s["width"]


_BLURB = "Named and described by you. The program keeps to the figure that you chose, and claims no more."
_LOAD, _COUNT = "Load at failure", "Pieces that gave way in the wood"
_FREE = "A method of my own: "
OWN_METHODS: tuple[Method, ...] = (
    _own("cantilever", "Cantilever over an edge",
         "One member clamped on the bench, the other reaches over its edge; a bucket or weight hangs at the arm.",
         "Moment at failure", Dimension.MOMENT, _moment, needs=("arm",), more=(ARM,)),
    _own("framed", "Framed joint, loaded as it comes",
         "A frame or corner in which bending, peeling and shear act together: the result is the load, no stress.",
         _LOAD, Dimension.FORCE, _one),
    _own("dead-weight", "Dead weight",
         "Weights are hung on, or stood on the joint, one after another, until it breaks.",
         _LOAD, Dimension.FORCE, _one),
    _own("free-force", _FREE + "its load", _BLURB, _LOAD, Dimension.FORCE, _one, more=(MEMBERS,)),
    _own("free-moment", _FREE + "its moment", _BLURB, "Moment at failure", Dimension.MOMENT, _moment,
         needs=("arm",), more=(MEMBERS, ARM)),
    _own("free-stress", _FREE + "load over its glued lines", _BLURB, "Mean stress on the lines", Dimension.STRESS,
         _on_lines, needs=("lines", "width", "overlap"), more=(MEMBERS, LINES)),
    _own("free-line", _FREE + "load per width", _BLURB, "Load per width", Dimension.LINE_LOAD, _per_width,
         needs=("width",), more=(MEMBERS,)),
    _own("free-pass", _FREE + "no load, only how it gave way", _BLURB, _COUNT, Dimension.FORCE, _one,
         more=(MEMBERS,), loadless=True),
)  # fmt: skip
FREE_METHODS = tuple(m.key for m in OWN_METHODS if m.key.startswith("free-"))
