"""What counts as good enough, stated in the plan: a rule for every piece, limits of the user's own, a formula beside
the raw figure, and the words for how large a difference is.

A limit belongs to one quantity, a strength or a load, and says where it comes from.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from typing import Any

from adhaero.core import formula
from adhaero.core.breaking.trace import PEAK, STRENGTHS
from adhaero.core.formula import Formula
from adhaero.core.method import FAILURE_NAMES
from adhaero.core.quantity import Dimension
from adhaero.core.refusal import Problems, Refusal

STRENGTH, LOAD = "strength", "load"
FIGURES = (STRENGTH, LOAD)
MOST = 10
MARKED = tuple(m for m in STRENGTHS if m != PEAK)
"""Marks of a curve that can be a limit."""


@dataclass(frozen=True)
class Limit:
    """A limit of the user's own: its ``name``, the ``figure`` it belongs to, its ``value`` in the base unit of that,
    and the ``source`` it comes from. One that ``usable`` is where the control begins to give for good. With a ``mark``
    its value is the mean of that mark on the control's own curves, and ``value`` says nothing.
    """

    name: str
    value: float
    figure: str = STRENGTH
    source: str = ""
    usable: bool = False
    mark: str = ""
    id: str = field(default="", compare=False)


@dataclass(frozen=True)
class PassRule:
    """What a piece must reach to pass; what is empty is not asked. ``least`` is a limit of ``figure`` in its base unit,
    ``wood_pct`` the least wood failure, ``modes`` how it may give way, ``of_solid`` and ``of_usable`` shares of the
    mean of solid wood and of the usable limit.
    """

    least: float | None = None
    figure: str = STRENGTH
    wood_pct: float | None = None
    modes: tuple[str, ...] = ()
    of_solid: float | None = None
    of_usable: float | None = None

    @property
    def asks(self) -> bool:
        """Whether it asks for anything."""
        return self != PassRule(figure=self.figure)


@dataclass(frozen=True)
class WordScale:
    """Shares up to which a difference is about equal, slight and clear; beyond it is far."""

    equal: float
    slightly: float
    clearly: float

    def word(self, ratio: float) -> str:
        """The word for a ratio, whichever way it goes."""
        share = abs(ratio - 1) if ratio <= 1 else abs(1 / ratio - 1)
        for most, word in ((self.equal, "about equal"), (self.slightly, "slightly"), (self.clearly, "clearly")):
            if share <= most:
                return word
        return "far"


@dataclass(frozen=True)
class Section:
    """Loads of solid wood count at (a ``size`` of the joint / that of the solid piece) to the ``power``; ``source`` is
    where the rule comes from. In bending the load goes with the third power of the side of a square section, and with
    the square of the depth where the width stays, over one and the same span.
    """

    size: str
    power: float
    source: str = ""


@dataclass(frozen=True)
class Judging:
    """All of it; what is not stated is not used."""

    rule: PassRule = PassRule()
    limits: tuple[Limit, ...] = ()
    formula: Formula | None = None
    words: WordScale | None = None
    section: Section | None = None

    @property
    def usable(self) -> Limit | None:
        """The usable limit of the control, if it is stated."""
        return next((x for x in self.limits if x.usable), None)


def check_judging(j: Judging, names: Collection[str], raw: Dimension, sizes: Collection[str], p: Problems) -> None:
    """What is wrong with it. ``names`` are further values that a formula may use, ``raw`` is what the figure
    measures, ``sizes`` are those of the pieces."""
    r = j.rule
    p.check(r.figure in FIGURES, "judging.rule.figure", f"{r.figure[:20]!r} is no figure", "Choose strength or load.")
    p.check(r.least is None or r.least > 0, "judging.rule.least", "what a piece must reach must be above 0",
            "Type it with its unit.")  # fmt: skip
    p.check(r.wood_pct is None or 0 <= r.wood_pct <= 100, "judging.rule.wood_pct",
            f"{r.wood_pct} is no share of wood failure", "Type 0 to 100 %.")  # fmt: skip
    for name, share in (("of_solid", r.of_solid), ("of_usable", r.of_usable)):
        p.check(share is None or 0 < share <= 5, f"judging.rule.{name}", "the share asked for is none",
                "Type a share in percent, like 60.")  # fmt: skip
    p.check(r.of_usable is None or j.usable is not None, "judging.rule.of_usable", "there is no usable limit",
            "State a limit from which the control gives for good, and tick that it is the usable one.")  # fmt: skip
    p.check(all(m in FAILURE_NAMES for m in r.modes), "judging.rule.modes", "the rule names no failure mode",
            "Choose from the list.")  # fmt: skip
    p.check(len(j.limits) <= MOST, "judging.limits", f"there are more than {MOST} limits", "Take some out.")
    p.check(sum(x.usable for x in j.limits) <= 1, "judging.limits", "there are two usable limits", "Tick one of them.")
    for i, x in enumerate(j.limits):
        at = f"judging.limits.{i}"
        p.check(0 < len(x.name.strip()) <= 80, f"{at}.name", "the line has no name, or a long one", "Name it.")
        p.check(x.figure in FIGURES, f"{at}.figure", f"{x.figure[:20]!r} is no figure", "Choose strength or load.")
        p.check(bool(x.mark) or x.value > 0, f"{at}.value", f"the limit {x.name[:40]!r} must be above 0",
                "Type it with its unit.")  # fmt: skip
        p.check(len(x.source) <= 200, f"{at}.source", "the source of a limit is longer than 200 characters",
                "Shorten it.")  # fmt: skip
        p.check(not x.mark or x.mark in MARKED, f"{at}.mark", f"{x.mark[:20]!r} is no mark of a curve",
                "Use one of: " + ", ".join(MARKED) + ".")  # fmt: skip
    if j.section is not None:
        p.check(j.section.size in sizes, "judging.section.size", f"{j.section.size[:20]!r} is no size of these pieces",
                "Choose one of: " + ", ".join(sizes) + ".")  # fmt: skip
        p.check(0 < abs(j.section.power) <= 4, "judging.section.power", f"{j.section.power:g} is no power of a size",
                "Type a number like 3, of the rule that you go by.")  # fmt: skip
        p.check(len(j.section.source) <= 200, "judging.section.source",
                "the source of the rule is longer than 200 characters", "Shorten it.")  # fmt: skip
    if j.words is not None:
        w = j.words
        p.check(0 < w.equal < w.slightly < w.clearly <= 1, "judging.words", "the steps of the words do not rise",
                "Let each word reach further than the one before.")  # fmt: skip
    if j.formula is not None:
        try:
            formula.check(j.formula, names, raw)
        except Refusal as refusal:
            p.take(refusal)


def judging_from(d: Mapping[str, Any]) -> Judging:
    """It from its part of the document; an older one has none."""
    rule = dict(d.get("rule") or {})
    return Judging(
        rule=PassRule(**{**rule, "modes": tuple(rule.get("modes", ()))}),
        limits=tuple(Limit(**x) for x in d.get("limits", ())),
        formula=Formula(**d["formula"]) if d.get("formula") else None,
        words=WordScale(**d["words"]) if d.get("words") else None,
        section=Section(**d["section"]) if d.get("section") else None,
    )
