"""The one judge: what the pieces of two samples show of each other, pooled over strata where there are several."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from copy import copy
from dataclasses import dataclass, replace
from functools import cached_property

from adhaero.core.claims.claim import Basis, Claim, Relation
from adhaero.core.inference import Inference
from adhaero.core.questions.study import Sample, Study
from adhaero.core.statistics import contrasts, moderated
from adhaero.core.statistics.additive import AdditiveFit, fit_additive
from adhaero.core.statistics.adjust import step_alphas
from adhaero.core.statistics.censored_intervals import Family, family, intervals, pooled, ratios
from adhaero.core.statistics.gehan import gehan
from adhaero.core.statistics.shares import fisher, share
from adhaero.core.statistics.within_blocks import Fits, fit_cells, over_pairs

USUAL = Inference()
_BY_FALLEN = {True: Relation.WEAKER, False: Relation.STRONGER}
Interval = tuple[float | None, float | None]
Strata = Sequence[Sample]


@dataclass(frozen=True)
class Found:
    """What was found of two samples: ratio of the first to the second with its two-sided p, and its interval at a risk.

    ``higher`` says which way the order of the pieces points where there is no ratio; ``p_fallen`` is of how many held.
    """

    n: int
    basis: Basis = Basis.NOTHING
    ratio: float | None = None
    p: float | None = None
    higher: bool | None = None
    p_fallen: float = 1.0
    fell_more: bool = False
    interval: Callable[[float], Interval] = lambda _: (None, None)

    @property
    def p_above(self) -> float:
        """One-sided p of the first being no stronger than the second."""
        if self.basis is Basis.FALLEN:
            return 1.0 if self.fell_more else self.p_fallen
        if self.p is None:
            return 1.0
        up = self.higher if self.ratio is None else self.ratio > 1
        return self.p / 2 if up else 1 - self.p / 2


@dataclass(frozen=True)
class Apart:
    """Two levels of a factor, among the cells with the levels ``at``: what a model of all factors compares where no
    stratum holds enough pieces of both.
    """

    factor: str
    first: str
    second: str
    at: Mapping[str, str]


@dataclass(frozen=True)
class Pair:
    """Two samples to be compared, by the strata they have in common, with the names that the claim bears. ``apart``
    names the levels for the model, where strata do not hold enough pieces of both.
    """

    subject: str
    object: str
    first: Strata
    second: Strata
    apart: Apart | None = None


class Judge:
    """Judges the samples of one study."""

    def __init__(self, study: Study, inference: Inference = USUAL) -> None:
        self.study, self.inference = study, inference
        self.judged: dict[str, tuple[Pair, float]] = {}
        """The two samples of each claim (by its id), and the risk at which they were judged."""
        self._additive: dict[tuple[tuple[str, str], ...], AdditiveFit | None] = {}
        self._steady: dict[tuple[float, ...], moderated.Steadied | None] = {}

    def sharing(self, among: int) -> Judge:
        """Return a copy that judges at its share of the risk, for one of ``among`` families."""
        own = copy(self)
        own.inference = replace(self.inference, alpha=self.inference.alpha / max(1, among))
        own.judged = {}
        return own

    @cached_property
    def prior(self) -> moderated.Prior | None:
        """What all treatments together tell about their scatter."""
        return moderated.prior_of([s.values for s in self.study.groups if s.values])

    def steadied(self, s: Sample) -> moderated.Steadied | None:
        """Return a sample with its steadied scatter."""
        if s.values not in self._steady:
            self._steady[s.values] = moderated.steadied(s.values, self.prior)
        return self._steady[s.values]

    def found(self, pair: Pair) -> Found:
        """Return what the pieces show of two samples, given by the same strata."""
        first, second = pair.first, pair.second
        n = min(sum(len(s.held) for s in first), sum(len(s.held) for s in second))
        p_fallen, fell_more = self._fallen(first, second)
        both = [(a, b) for a, b in zip(first, second, strict=True) if a.held and b.held]
        if n >= self.inference.least and not any(min(len(a.held), len(b.held)) > 1 for a, b in both):
            # A fraction of the grid, or single pieces: no stratum by itself compares anything.
            found = self._by_model(pair, n)
            if found is not None:
                return Found(**{**vars(found), "p_fallen": p_fallen, "fell_more": fell_more})
        if n < self.inference.least or not both:
            basis = Basis.FALLEN if p_fallen < self.inference.alpha and not n else Basis.NOTHING
            return Found(n, basis, p=p_fallen if basis else None, p_fallen=p_fallen, fell_more=fell_more)
        exact = all(s.is_exact for pair in both for s in pair)
        found = self._by_blocks(both, n) or (self._by_means(both, n) if exact else self._by_bounds(both, n))
        found = found or self._by_order(both, n)
        return Found(**{**vars(found), "p_fallen": p_fallen, "fell_more": fell_more})

    def claims(self, pairs: Sequence[Pair], risk: float | None = None) -> list[Claim]:
        """Return the claims of one family of comparisons, corrected for being several (Holm), or each at one risk."""
        found = [self.found(p) for p in pairs]
        if risk is not None:
            return [self._claim(p, f, risk) for p, f in zip(pairs, found, strict=True)]
        known = [i for i, f in enumerate(found) if f.p is not None]
        steps = step_alphas([found[i].p or 0.0 for i in known], self.inference.alpha)
        own = dict(zip(known, steps, strict=True))
        return [self._claim(p, f, own.get(i, self.inference.alpha))
                for i, (p, f) in enumerate(zip(pairs, found, strict=True))]  # fmt: skip

    def _claim(self, pair: Pair, f: Found, risk: float) -> Claim:
        low, high = f.interval(risk)
        relation = self._relation(f, low, high, risk)
        basis, p = f.basis, f.p
        by_fallen = f.p_fallen < self.inference.alpha and relation is _BY_FALLEN[f.fell_more]
        if by_fallen and self._by_interval(f, low, high, risk) is not relation:
            # Where how many held decides by itself, the claim rests on that.
            basis, p = Basis.FALLEN, f.p_fallen
        claim = Claim(pair.subject, pair.object, relation, f.ratio, low, high, f.n, basis, p)
        self.judged[claim.id] = pair, risk
        return claim

    def _relation(self, f: Found, low: float | None, high: float | None, risk: float) -> Relation:
        """Check for *alike* first: a difference that is shown but too small to matter counts as alike."""
        if f.basis is Basis.FALLEN:
            return Relation.WEAKER if f.fell_more else Relation.STRONGER
        if f.basis is Basis.NOTHING:
            return Relation.NOT_ENOUGH_DATA
        told = self._by_interval(f, low, high, risk)
        if f.p_fallen >= self.inference.alpha:
            return told
        # Fewer held: that alone makes it weaker, unless those that held are stronger.
        against = Relation.STRONGER if f.fell_more else Relation.WEAKER
        return Relation.UNCLEAR if told is against else _BY_FALLEN[f.fell_more]

    def _by_interval(self, f: Found, low: float | None, high: float | None, risk: float) -> Relation:
        margin = self.inference.margin
        if f.ratio is None and low is None and high is None:
            if f.p is None or f.p >= risk:
                return Relation.UNCLEAR
            return Relation.STRONGER if f.higher else Relation.WEAKER
        if low is not None and high is not None and 1 - margin <= low and high <= 1 + margin:
            return Relation.ALIKE
        if low is not None and low > 1:
            return Relation.STRONGER
        return Relation.WEAKER if high is not None and high < 1 else Relation.UNCLEAR

    def _fallen(self, first: Strata, second: Strata) -> tuple[float, bool]:
        a = [sum(len(s.held) for s in x) for x in (first, second)]
        n = [sum(len(s.held) + s.fallen for s in x) for x in (first, second)]
        if min(n) < self.inference.least or a == n:
            return 1.0, False
        return fisher(share(a[0], n[0]), share(a[1], n[1])), a[0] / n[0] < a[1] / n[1]

    @cached_property
    def in_blocks(self) -> Fits | None:
        """Fits of the cells within what they share; ``None`` where that is not taken out."""
        if self.study.shared is None:
            return None
        name, planned = self.study.shared
        cells = {s.key: [((u.low, u.high), u.block) for u in s.held] for s in self.study.groups
                 if any(math.isfinite(u.high) for u in s.held)}  # fmt: skip
        return fit_cells(cells, name, planned=planned)

    def _by_blocks(self, both: Sequence[tuple[Sample, Sample]], n: int) -> Found | None:
        fits, places = self.in_blocks, [(a.key, b.key) for a, b in both]
        if fits is None or not all(fits.together(*p) for p in places):
            return None
        c = fits.ratio(*places[0]) if len(places) == 1 else over_pairs(fits, places)[0]

        def interval(risk: float) -> Interval:
            low, high = c.interval(risk)
            return low, high if math.isfinite(high) else None

        return Found(n, Basis.BLOCKS, math.exp(c.value), c.p, interval=interval)

    def _by_means(self, both: Sequence[tuple[Sample, Sample]], n: int) -> Found | None:
        if len(both) == 1:
            a, b = (self.steadied(s) for s in both[0])
            if a is None or b is None:
                return None
            r = moderated.log_ratio(a, b, self.prior)
            return Found(n, Basis.MEANS, r.ratio, r.p, interval=lambda risk: r.interval(1 - risk))
        several = [(a.values, b.values) for a, b in both if min(len(a.values), len(b.values)) > 1]
        if not several and len({b.key for _, b in both}) == 1:
            # Single pieces, all held against the same ones (solid wood): what they differ in counts as scatter.
            return self._by_means([(Sample(tuple(u for a, _ in both for u in a.units)), both[0][1])], n)
        if not several or contrasts.pooled(several) is None:
            return None

        def interval(risk: float) -> Interval:
            at = contrasts.pooled(several, 1 - risk)
            return (at.low, at.high) if at else (None, None)

        found = contrasts.pooled(several)
        return Found(n, Basis.MEANS, found.ratio, found.p, interval=interval) if found else None

    def _by_model(self, pair: Pair, n: int) -> Found | None:
        """Compare two levels by a model of all factors; ``None`` unless every load is exact."""
        if pair.apart is None:
            return None
        c = pair.apart
        key = tuple(sorted(c.at.items()))
        if key not in self._additive:
            cells = [(x.levels, self.study.sample(x.levels)) for x in self.study.cells
                     if all(x.levels.get(k) == v for k, v in c.at.items())]  # fmt: skip
            exact = all(s.is_exact for _, s in cells)
            self._additive[key] = fit_additive([(levels, s.values) for levels, s in cells]) if exact else None
        fit = self._additive[key]
        r = fit.log_ratio(c.factor, c.first, c.second) if fit is not None else None
        return None if r is None else Found(n, Basis.ADDITIVE, r.ratio, r.p, interval=lambda risk: r.interval(1 - risk))

    @cached_property
    def _censored(self) -> tuple[Family, dict[str, int]]:
        groups = [s for s in (*self.study.groups, *self.study.solid.values()) if s.held]
        # Two treatments may have the very same limits: what tells them apart are their pieces.
        return family([s.bounds for s in groups]), {s.key: i for i, s in enumerate(groups)}

    def _by_bounds(self, both: Sequence[tuple[Sample, Sample]], n: int) -> Found | None:
        """By medians with one scatter. Samples that are no cells of the study are put together for themselves. A side
        of which most pieces only held, and fewer failed than a judgement needs, has no median: it goes by order.
        """
        if any(self._hardly_failed([pair[i] for pair in both]) for i in (0, 1)):
            return None
        fit, place = self._censored
        if not all(s.key in place for pair in both for s in pair):
            groups = [s.bounds for pair in both for s in pair]
            fit, pairs = family(groups), [(2 * i, 2 * i + 1) for i in range(len(both))]
        else:
            pairs = [(place[a.key], place[b.key]) for a, b in both]
        if len(both) > 1:
            at = pooled(fit, pairs, self.inference.alpha)

            def wide(risk: float) -> Interval:
                found = pooled(fit, pairs, risk)
                return (found.low, found.high) if found else (None, None)

            return Found(n, Basis.BOUNDS, at.ratio, at.p, interval=wide) if at else None
        ratio, p, higher = ratios(fit, pairs)[0], None, None
        if ratio.one_sided:
            # One of the two never failed: there is a bound on one side, and the order gives it a test.
            by_order = self._by_order(both, n)
            p, higher = by_order.p, by_order.higher
            if intervals(fit, pairs, [self.inference.alpha])[0] is None:
                return None
        elif ratio.ratio is None:
            return None

        def narrow(risk: float) -> Interval:
            found = intervals(fit, pairs, [risk])[0]
            return (found.low, found.high) if found else (None, None)

        return Found(n, Basis.BOUNDS, ratio.ratio, p if ratio.one_sided else ratio.p, higher, interval=narrow)

    def _hardly_failed(self, strata: Strata) -> bool:
        held = sum(s.unbounded for s in strata)
        failed = sum(len(s.held) for s in strata) - held
        return 0 < failed < min(held, self.inference.least)

    def _by_order(self, both: Sequence[tuple[Sample, Sample]], n: int) -> Found:
        """Compare by order (Gehan); over several strata only where all of them point the same way."""
        tests = [gehan(a.bounds, b.bounds) for a, b in both]
        if any(t is None for t in tests) or len({t.score > 0 for t in tests if t}) != 1:
            return Found(n, Basis.ORDER)
        return Found(n, Basis.ORDER, p=max(t.p for t in tests if t), higher=any(t.score > 0 for t in tests if t))
