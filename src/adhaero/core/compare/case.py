"""One question as the families of findings see it, and what a finding is."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import NamedTuple

from adhaero.core.compare.analysis import Analysis

Numbers = dict[str, float | int | str | None]


class Words(NamedTuple):
    """How more and less of a figure are said, and how a treatment has it."""

    more: str
    less: str
    has: str


OF_STRENGTH = Words("stronger", "weaker", "holds")
OF_A_PROPERTY = Words("higher", "lower", "has")


@dataclass(frozen=True)
class Finding:
    """One sentence. ``family`` is headline, difference, efficiency, failure, limitation, guess or advice; ``about`` are
    the letters of the treatments it is about, ``numbers`` what stands behind it, ``reason`` why it can't be told.
    """

    family: str
    text: str
    numbers: Numbers = field(default_factory=dict)
    about: tuple[str, ...] = ()
    reason: str = ""


@dataclass(frozen=True)
class Case:
    """An analysis with what its findings need: the index of the reference row, the smallest difference that matters (a
    share), the risk, the wanted power, and ``show``, which writes a figure with its unit. ``words`` say more and less.
    """

    analysis: Analysis
    reference: int | None
    show: Callable[[float], str]
    matters: float = 0.10
    alpha: float = 0.05
    wanted_power: float = 0.8
    figure: str = "strength"
    words: Words = OF_STRENGTH
