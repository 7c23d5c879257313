"""Whether a piece is good enough by the rule of its plan, and how many of a treatment are.

A piece passes if each condition surely holds, and fails if one surely does not; what its bounds leave open stays open.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum

from adhaero.core.piece_record import Datum, Known
from adhaero.core.plan.judging import STRENGTH, Judging


class Passed(StrEnum):
    """How a piece comes out by the rule."""

    YES = "passes"
    NO = "fails"
    OPEN = "open"


@dataclass(frozen=True)
class Seen:
    """What is known of a piece: its figures by kind (strength, load), wood failure in %, and how it gave way."""

    figures: dict[str, Datum]
    wood_pct: float | None
    mode: str | None
    solid: float | None = None
    """Mean strength of the solid wood that is loaded the same way."""


def judge(j: Judging, s: Seen) -> Passed | None:
    """How a piece comes out; ``None`` where it has no result that counts."""
    if not any(d.counts for d in s.figures.values()) and s.mode is None and s.wood_pct is None:
        return None
    found = set(_conditions(j, s))
    if Passed.NO in found:
        return Passed.NO
    return Passed.OPEN if Passed.OPEN in found else Passed.YES


def _conditions(j: Judging, s: Seen) -> Iterator[Passed]:
    r = j.rule
    apart = any(d.known is Known.BELOW for d in s.figures.values())
    if r.least is not None:
        yield reaches(s.figures[r.figure], r.least)
    if r.of_solid is not None:
        yield Passed.OPEN if s.solid is None else reaches(s.figures[STRENGTH], r.of_solid * s.solid)
    if r.of_usable is not None:
        limit = j.usable
        yield Passed.OPEN if limit is None else reaches(s.figures[limit.figure], r.of_usable * limit.value)
    if r.wood_pct is not None:
        yield _told(None if s.wood_pct is None else s.wood_pct >= r.wood_pct, apart)
    if r.modes:
        yield _told(None if s.mode is None else s.mode in r.modes, apart)


def _told(fine: bool | None, apart: bool) -> Passed:
    """A condition on the faces: whoever fell apart showed none, and does not meet it."""
    if fine is None:
        return Passed.NO if apart else Passed.OPEN
    return Passed.YES if fine else Passed.NO


def reaches(d: Datum, least: float) -> Passed:
    """Whether a figure reaches a limit."""
    if d.known is Known.BELOW:
        return Passed.NO
    if not d.counts:
        return Passed.OPEN
    if d.low >= least:
        return Passed.YES
    return Passed.NO if d.high < least else Passed.OPEN
