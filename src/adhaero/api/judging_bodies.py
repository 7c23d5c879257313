"""What counts as good enough, as it is sent."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from adhaero.api.wire import Short, Strict


class LimitIn(Strict):
    """A limit of the user's own, in the base unit of its figure."""

    name: Short
    value: float
    figure: Literal["strength", "load"] = "strength"
    source: str = Field("", max_length=500)
    usable: bool = False
    mark: Literal["", "first_drop", "limit"] = ""
    id: str = Field("", max_length=20)


class PassRuleIn(Strict):
    """What a piece must reach to pass."""

    least: float | None = None
    figure: Literal["strength", "load"] = "strength"
    wood_pct: float | None = None
    modes: list[Short] = Field([], max_length=9)
    of_solid: float | None = None
    of_usable: float | None = None


class FormulaIn(Strict):
    """A formula with the name of its column."""

    name: Short
    text: str = Field(max_length=500)


class WordScaleIn(Strict):
    """Shares up to which a difference is about equal, slight and clear."""

    equal: float
    slightly: float
    clearly: float


class SectionIn(Strict):
    """Loads of solid wood count at (a size of the joint / that of the solid piece) to a power."""

    size: str = Field(max_length=40)
    power: float
    source: str = Field("", max_length=500)


class JudgingIn(Strict):
    """What counts as good enough."""

    rule: PassRuleIn = Field(default_factory=lambda: PassRuleIn.model_validate({}))
    limits: list[LimitIn] = Field([], max_length=40)
    formula: FormulaIn | None = None
    words: WordScaleIn | None = None
    section: SectionIn | None = None
