"""What can be said of one treatment against another, by an interval and the smallest difference that matters."""

from __future__ import annotations

from enum import StrEnum


class Outcome(StrEnum):
    """What can be said of one treatment against another."""

    BETTER = "better"
    WORSE = "worse"
    SAME = "same for practical purposes"
    UNKNOWN = "can't tell yet"


def outcome_of_ratio(low: float, high: float, matters: float) -> Outcome:
    """The outcome of a ratio with interval [low, high]; ``matters`` is the smallest share that counts. A difference
    below it is the same for practical purposes, though it may be sure.
    """
    if 1 - matters <= low and high <= 1 + matters:
        return Outcome.SAME
    if low > 1:
        return Outcome.BETTER
    if high < 1:
        return Outcome.WORSE
    return Outcome.UNKNOWN
