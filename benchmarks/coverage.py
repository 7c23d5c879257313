"""How often the intervals hold what they promise, and how often a difference is claimed that is none.

``python -m benchmarks.coverage [batches]``: made-up batches whose truth is known, at n = 3, 6 and 10, CV 15 %. Printed:
in how many of a hundred the interval covers the truth, and in how many something wins that is no better.
"""

from __future__ import annotations

import math
import sys
from collections.abc import Callable

import numpy as np

from adhaero.core.statistics import censored_intervals
from adhaero.core.statistics.block_ratios import fit_blocks
from adhaero.core.statistics.censored import Bounds, competing
from adhaero.core.statistics.contrasts import moments, pooled, welch
from adhaero.core.statistics.curves import fit_curve
from adhaero.core.statistics.descriptive import summarise
from adhaero.core.statistics.moderated import log_ratio, prior_of, steadied
from adhaero.core.statistics.plateau import plateau

CV = 0.15
NUMBERS = (3, 6, 10)
Rng = np.random.Generator
Covers = Callable[[Rng, int], bool | None]


def loads(rng: Rng, mean: float, n: int) -> list[float]:
    """Lognormal loads with this mean."""
    s2 = math.log1p(CV * CV)
    return [float(v) for v in np.exp(rng.normal(math.log(mean) - s2 / 2, math.sqrt(s2), n))]


def mean(rng: Rng, n: int) -> bool:
    s = summarise(loads(rng, 4000, n))
    return (s.ci_low or 0) <= 4000 <= (s.ci_high or 0)


def ratio(rng: Rng, n: int) -> bool | None:
    return _covers(loads(rng, 3000, n), loads(rng, 4000, n), 0.75)


def over_strata(rng: Rng, n: int) -> bool | None:
    r = pooled([(loads(rng, 0.6 * m, n), loads(rng, m, n)) for m in (2000, 4000, 5000, 3000)])
    return None if r is None else r.low <= 0.6 <= r.high


def kept(rng: Rng, n: int) -> bool | None:
    return _covers(loads(rng, 400, n), loads(rng, 4000, n), 0.1)


def _covers(first: list[float], second: list[float], truth: float) -> bool | None:
    """Whether the interval that every sentence goes by holds the true ratio."""
    prior = prior_of([first, second])
    a, b = (steadied(x, prior) for x in (first, second))
    if a is None or b is None:
        return None
    low, high = log_ratio(a, b, prior).interval(0.95)
    return low <= truth <= high


def of_bonds(share: float) -> tuple[Covers, Covers, Covers]:
    """Bonds of 4,000 in the middle in wood so strong that this ``share`` of the pieces breaks in it."""

    def bonds(rng: Rng, middle: float, n: int) -> list[Bounds]:
        bond = np.exp(rng.normal(math.log(middle), CV, n))
        if share == 0:
            return [(float(b), float(b)) for b in bond]
        # Wood of the same scatter: that share is weaker than the bond.
        shift = float(np.sqrt(2) * CV * -_quantile(share))
        wood = np.exp(rng.normal(math.log(middle) + shift, CV, n))
        low = np.minimum(bond, wood)
        return competing([(float(v), float(v)) for v in low], [bool(b) for b in bond < wood])[0]

    def median(rng: Rng, n: int) -> bool | None:
        found = censored_intervals.median_interval(bonds(rng, 4000, n), "lognormal")
        return None if found is None else found.low <= 4000 <= found.high

    def of_two(rng: Rng, n: int) -> bool | None:
        f = censored_intervals.family([bonds(rng, 5200, n), bonds(rng, 4000, n)])
        (found,) = censored_intervals.intervals(f, [(0, 1)], [0.05])
        return None if found is None else found.low <= 1.3 <= found.high

    def in_strata(rng: Rng, n: int) -> bool | None:
        f = censored_intervals.family([bonds(rng, m, n) for m in (4000, 5200, 2000, 2600, 3000, 3900)])
        found = censored_intervals.pooled(f, [(1, 0), (3, 2), (5, 4)])
        return None if found is None else found.low <= 1.3 <= found.high

    return median, of_two, in_strata


def on_boards(share: float) -> Covers:
    """Three treatments of n pieces each, one on each of n boards that differ by a third; this ``share`` in the wood."""

    def ratio_on_boards(rng: Rng, n: int) -> bool | None:
        board, data, place, home = rng.normal(0, 0.3, n), [], [], []
        shift = math.inf if share == 0 else float(np.sqrt(2) * CV * -_quantile(share))
        for t, middle in enumerate((0.0, math.log(1.3), 0.1)):
            for b in range(n):
                bond, wood = np.exp(board[b] + middle + rng.normal(0, CV, 2) + [0, shift])
                data.append((float(bond), float(bond)) if bond < wood else (float(wood), math.inf))
                place.append(t)
                home.append(b)
        fit = fit_blocks(data, place, home)
        ends = fit.ratio(1, 0).interval(0.05) if fit else None
        return None if ends is None else ends[0] <= 1.3 <= ends[1]

    return ratio_on_boards


def _quantile(share: float) -> float:
    from scipy import special

    return float(special.ndtri(share))


def time_to_90(rng: Rng, n: int) -> bool | None:
    times = np.repeat([0.25, 0.5, 1, 2, 4, 8], n)
    truth = 4000 * (1 - np.exp(-times / 1.2))
    fit = fit_curve("weibull", times.tolist(), (truth * np.exp(rng.normal(0, 0.08, len(times)))).tolist())
    ends = fit.reaches_interval() if fit else None
    at = 1.2 * math.log(10)
    return None if ends is None else ends[0] <= at <= ends[1]


def from_too_early(rng: Rng, n: int) -> bool:
    """Whether "from 4 h on" is right: truly 8 h is within 10 % of overnight, 4 h just is not (89 %)."""
    levels = [loads(rng, m, n) for m in (1500, 2800, 3560, 4000, 4000)]
    found = plateau(levels, 4)
    return found.before is None or found.before >= 3


def no_false_win(rng: Rng, n: int) -> bool:
    """Five alike treatments against a control, Holm within the family."""
    from adhaero.core.statistics.adjust import holm

    control = moments(loads(rng, 4000, n))
    found = [welch(moments(loads(rng, 4000, n)), control).p for _ in range(5)]
    return all(p >= 0.05 for p in holm([p for p in found if p is not None]))


def rows() -> list[tuple[str, Covers, float, float]]:
    """What is tried, with the range of the share that is right (percent)."""
    found: list[tuple[str, Covers, float, float]] = [
        ("mean", mean, 93, 97), ("ratio within a stratum", ratio, 93, 97), ("ratio pooled over 4", over_strata, 93, 97),
        ("kept (a tenth)", kept, 93, 97), ("time to 90 %", time_to_90, 93, 97),
        ("plateau not too early", from_too_early, 95, 100), ("no false win among 5", no_false_win, 95, 100),
    ]  # fmt: skip
    for share in (0.0, 0.3, 0.6):
        median, two, strata = of_bonds(share)
        names = f"{100 * share:.0f} % bounds"
        found += [(f"median, {names}", median, 94, 99), (f"ratio, {names}", two, 94, 99),
                  (f"pooled over 3, {names}", strata, 94, 99)]  # fmt: skip
    found += [(f"ratio within boards, {100 * s:.0f} % bounds", on_boards(s), 94, 99) for s in (0.0, 0.3)]
    return found


def main(batches: int = 2000) -> None:
    """Print a row for everything tried."""
    print(f"{'of ' + str(batches) + ' batches each':34}" + "".join(f"{f'n = {n}':>18}" for n in NUMBERS))
    for name, covers, low, high in rows():
        cells = []
        for n in NUMBERS:
            rng = np.random.default_rng(17)
            tried = [covers(rng, n) for _ in range(batches)]
            known = [t for t in tried if t is not None]
            share = 100 * sum(known) / max(1, len(known))
            none = f" ({len(tried) - len(known)} none)" if len(known) < len(tried) else ""
            cells.append(f"{share:5.1f} %{'' if low <= share <= high else ' !'}{none}".rjust(18))
        print(f"{name:34}" + "".join(cells), flush=True)


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 2000)
