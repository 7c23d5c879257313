"""Strengths that are only bounds, alone and in groups."""

from __future__ import annotations

from typing import Any

from adhaero.core.statistics.censored import Fit, competing, fit
from adhaero.core.statistics.censored_groups import GroupsFit, fit_groups, own_scales, sample
from tests.core.references.cases import agree_all, bounds, by_group


def _fit(got: Fit, expected: Any, case: Any) -> None:
    (v_location, cov), (_, v_scale) = got.covariance
    actual = {
        "intercept": got.location, "scale": got.scale, "loglik": got.loglik, "mean": got.mean, "median": got.median,
        "log_median": got.log_median, "se_intercept": v_location**0.5, "se_log_scale": v_scale**0.5,
        "cov_intercept_log_scale": cov, "se_log_median": got.se_log_median, "median_low": got.median_low,
        "median_high": got.median_high,
    }  # fmt: skip
    agree_all(actual, expected, case, got.shape)


def censored(case: Any) -> None:
    specimens, expected = case["input"]["specimens"], case["expected"]
    if "load" not in specimens[0]:
        _check([bounds(s) for s in specimens], expected, expected and expected.get("bound"), case)
        return
    loads = [(s["load"], s["load"]) for s in specimens]
    parts = competing(loads, [s["mode"] == "bond" for s in specimens])
    for name, data in zip(("bond", "wood"), parts, strict=True):
        _check(data, expected[name], expected.get("bounds", {}).get(name), case)


def _check(data: list[tuple[float, float]], expected: Any, bound: Any, case: Any) -> None:
    got = fit(data)
    if expected is None or expected.get("weibull") is None:
        assert not got.fits
        assert got.reason
    else:
        for shape, own in got.fits.items():
            _fit(own, expected[shape], case)
        assert set(got.fits) == {"lognormal", "weibull"}
    if bound:
        agree_all({"smallest_load": got.lowest, "largest_load": got.highest}, bound, case)


def censored_groups(case: Any) -> None:
    groups = {name: [bounds(s) for s in own] for name, own in by_group(case["input"]["specimens"]).items()}
    names, expected = list(groups), case["expected"]
    s = sample(list(groups.values()))
    assert {names[i]: why for i, why in s.left_out.items()} == {x["name"]: x["kind"] for x in expected["left_out"]}
    for shape in ("weibull", "lognormal"):
        got = fit_groups(s, shape)
        if expected[shape] is None:
            assert got is None
            continue
        assert got is not None
        _groups(got, names, expected[shape], case)
        for row in expected[shape]["pairs_own_scale"]:
            own = own_scales(groups[row["group1"]], groups[row["group2"]], shape)
            if row["lr"] is None:
                assert own is None
                continue
            assert own is not None
            actual = {
                "scale1": own.scales[0], "scale2": own.scales[1], "log_ratio": own.log_ratio, "loglik": own.loglik,
                "loglik_equal_medians": own.loglik_equal, "lr": own.lr, "p": own.p,
            }  # fmt: skip
            agree_all(actual, row, case, "own scales")


def _groups(got: GroupsFit, names: list[str], expected: Any, case: Any) -> None:
    agree_all({"scale": got.scale, "se_log_scale": got.se_log_scale, "loglik": got.loglik}, expected, case)
    if expected["equal"] is None:
        assert got.equal is None
    else:
        agree_all(vars(got.equal), expected["equal"], case, "equal")
    used = [names[i] for i in got.sample.groups]
    medians = {row["name"]: row for row in expected["groups"] if row.get("location") is not None}
    assert list(medians) == used
    for name, m in zip(used, got.medians, strict=True):
        actual = {k: v for k, v in vars(m).items() if k not in ("low", "high")}
        agree_all({**actual, "median_low": m.low, "median_high": m.high}, medians[name], case, name)
    found = {(used[p.first], used[p.second]): p for p in got.pairs()}
    for row in expected["pairs"]:
        p = found.get((row["group1"], row["group2"]))
        if row["log_ratio"] is None:
            assert p is None
            continue
        assert p is not None
        actual = {"log_ratio": p.log_ratio, "se": p.se, "z": p.z, "p": p.p, "p_holm": p.p_holm}
        agree_all({**actual, "ci_low": p.low, "ci_high": p.high}, row, case, "pair")
