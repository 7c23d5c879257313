"""What a verdict needs before it is given: the only place where a level, a margin or a least number is stated."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Inference:
    """``alpha`` is the risk of a false claim in one family of comparisons, ``margin`` the smallest difference that
    counts (a share), ``power`` the chance that "how many more" promises, ``least`` the pieces below which nothing is
    judged.
    """

    alpha: float = 0.05
    margin: float = 0.1
    power: float = 0.8
    least: int = 3

    @property
    def level(self) -> float:
        """The confidence level of a single interval."""
        return 1 - self.alpha

    @property
    def percent(self) -> str:
        """The level as text."""
        return f"{100 * self.level:g} %"
