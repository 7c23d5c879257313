"""The data a question is asked of: factors with their levels, and the pieces of every combination of them."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

from adhaero.core.piece_record import Known

TREATMENT = "treatment"
"""Key of the factor of a study that has no other: the treatment."""
WOOD, GLUE, INTERFACE, MIXED = "in-wood", "in-glue", "interface", "mixed"


@dataclass(frozen=True)
class Level:
    """A level: its id, how it is written ("2 h"), and its size in the base unit of its factor where it is a number."""

    id: str
    text: str
    size: float | None = None


@dataclass(frozen=True)
class Factor:
    """What is varied. ``less_is_sound``: the sound end of it is the smallest level (a gap)."""

    key: str
    name: str
    levels: tuple[Level, ...]
    less_is_sound: bool = False

    def level(self, id_: str) -> Level:
        """The level of an id."""
        return next(x for x in self.levels if x.id == id_)


@dataclass(frozen=True)
class Unit:
    """One piece (or parent) that was tested: its figure lies in [low, high]. ``passed`` is by the plan's rule, ``code``
    that of a single piece, ``block`` what it shares with pieces of other cells (a board, a day).
    """

    known: Known
    low: float = math.nan
    high: float = math.inf
    mode: str = ""
    passed: bool | None = None
    code: str = ""
    block: str = ""

    @property
    def fell(self) -> bool:
        """Whether it fell apart before it was loaded."""
        return self.known is Known.BELOW


@dataclass(frozen=True)
class Cell:
    """The pieces of one combination of levels (factor key -> level id)."""

    levels: Mapping[str, str]
    units: tuple[Unit, ...] = ()
    unbroken: int = 0
    left_out: int = 0
    excluded: int = 0


@dataclass(frozen=True)
class Sample:
    """Pieces that are analysed together."""

    units: tuple[Unit, ...] = ()
    unbroken: int = 0
    left_out: int = 0
    excluded: int = 0

    @cached_property
    def held(self) -> tuple[Unit, ...]:
        """Those with a figure: what fell apart is a part of its own and no small number among strengths."""
        return tuple(u for u in self.units if not u.fell and not math.isnan(u.low))

    @cached_property
    def fallen(self) -> int:
        """How many fell apart."""
        return sum(u.fell for u in self.units)

    @cached_property
    def values(self) -> tuple[float, ...]:
        """The figures, where all of them are known as one number; else none."""
        return tuple(u.low for u in self.held) if self.is_exact else ()

    @cached_property
    def is_exact(self) -> bool:
        """Whether every figure is known as one number."""
        return all(u.known is Known.EXACT for u in self.held)

    @property
    def bounds(self) -> list[tuple[float, float]]:
        """The figures as intervals."""
        return [(u.low, u.high) for u in self.held]

    @property
    def mean(self) -> float | None:
        """Mean of the lower ends: the mean itself where all are exact, else at least so much."""
        return math.fsum(u.low for u in self.held) / len(self.held) if self.held else None

    @property
    def mean_high(self) -> float | None:
        """Mean of the upper ends where steps leave one; ``None`` where it is the mean, or not known."""
        if not self.held or self.is_exact or any(math.isinf(u.high) for u in self.held):
            return None
        return math.fsum(u.high for u in self.held) / len(self.held)

    @cached_property
    def unbounded(self) -> int:
        """How many only held: their figure has no upper end."""
        return sum(math.isinf(u.high) for u in self.held)

    @cached_property
    def key(self) -> str:
        """A key that no other sample of the study has, made of its pieces."""
        return " ".join(str(id(u)) for u in self.held)

    @property
    def in_wood(self) -> int:
        """How many failed in the wood."""
        return sum(u.mode == WOOD for u in self.units)


@dataclass(frozen=True)
class Study:
    """A study in figures. ``solid`` are solid pieces by the level of ``solid_by`` (a factor key, or empty: one for
    all); ``cost`` is by level of whatever is asked about; ``shared`` names what blocks are, with whether they were
    planned.
    """

    factors: tuple[Factor, ...]
    cells: tuple[Cell, ...]
    solid: Mapping[str, Sample] = field(default_factory=dict)
    solid_by: str = ""
    cost: Mapping[str, float] = field(default_factory=dict)
    shared: tuple[str, bool] | None = None

    def factor(self, key: str) -> Factor:
        """The factor of a key."""
        return next(f for f in self.factors if f.key == key)

    @cached_property
    def _samples(self) -> dict[tuple[tuple[str, str], ...], Sample]:
        return {}

    def sample(self, levels: Mapping[str, str]) -> Sample:
        """All pieces whose levels are these, whatever else differs."""
        asked = tuple(sorted(levels.items()))
        if asked not in self._samples:
            self._samples[asked] = self._sample(levels)
        return self._samples[asked]

    @cached_property
    def _by_levels(self) -> dict[tuple[tuple[str, str], ...], list[Cell]]:
        found: dict[tuple[tuple[str, str], ...], list[Cell]] = {}
        for c in self.cells:
            found.setdefault(tuple(sorted(c.levels.items())), []).append(c)
        return found

    def _sample(self, levels: Mapping[str, str]) -> Sample:
        whole = len(levels) == len(self.factors)
        own = (
            self._by_levels.get(tuple(sorted(levels.items())), [])
            if whole
            else [c for c in self.cells if all(c.levels.get(k) == v for k, v in levels.items())]
        )
        if len(own) == 1:
            return Sample(own[0].units, own[0].unbroken, own[0].left_out, own[0].excluded)
        return Sample(
            tuple(u for c in own for u in c.units), sum(c.unbroken for c in own), sum(c.left_out for c in own),
            sum(c.excluded for c in own),
        )  # fmt: skip

    def only(self, key: str, level: str) -> Study:
        """The study at one level of a factor."""
        return replace(self, cells=tuple(c for c in self.cells if c.levels[key] == level))

    def without(self, unit: Unit) -> Study:
        """The study without one piece."""
        cells = (replace(c, units=tuple(u for u in c.units if u is not unit)) for c in self.cells)
        return replace(self, cells=tuple(cells))

    def strata(self, besides: Sequence[str]) -> list[dict[str, str]]:
        """The combinations of levels of the factors that are not named, as they occur; one empty one without any."""
        keys = [f.key for f in self.factors if f.key not in besides]
        found = {tuple(c.levels[k] for k in keys): None for c in self.cells}
        return [dict(zip(keys, own, strict=True)) for own in found]

    @cached_property
    def groups(self) -> list[Sample]:
        """The sample of every cell, for what they say together of the scatter."""
        return [self.sample(c.levels) for c in self.cells]
