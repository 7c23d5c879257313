"""The planned comparisons of one question with what they are told in."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import NamedTuple

from adhaero.core.compare.analysis import Analysis, Row
from adhaero.core.compare.axis import Axis
from adhaero.core.compare.planned import FamilyResult, Setting
from adhaero.core.plan.judging import WordScale


class Words(NamedTuple):
    """How more and less of a figure are said, how a treatment has it, and the plan's words for sizes."""

    more: str
    less: str
    has: str
    scale: WordScale | None = None

    def by_size(self, ratio: float, more: str) -> str:
        """``more`` with the word for the size of a ratio before it, where the plan has words for that."""
        word = self.scale.word(ratio) if self.scale is not None else ""
        return f"{word} {more}" if word in ("slightly", "clearly", "far") else more

    def about_equal(self, ratio: float) -> str:
        """What is said beside a ratio that the plan's words call about equal."""
        return ", about equal" if self.scale is not None and self.scale.word(ratio) == "about equal" else ""


OF_STRENGTH = Words("stronger", "weaker", "holds")


@dataclass(frozen=True)
class Case:
    """An analysis with what is told of it needs: the planned comparisons judged, the one whose answer comes first
    (``main``), what is found along numeric factors, the index of the reference row, the wanted power, and ``show``,
    which writes a figure with its unit. ``words`` say more and less.
    """

    analysis: Analysis
    setting: Setting
    results: list[FamilyResult]
    main: FamilyResult | None
    axes: list[Axis]
    reference: int | None
    show: Callable[[float], str]
    wanted_power: float = 0.8
    figure: str = "strength"
    words: Words = OF_STRENGTH

    @property
    def matters(self) -> float:
        """The smallest difference that matters, a share."""
        return self.setting.matters

    @property
    def alpha(self) -> float:
        """The risk."""
        return self.setting.alpha

    def row(self, letter: str) -> Row:
        """The row of a treatment."""
        return self.setting.rows[letter]

    def label(self, letter: str) -> str:
        """The name of a treatment."""
        return self.row(letter).group.label
