"""The test methods that the program knows, each with geometry, figure, rules of thumb and cautions.

Formulas: stress is load over area; the modulus of rupture of a bar on two supports is 3 F L / (2 b d^2) in three-point
and 3 F (L - Li) / (2 b d^2) in four-point bending (elementary beam theory; b width, d depth, L support span, Li load
span, F the whole load). What solid wood bears across the grain follows from its shear strength (core.materials.wood),
and is ``ROLLING_SHARE`` of it in shear (18 to 28 % in the Wood Handbook's tables). Tension along the grain is taken as
the modulus of rupture, as the Handbook does for want of tests.
"""

from __future__ import annotations

import math
from collections.abc import Callable

from adhaero.core import grain
from adhaero.core.joint_forms import DEPTH, OVERLAP, THICKNESS, WIDTH, Size, Sizes
from adhaero.core.materials.wood import TENSION_SHARE
from adhaero.core.method import AT_LINE, DEEP, ELSEWHERE, IN_GLUE, INTERFACE, MIXED, Method
from adhaero.core.methods_of_own import OWN_METHODS
from adhaero.core.quantity import Dimension

ROLLING_SHARE = 0.23
_ALL = (INTERFACE, IN_GLUE, AT_LINE, DEEP, ELSEWHERE, MIXED)
_FLY = "Pieces fly at rupture: guard closed, eyes and ears covered, hands clear."
_PRESS = (_FLY, "Load slowly; release the pressure before you reach in.", "Stay below the weakest part of the rig.")
_PULL = (
    _FLY,
    "Keep out of the line of pull: stored force whips back.",
    "Rated chain and shackles; feet clear of weights.",
)

SPAN = Size("span", "Support span", 240, 20, 3000)
LOAD_SPAN = Size("load_span", "Load span", 80, 5, 2000)


def _over(top: str, bottom: str, most: float, text: str) -> Callable[[Sizes], str | None]:
    """A check that a ratio of two sizes stays at or below ``most``."""

    def check(s: Sizes) -> str | None:
        return text if top in s and bottom in s and s[top] > most * s[bottom] else None

    return check


def _area(s: Sizes) -> float:
    return s["width"] * s["overlap"]


def _modulus(s: Sizes) -> float:
    return s["width"] * s["depth"] ** 2 / 6


_SHORT_BEAM = _over("depth", "span", 0.1, "Short beam: the span is under ten times the depth, so shear and crushing at "
                    "the supports count in. Lengthen the span or use thinner stock.")  # fmt: skip


def _inner_span(s: Sizes) -> str | None:
    if s["load_span"] >= 0.8 * s["span"]:
        return "The load span is over 0.8 of the support span: the load points nearly meet the supports. Shorten it."
    return None


_METHODS = (
    Method(
        key="compression-shear",
        name="Compression shear block",
        blurb="Two blocks glued with a step; a press pushes one past the other along the line.",
        own_sizes=(WIDTH, OVERLAP, Size("thickness", "Thickness of each half", 20, 3, 100)),
        forms=("lap",),
        per_newton=lambda s: 1 / _area(s),
        figure_sizes=("width", "overlap"),
        figure_name="Shear strength",
        figure_dimension=Dimension.STRESS,
        solid_figure=lambda w, _: w.shear_mpa,
        solid_grain="along",
        solid_turned=lambda w, _: ROLLING_SHARE * w.shear_mpa,
        halves=grain.sheared,
        plausible=(0.05, 40.0),
        failure_modes=_ALL,
        cautions=_PRESS,
        working="overlap",
        overlap_rule=(2, "The overlap is more than twice the thickness: the block tips in the fixture and the line "
                      "peels. Shorten the overlap or use thicker stock."),
    ),
    Method(
        key="lap-tension",
        name="Lap shear in tension, single",
        blurb="Two strips lapped and pulled apart along their length.",
        own_sizes=(WIDTH, OVERLAP, Size("thickness", "Thickness of each strip", 10, 1, 60)),
        forms=("lap",),
        per_newton=lambda s: 1 / _area(s),
        figure_sizes=("width", "overlap"),
        figure_name="Lap shear strength",
        figure_dimension=Dimension.STRESS,
        solid_figure=lambda w, _: 0.7 * w.shear_mpa,
        solid_grain="along",
        solid_turned=lambda w, _: ROLLING_SHARE * 0.7 * w.shear_mpa,
        halves=grain.sheared,
        plausible=(0.05, 40.0),
        failure_modes=_ALL,
        cautions=_PULL,
        working="overlap",
        overlap_rule=(3, "The overlap is over three times the thickness: the strip breaks, or its end peels, before "
                      "the line is tried. Shorten the overlap."),
    ),
    Method(
        key="lap-tension-double",
        name="Lap shear in tension, double",
        blurb="A middle strip between two others, pulled straight: two lines share the load.",
        own_sizes=(WIDTH, Size("overlap", "Overlap", 15, 5, 100),
                   Size("thickness", "Thickness of the middle strip", 10, 1, 60)),
        forms=("lap",),
        per_newton=lambda s: 1 / (2 * _area(s)),
        figure_sizes=("width", "overlap"),
        figure_name="Lap shear strength",
        figure_dimension=Dimension.STRESS,
        solid_figure=lambda w, _: 0.85 * w.shear_mpa,
        solid_grain="along",
        solid_turned=lambda w, _: ROLLING_SHARE * 0.85 * w.shear_mpa,
        halves=grain.sheared,
        plausible=(0.05, 40.0),
        failure_modes=_ALL,
        cautions=_PULL,
        working="overlap",
        overlap_rule=(1.5, "The overlap is over one and a half times the middle strip: that strip breaks before the "
                      "lines are tried. Shorten the overlap."),
    ),
    Method(
        key="butt-pull",
        name="Butt pull",
        blurb="Two pieces glued face to face or end to end and pulled straight apart.",
        own_sizes=(WIDTH, DEPTH),
        forms=("butt", "edge", "scarf", "vee", "finger", "sheet-key", "free"),
        per_newton=lambda s: 1 / (s["width"] * s["depth"]),
        figure_sizes=("width", "depth"),
        figure_name="Tensile strength",
        figure_dimension=Dimension.STRESS,
        solid_figure=lambda w, _: w.bending_mpa,
        plausible=(0.02, 120.0),
        failure_modes=_ALL,
        cautions=_PULL,
        working="depth",
        solid_grain="along",
        solid_turned=lambda w, _: w.pulled_across_mpa,
        halves=grain.pulled,
    ),
    Method(
        key="cross-lap-pull",
        name="Cross-lap pull",
        blurb="Two sticks glued crosswise; the upper one is pulled or pushed off the lower.",
        own_sizes=(Size("width", "Width of one stick", 20, 5, 150),
                   Size("other_width", "Width of the other", 20, 5, 150)),
        forms=("half-lap",),
        per_newton=lambda s: 1 / (s["width"] * s["other_width"]),
        figure_sizes=("width", "other_width"),
        figure_name="Tensile strength",
        figure_dimension=Dimension.STRESS,
        solid_figure=lambda w, _: TENSION_SHARE * w.shear_mpa,
        plausible=(0.02, 40.0),
        failure_modes=_ALL,
        cautions=_PULL,
        working="width",
        solid_grain="across",
        halves=grain.flatwise,
    ),
    Method(
        key="bend-three-point",
        name="Three-point bending",
        blurb="A bar with the joint in its middle on two supports, loaded over the joint.",
        own_sizes=(WIDTH, DEPTH, SPAN),
        forms=("butt", "edge", "scarf", "vee", "finger", "half-lap", "sheet-key", "free"),
        per_newton=lambda s: s["span"] / 4 / _modulus(s),
        figure_sizes=("width", "depth", "span"),
        figure_name="Modulus of rupture",
        figure_dimension=Dimension.STRESS,
        solid_figure=lambda w, _: w.bending_mpa,
        plausible=(0.05, 300.0),
        failure_modes=_ALL,
        cautions=_PRESS,
        working="depth",
        checks=(_SHORT_BEAM,),
        setup_sizes=("span",),
        solid_grain="along",
        solid_turned=lambda w, _: w.bent_across_mpa,
        halves=grain.pulled,
    ),
    Method(
        key="bend-four-point",
        name="Four-point bending",
        blurb="Two load points with the joint between them, where the moment is constant.",
        own_sizes=(WIDTH, DEPTH, SPAN, LOAD_SPAN),
        forms=("butt", "edge", "scarf", "vee", "finger", "half-lap", "sheet-key", "free"),
        per_newton=lambda s: (s["span"] - s["load_span"]) / 4 / _modulus(s),
        figure_sizes=("width", "depth", "span", "load_span"),
        figure_name="Modulus of rupture",
        figure_dimension=Dimension.STRESS,
        solid_figure=lambda w, _: w.bending_mpa,
        plausible=(0.05, 300.0),
        failure_modes=_ALL,
        cautions=_PRESS,
        working="depth",
        checks=(_SHORT_BEAM, _inner_span),
        setup_sizes=("span", "load_span"),
        solid_grain="along",
        solid_turned=lambda w, _: w.bent_across_mpa,
        halves=grain.pulled,
    ),
    Method(
        key="edge-fold",
        name="Edge-joint folding",
        blurb="A strip of a glued-up panel on two supports, pushed at the line.",
        own_sizes=(Size("width", "Length of the line", 50, 10, 600),
                   Size("depth", "Thickness of the panel", 18, 3, 100), SPAN),
        forms=("edge", "dowelled", "loose-tenon-along", "sheet-key", "free"),
        per_newton=lambda s: s["span"] / 4 / _modulus(s),
        figure_sizes=("width", "depth", "span"),
        figure_name="Bending stress at the line",
        figure_dimension=Dimension.STRESS,
        solid_figure=lambda w, _: w.bent_across_mpa,
        plausible=(0.02, 60.0),
        failure_modes=_ALL,
        cautions=_PRESS,
        working="width",
        setup_sizes=("span",),
        solid_grain="across",
        solid_turned=lambda w, _: w.bending_mpa,
        halves=grain.pulled,
    ),
    Method(
        key="racking",
        name="Racking of a frame joint",
        blurb="One member held, the other pushed at the end of a lever arm until the corner opens.",
        own_sizes=(Size("arm", "Lever arm", 300, 20, 2000), Size("joint_height", "Height of the joint", 50, 10, 300),
                   Size("thickness", "Thickness of the members", 22, 5, 100)),
        forms=("mortise-tenon", "dowelled", "loose-tenon-along", "loose-tenon-across", "half-lap", "mitre",
               "mitre-spline-along", "mitre-spline-across", "mitre-key", "butt-corner", "free"),
        per_newton=lambda s: s["arm"] / 1000,
        figure_sizes=("arm",),
        figure_name="Moment at failure",
        figure_dimension=Dimension.MOMENT,
        solid_figure=lambda w, s: w.bending_mpa * s["thickness"] * s["joint_height"] ** 2 / 6 / 1000,
        plausible=(0.05, 20_000.0),
        failure_modes=_ALL,
        cautions=_PRESS,
        working="joint_height",
        checks=(
            _over("joint_height", "arm", 0.5, "The lever arm is under twice the height of the joint: shear counts in "
                  "and the moment at the line is uncertain. Load farther out."),
        ),
        setup_sizes=("arm",),
        solid=False,
    ),
    Method(
        key="corner-pull",
        name="Case corner pulled straight",
        blurb="A corner of a box or case pulled out of its side, by width.",
        own_sizes=(Size("width", "Width of the corner", 90, 10, 600), Size("thickness", "Thickness", 18, 3, 60)),
        forms=("rebate", "rebate-dowels", "comb", "dovetail", "butt-corner", "mitre", "mitre-key", "mitre-spline-along",
               "mitre-spline-across", "dowelled", "free"),
        per_newton=lambda s: 1 / s["width"],
        figure_sizes=("width",),
        figure_name="Load per width",
        figure_dimension=Dimension.LINE_LOAD,
        solid_figure=lambda w, s: TENSION_SHARE * w.shear_mpa * s["thickness"],
        plausible=(0.01, 3000.0),
        failure_modes=_ALL,
        cautions=_PULL,
        working="width",
        solid=False,
    ),
    Method(
        key="withdrawal",
        name="Withdrawal of dowels or tenons",
        blurb="Glued inserts pulled straight out of their holes.",
        own_sizes=(),
        forms=("dowelled",),
        per_newton=lambda s: 1 / (s["inserts"] * math.pi * s["dowel_diameter"] * s["insert_depth"]),
        figure_sizes=("inserts", "dowel_diameter", "insert_depth"),
        figure_name="Withdrawal strength",
        figure_dimension=Dimension.STRESS,
        solid_figure=lambda w, _: 0.8 * w.shear_mpa,
        plausible=(0.02, 40.0),
        failure_modes=_ALL,
        cautions=_PULL,
        working="insert_depth",
        setup_sizes=("inserts",),
        solid=False,
    ),
    Method(
        key="dissimilar-pull",
        name="Wood pulled off metal",
        mode_words={INTERFACE: "Off the metal, or off the wood"},
        blurb="A wooden block glued on metal, sheet or plastic, and pulled off.",
        own_sizes=(WIDTH, OVERLAP, THICKNESS),
        forms=("lap",),
        per_newton=lambda s: 1 / _area(s),
        figure_sizes=("width", "overlap"),
        figure_name="Pull-off strength",
        figure_dimension=Dimension.STRESS,
        solid_figure=lambda w, _: TENSION_SHARE * w.shear_mpa,
        plausible=(0.02, 40.0),
        failure_modes=_ALL,
        cautions=(*_PULL, "Metal edges cut: deburr, gloves."),
        working="overlap",
        solid_grain="across",
        halves=grain.flatwise,
        solid=False,
    ),
    Method(
        key="pry",
        name="Pried open by hand",
        blurb="No rig: wedge or chisel opens the joint. How it gave way is counted, and the wood failure judged.",
        own_sizes=(WIDTH, OVERLAP, THICKNESS),
        forms=("lap",),
        per_newton=lambda _: 1.0,
        figure_sizes=(),
        figure_name="Pieces that gave way in the wood",
        figure_dimension=Dimension.FORCE,
        solid_figure=lambda _w, _s: 0.0,
        plausible=(0.0, 0.0),
        failure_modes=_ALL,
        cautions=("Clamp the base; pry away from hand and face; gloves and eye protection.",
                  "Never break a joint over the knee or with the weight of the body."),
        working="overlap",
        solid=False,
        loadless=True,
    ),
)  # fmt: skip

METHODS: dict[str, Method] = {m.key: m for m in (*_METHODS, *OWN_METHODS)}
