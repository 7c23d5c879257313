"""Test methods: what each measures, from which sizes, with which cautions and plausible range.

A method turns a load into its figure of merit by a factor that depends on sizes alone: every figure here is
proportional to the load. To add one, write its ``Method`` in ``method_catalogue.py``: plan, cut, break and compare
read sizes, figure, failure words and cautions from it.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from adhaero.core.geometry import contradictions
from adhaero.core.grain import weaker
from adhaero.core.joint_forms import FORMS, Form, Size, Sizes
from adhaero.core.materials.wood import Wood
from adhaero.core.quantity import Dimension
from adhaero.core.refusal import Problems, refuse
from adhaero.core.units import METRIC, Units

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


@dataclass(frozen=True)
class Method:
    """A way to break a joint.

    ``per_newton`` is the figure of merit of one newton on a piece of these sizes (mm), in the base unit of
    ``figure_dimension``. ``solid_figure`` is what solid wood of a species bears in that figure, from handbook values.
    ``forms`` are the joint forms that the method can break, the usual one first. ``plausible`` is the range of the
    figure beyond which a reading is questioned; ``working`` names the size that is changed first to fit a rig. A
    ``loadless`` method has no figure: how the pieces gave way is counted. ``halves`` says how both halves of a joint
    are loaded by form and orientation, along or across the grain (core.grain), where that decides what they bear;
    ``mode_words`` are its own words for failure modes, ``overlap_rule`` is how many thicknesses the overlap may have,
    with what is said beyond that; ``solid_grain`` is how ``solid_figure`` is loaded, ``solid_turned`` the same for wood
    loaded the other way.
    """

    key: str
    name: str
    blurb: str
    own_sizes: tuple[Size, ...]
    forms: tuple[str, ...]
    per_newton: Callable[[Sizes], float]
    figure_sizes: tuple[str, ...]
    figure_name: str
    figure_dimension: Dimension
    solid_figure: Callable[[Wood, Sizes], float]
    plausible: tuple[float, float]
    failure_modes: tuple[str, ...]
    cautions: tuple[str, ...]
    working: str
    checks: tuple[Callable[[Sizes], str | None], ...] = ()
    setup_sizes: tuple[str, ...] = ()
    solid: bool = True
    loadless: bool = False
    solid_grain: str | None = None
    solid_turned: Callable[[Wood, Sizes], float] | None = None
    halves: Callable[[str, str], tuple[str, str]] | None = None
    overlap_rule: tuple[float, str] | None = None
    mode_words: Mapping[str, str] = field(default_factory=dict)

    @property
    def modes(self) -> list[tuple[str, str]]:
        """The ways in which its joints give way: (key, word)."""
        return [(m, self.mode_words.get(m, FAILURE_NAMES[m])) for m in self.failure_modes]

    def form(self, key: object) -> Form:
        """The form of that name, the usual one for ``None``. ``Refusal`` for one that the method cannot break."""
        if key is None:
            return FORMS[self.forms[0]]
        if not isinstance(key, str) or key not in self.forms:
            able = ", ".join(FORMS[f].name.lower() for f in self.forms)
            raise refuse("form", f"{key!r} cannot be broken by {self.name.lower()}", f"Choose one of: {able}.")
        return FORMS[key]

    def loading(self, form: str, orientation: str) -> tuple[str, str] | None:
        """How both halves of a joint are loaded: along or across the grain; ``None`` where that is no matter."""
        return self.halves(form, orientation) if self.halves is not None else None

    def loading_grain(self, form: str, orientation: str) -> str | None:
        """How the half is loaded that decides, and with it the solid piece that a joint is held against."""
        halves = self.loading(form, orientation)
        return None if halves is None else weaker(halves)

    def solid_in(self, wood: Wood, sizes: Sizes, grain: str) -> float:
        """What solid wood bears that is loaded along or across its grain, in the figure of merit."""
        turned = self.solid_turned is not None and grain not in ("", self.solid_grain)
        return self.solid_turned(wood, sizes) if turned and self.solid_turned else self.solid_figure(wood, sizes)

    def sizes_for(self, forms: tuple[str, ...] = ()) -> tuple[Size, ...]:
        """Every size to be stated when these joint forms are tested: the method's own first, each once."""
        wanted = [self.form(f) for f in forms] or [self.form(None)]
        found = {s.key: s for s in (*self.own_sizes, *(s for f in wanted for s in f.sizes))}
        found.update({s.key: s for s in self.own_sizes})
        return tuple(found.values())

    @property
    def sizes(self) -> tuple[Size, ...]:
        """The sizes of its usual joint form."""
        return self.sizes_for()

    def figure(self, load_n: float, sizes: Sizes) -> float:
        """The figure of merit of a load in N on a piece of these sizes (mm)."""
        return load_n * self.per_newton(sizes)

    def relative_error(self, sizes: Sizes, error_mm: float) -> list[float]:
        """Relative error of the figure from each measured size, when each may be off by ``error_mm``."""
        here, small = self.per_newton(sizes), 1e-4
        measured = [k for k in self.figure_sizes if k in sizes and k not in self.setup_sizes]
        slopes = ((self.per_newton({**sizes, k: sizes[k] + small}) / here - 1) / small for k in measured)
        return [abs(slope) * error_mm for slope in slopes]

    def refuse_bad_sizes(
        self, sizes: Sizes, prefix: str = "sizes.", forms: tuple[str, ...] = (), units: Units = METRIC
    ) -> None:
        """Raise ``Refusal`` naming each size that is missing or beyond what can be made and held."""
        problems = Problems()

        def say(s: Size, value: float) -> str:
            return f"{value:g}{s.unit}" if s.dimension is Dimension.NUMBER else units.typed(value, s.dimension)

        for s in self.sizes_for(forms):
            value = sizes.get(s.key)
            field = prefix + s.key + s.suffix
            if value is None:
                problems.add(field, f"{s.name} is missing", f"Type it, for example {say(s, s.nominal)}.")
            elif not s.low <= value <= s.high:
                problems.add(
                    field,
                    f"{s.name} of {say(s, value)} is outside {say(s, s.low)} to {say(s, s.high)}",
                    "Check the unit; a bare number is read in your own unit of length.",
                )
        if not problems.found:
            for form in dict.fromkeys(forms or (self.forms[0],)):
                for key, message, remedy in contradictions(form, sizes, units):
                    suffix = next((s.suffix for s in self.sizes_for(forms) if s.key == key), "_mm")
                    problems.add(prefix + key + suffix, message, remedy)
        problems.raise_if_any()

    def warnings(self, sizes: Sizes, overlap_most: float | None = None) -> list[str]:
        """What the rules of thumb of this method have to say about these sizes; ``overlap_most`` is the shop's own rule
        for the overlap, in thicknesses.
        """
        said = [text for check in self.checks if (text := check(sizes)) is not None]
        if self.overlap_rule is None or not {"overlap", "thickness"} <= sizes.keys():
            return said
        most, why = self.overlap_rule
        if overlap_most is not None:
            most, why = overlap_most, f"The overlap is over {overlap_most:g} times the thickness, your own rule."
        return [*said, why] if sizes["overlap"] > most * sizes["thickness"] else said


def nominal_sizes(
    method: Method, forms: tuple[str, ...] = (), kept: Mapping[str, float] | None = None
) -> dict[str, float]:
    """Sizes to start from: those of ``kept`` that the method needs, the usual ones for the rest."""
    kept = kept or {}
    return {s.key: kept[s.key] if s.low <= kept.get(s.key, s.low - 1) <= s.high else s.nominal
            for s in method.sizes_for(forms)}  # fmt: skip
