"""Loads that went up in steps: how many steps apart two treatments gave way, where no more than that can be said.

The ladder are the loads at which anything of the batch was last seen whole; a piece stands on the rung that it bore. Of
one or two pieces nothing is claimed; what was seen of them is told as steps.
"""

from __future__ import annotations

from collections.abc import Sequence
from statistics import median

from adhaero.core.compare.analysis import Row
from adhaero.core.compare.data import WEAK_N
from adhaero.core.compare.planned import Judged, Setting
from adhaero.core.piece_record import Datum, Known

NUMBERS = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten")
SAME = 1e-6


def ladder(rows: Sequence[Row]) -> list[float]:
    """The rungs, the lowest first: 0 for what bore no step, then every load that was borne."""
    lows = sorted(d.low for r in rows for d in _stepped(r) or [])
    found = [0.0]
    for low in lows:
        if low > found[-1] * (1 + SAME) + SAME:
            found.append(low)
    return found


def _stepped(r: Row) -> list[Datum] | None:
    """The data of a treatment whose loads all went up in steps; ``None`` where one of them did not."""
    data = [d for d in r.group.data(fallen_as_zero=True) if d.counts]
    steps = (Known.BETWEEN, Known.AT_LEAST, Known.BELOW)
    return data if data and all(d.known in steps for d in data) else None


def _rung(d: Datum, rungs: Sequence[float]) -> int:
    return min(range(len(rungs)), key=lambda i: abs(rungs[i] - d.low))


def steps_apart(j: Judged, s: Setting) -> tuple[float, bool, bool] | None:
    """How many rungs the first gave way above the second (the middle of each), and whether the first, or the second,
    was never seen to give way; ``None`` where loads did not go up in steps, or there is nothing of either.
    """
    a, b = (_stepped(s.rows[x]) for x in (j.first, j.second))
    rows = list(s.rows.values())
    in_steps = any(d.known is Known.BETWEEN for r in rows for d in r.group.data(fallen_as_zero=True))
    if a is None or b is None or not in_steps:
        return None
    rungs = ladder(rows)
    held = [any(d.known is Known.AT_LEAST for d in own) for own in (a, b)]
    first, second = (median(_rung(d, rungs) for d in own) for own in (a, b))
    return first - second, held[0], held[1]


def few(j: Judged, s: Setting) -> bool:
    """Whether one of the two has too few pieces for any claim."""
    return min(s.rows[x].summary.n for x in (j.first, j.second)) < WEAK_N


def in_words(j: Judged, s: Setting) -> str:
    """For example "two steps lower" or "the same step"; empty where that says nothing."""
    found = steps_apart(j, s)
    if found is None:
        return ""
    by, first_held, second_held = found
    if by == 0:
        return "the same step" if first_held == second_held else (
            "at least the same step" if first_held else "at most the same step"
        )  # fmt: skip
    n = abs(by)
    count = NUMBERS[int(n)] if n == int(n) and n < len(NUMBERS) else f"{n:g}"
    way = "higher" if by > 0 else "lower"
    # What never gave way may lie higher still: that makes a lead larger, and a lag smaller.
    bound = "at least " if (by > 0 and first_held) or (by < 0 and second_held) else ""
    open_ = (by > 0 and second_held) or (by < 0 and first_held)
    words = f"{bound}{count} step{'s' * (n != 1)} {way}"
    return f"{words} as far as it was loaded" if open_ else words
