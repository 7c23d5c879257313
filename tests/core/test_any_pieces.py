"""Whatever the pieces broke at, there is an answer, and every number in it is one."""

from __future__ import annotations

import math
from itertools import combinations

from hypothesis import given, settings
from hypothesis import strategies as st

from adhaero.core.compare.axis import SHAPES, Levels
from adhaero.core.compare.estimates import estimates
from adhaero.core.compare.planned import ORDER
from adhaero.core.compare.saying import said
from adhaero.core.compare.verdict import Verdict
from adhaero.core.piece_record import Datum, Known
from adhaero.core.plan.comparisons import KEPT, Contrast, Family, Within
from adhaero.core.statistics.curves import SHAPES as CURVES
from adhaero.core.statistics.curves import fit_curve
from tests.core.test_sentences import apart, exact, family, group, held, judged, verdict

TIMES = (0.0, 0.25, 0.5, 1.0, 2.0, 4.0, 8.0, 24.0, 72.0)
loads = st.one_of(st.floats(0.5, 9000), st.sampled_from([100.0, 4000.0]))
pieces = st.one_of(loads.map(lambda v: exact(v)), loads.map(lambda v: held(v)), st.just(apart(1)))


@settings(deadline=None, max_examples=25)
@given(st.data())
def test_a_curve_is_fitted_or_not_and_never_breaks_down(data: st.DataObject) -> None:
    """Humps and steps leave slopes that run along with each other: then no parameter is told."""
    shape = data.draw(st.sampled_from(sorted(CURVES)))
    x = data.draw(st.lists(st.sampled_from(TIMES), min_size=3, max_size=20))
    y = data.draw(st.lists(loads, min_size=len(x), max_size=len(x)))
    fit = fit_curve(shape, x, y)
    if fit is None:
        return
    assert all(se is None or math.isfinite(se) for se in fit.se)
    for at in x:
        band = fit.band(at)
        assert band is None or band[0] <= fit.value(at) <= band[1]
    ends = fit.reaches_interval()
    assert ends is None or (ends[0] <= (fit.reaches() or 0) <= ends[1] < math.inf)


def along(key: str, at: dict[str, float], reference: str) -> tuple[Family, Levels]:
    contrasts = tuple(Contrast("", x, reference, (Within(x, reference),)) for x in at if x != reference)
    against = Family(f"factor:{key}", "factor", "Compare", contrasts, key, axis=True)
    return against, Levels(key, "Time", at, lambda x: f"{x:.3g} h", at[reference], "h")


@settings(deadline=None, max_examples=25)
@given(st.data())
def test_any_pieces_along_any_axis_have_an_answer_in_numbers(data: st.DataObject) -> None:
    places = data.draw(st.lists(st.sampled_from(TIMES), min_size=2, max_size=5, unique=True))
    at = dict(zip("ABCDE", sorted(places), strict=False))
    n = data.draw(st.integers(1, 4))
    broken: list[list[Datum]] = [
        data.draw(st.lists(pieces, min_size=n, max_size=n).map(lambda x: [d for own in x for d in own])) for _ in at
    ]
    key = data.draw(st.sampled_from([*SHAPES, "dose"]))
    against, levels = along(key, at, data.draw(st.sampled_from(sorted(at))))
    found = verdict([group(x, own) for x, own in zip(at, broken, strict=True)], against, levels=(levels,),
                    zero=data.draw(st.booleans()))  # fmt: skip
    assert in_numbers(found)


def between(low: float, high: float) -> list[Datum]:
    return [Datum(Known.BETWEEN, low, high)]


def in_numbers(v: Verdict) -> bool:
    """Whether all that is said and estimated is in finite numbers."""
    assert v.case is not None
    ends = [x for e in estimates(v.case.setting).values() for x in (e.value, e.low, e.high) if x is not None]
    texts = [said(v.case, r.family, j) for r in v.results for j in r.comparisons] + [c.text for c in v.caveats]
    texts += [s.text for a in v.axes for s in a.series]
    return all(math.isfinite(x) for x in ends) and not any("nan" in text for text in texts)


def test_next_to_no_scatter_beside_bounds_is_compared_by_order() -> None:
    """Loads alike to the last digit have no likelihood that numbers hold: it broke down, and the page with it."""
    alike = [4382.0730390605 * (1 + x) for x in (0.0, 1e-9, -1e-9, 2e-9)]
    v = verdict(
        [group("A", exact(*alike) + held(4000)), group("B", exact(*(x / 2 for x in alike)) + between(1900, 2500))]
    )
    assert in_numbers(v)
    assert judged(v)[0].route == ORDER
    # One wide step beside two loads that nearly agree: nothing is known of its place within the step.
    wide = verdict([group("A", held(3.7) + exact(3.8, 3.8002)), group("B", exact(4.8)), group("C", between(3.2, 4.8))])
    assert in_numbers(wide)


@settings(deadline=None, max_examples=25)
@given(st.data())
def test_any_pieces_that_are_compared_have_an_answer_in_numbers(data: st.DataObject) -> None:
    k = data.draw(st.integers(2, 5))
    scatter = data.draw(st.sampled_from([0.0, 1e-9, 1e-4, 0.003, 0.1, 1.0]))
    near = st.floats(-1, 1).map(lambda x: 4000 * (1 + scatter * x) + 1e-6)
    kinds = st.one_of(near.map(exact), near.map(held), near.map(lambda v: between(0.8 * v, 1.2 * v)), st.just(apart(1)))
    groups = [
        group(x, [d for own in data.draw(st.lists(kinds, min_size=1, max_size=5)) for d in own]) for x in "ABCDE"[:k]
    ]
    pairs = [Within(b, a) for a, b in combinations("ABCDE"[:k], 2)]
    found = family(*pairs, of=data.draw(st.sampled_from(["glue", KEPT])), every_pair=data.draw(st.booleans()))
    assert in_numbers(verdict(groups, found))
