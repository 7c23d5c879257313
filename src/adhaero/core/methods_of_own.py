"""Methods of the shop's own making: a lever over an edge, a frame, a hung weight, and what the user calls as he likes.

Where several actions are at work at once (a frame that is racked, peeled and sheared), or nobody can say how the load
spreads, the result is the load itself: a stress would be a number without a meaning.
"""

from __future__ import annotations

from adhaero.core.joint_forms import FORMS, OVERLAP, THICKNESS, Size, Sizes
from adhaero.core.materials.wood import Wood
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
FREE_METHODS = ("free-force", "free-moment", "free-stress", "free-line", "free-pass")


def _nothing(_w: Wood, _s: Sizes) -> float:
    """What solid wood would bear is not known of these."""
    return 0.0


def _one(_: Sizes) -> float:
    return 1.0


def _moment(s: Sizes) -> float:
    return s["arm"] / 1000


def _free(key: str, what: str, figure: str, dimension: Dimension, *, more: tuple[Size, ...] = ()) -> Method:
    per_newton, sizes = {
        "free-force": (_one, ()),
        "free-moment": (_moment, ("arm",)),
        "free-stress": (lambda s: 1 / (s["lines"] * s["width"] * s["overlap"]), ("lines", "width", "overlap")),
        "free-line": (lambda s: 1 / s["width"], ("width",)),
        "free-pass": (_one, ()),
    }[key]
    return Method(
        key=key,
        name=f"A method of my own: {what}",
        blurb="Named and described by you. The program keeps to the figure that you chose, and claims no more.",
        own_sizes=(WIDTH, OVERLAP, THICKNESS, MEMBERS, *more),
        forms=_ALL_FORMS,
        per_newton=per_newton,
        figure_sizes=sizes,
        figure_name=figure,
        figure_dimension=dimension,
        solid_figure=_nothing,
        plausible=(0.0, 0.0) if key == "free-pass" else (0.0, 1e9),
        failure_modes=_MODES,
        cautions=_CAUTIONS,
        working="overlap",
        setup_sizes=tuple(k for k in sizes if k in ("arm", "lines")),
        solid=False,
        loadless=key == "free-pass",
    )


_FIGURES: tuple[tuple[str, str, str, Dimension, tuple[Size, ...]], ...] = (
    ("free-force", "its load", "Load at failure", Dimension.FORCE, ()),
    ("free-moment", "its moment", "Moment at failure", Dimension.MOMENT, (ARM,)),
    ("free-stress", "load over its glued lines", "Mean stress on the lines", Dimension.STRESS, (LINES,)),
    ("free-line", "load per width", "Load per width", Dimension.LINE_LOAD, ()),
    ("free-pass", "passed or not", "Pieces that gave way in the wood", Dimension.FORCE, ()),
)
OWN_METHODS: tuple[Method, ...] = (
    Method(
        key="cantilever",
        name="Cantilever over an edge",
        blurb="One member clamped on the bench, the other reaches over its edge; a bucket or weight hangs at the arm.",
        own_sizes=(WIDTH, OVERLAP, THICKNESS, ARM),
        forms=_ALL_FORMS,
        per_newton=_moment,
        figure_sizes=("arm",),
        figure_name="Moment at failure",
        figure_dimension=Dimension.MOMENT,
        solid_figure=_nothing,
        plausible=(0.01, 20_000.0),
        failure_modes=_MODES,
        cautions=_CAUTIONS,
        working="overlap",
        setup_sizes=("arm",),
        solid=False,
    ),
    Method(
        key="framed",
        name="Framed joint, loaded as it comes",
        blurb="A frame or corner in which bending, peeling and shear act together: the result is the load, no stress.",
        own_sizes=(WIDTH, OVERLAP, THICKNESS),
        forms=_ALL_FORMS,
        per_newton=_one,
        figure_sizes=(),
        figure_name="Load at failure",
        figure_dimension=Dimension.FORCE,
        solid_figure=_nothing,
        plausible=(0.1, 500_000.0),
        failure_modes=_MODES,
        cautions=_CAUTIONS,
        working="overlap",
        solid=False,
    ),
    Method(
        key="dead-weight",
        name="Dead weight",
        blurb="Weights are hung on, or stood on the joint, one after another, until it breaks.",
        own_sizes=(WIDTH, OVERLAP, THICKNESS),
        forms=_ALL_FORMS,
        per_newton=_one,
        figure_sizes=(),
        figure_name="Load at failure",
        figure_dimension=Dimension.FORCE,
        solid_figure=_nothing,
        plausible=(0.1, 50_000.0),
        failure_modes=_MODES,
        cautions=_CAUTIONS,
        working="overlap",
        solid=False,
    ),
    *(_free(key, what, figure, dimension, more=more) for key, what, figure, dimension, more in _FIGURES),
)  # fmt: skip
