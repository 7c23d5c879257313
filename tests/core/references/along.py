"""Along a numeric factor or time: curves, trends, plateaus and survival."""

from __future__ import annotations

import math
from typing import Any

from adhaero.core.statistics.curves import SHAPES, aicc, fit_curve
from adhaero.core.statistics.logrank import kaplan_meier, log_rank
from adhaero.core.statistics.plateau import plateau as walk
from adhaero.core.statistics.trend import Line, jonckheere, lack_of_fit, line
from tests.core.references.cases import agree, agree_all, by_group

MODELS = {"exponential_delay": "delay", "weibull_growth": "weibull", "gap_power_exponential": "gap"}


def curves(case: Any) -> None:
    given, expected = case["input"], case["expected"]
    model = MODELS.get(given["model"])
    if model is None:
        _line_as_curve(given, expected, case)
        return
    got = fit_curve(model, given["x"], given["strength"])
    if expected is None:
        assert got is None
        return
    assert got is not None
    for name, value, se in zip(SHAPES[model].names, got.estimate, got.se, strict=True):
        agree_all({"estimate": value, "se": se}, expected["parameters"][name], case, name)
    agree_all({"rss": got.rss, "residual_se": got.residual_se, "aicc": got.aicc, "df": got.df}, expected, case)
    if "time_to_90" in expected:
        agree(got.reaches(0.9), expected["time_to_90"], case, "time to 90 %")
        assert got.at_bound == expected.get("t0_at_bound", False)


def _line_as_curve(given: Any, expected: Any, case: Any) -> None:
    log = given["model"] == "age_loglinear"
    if expected is None:
        assert min(given["strength"]) <= 0 if log else line(given["x"], given["strength"]) is None
        return
    y = [math.log(v) for v in given["strength"]] if log else given["strength"]
    got = line(given["x"], y)
    assert got is not None
    agree_all({"estimate": got.intercept, "se": got.se_intercept}, expected["parameters"]["intercept"], case)
    agree_all({"estimate": got.slope, "se": got.se}, expected["parameters"]["slope"], case)
    actual = {"slope_low": got.ci_low, "slope_high": got.ci_high, "slope_p": got.p, "residual_se": got.residual}
    agree_all({**actual, "aicc": aicc(len(y), got.rss, 3)}, expected, case)
    if expected["r_squared"] is not None:
        agree(1 - got.rss / got.total, expected["r_squared"], case, "r squared")


def trend(case: Any) -> None:
    levels, expected = case["input"]["levels"], case["expected"]
    x = [level["x"] for level in levels for _ in level["values"]]
    y = [v for level in levels for v in level["values"]]
    _line(line(x, y), x, y, expected["linear"], case)
    if expected["log"] is None:
        assert min(x) <= 0
    else:
        logs = [math.log(v) for v in x]
        _line(line(logs, y), logs, y, expected["log"], case)
    j = jonckheere(x, y)
    if expected["jonckheere"] is None or expected["jonckheere"]["z"] is None:
        assert j is None
        return
    assert j is not None
    agree_all({"J": j.j, "mean": j.mean, "variance": j.variance, "z": j.z, "p": j.p}, expected["jonckheere"], case)


def _line(got: Line | None, x: list[float], y: list[float], expected: Any, case: Any) -> None:
    row = expected["line"]
    if row is None or row["slope"] is None:
        assert got is None
        return
    assert got is not None
    keys = ("intercept", "slope", "se", "df", "t", "p", "ci_low", "ci_high")
    agree_all({k: getattr(got, k) for k in keys}, row, case, "line")
    lack = lack_of_fit(x, y, got)
    if expected["lack_of_fit"] is None:
        assert lack is None
        return
    assert lack is not None
    own = vars(lack)
    agree_all({("F" if k == "f" else k): v for k, v in own.items()}, expected["lack_of_fit"], case, "lack of fit")


def plateau(case: Any) -> None:
    given, expected = case["input"], case["expected"]
    names = [level["name"] for level in given["levels"]]
    reference = names.index(given["reference"])
    got = walk([level["values"] for level in given["levels"]], reference, given["delta"], given["level"])
    rows = {names[r.level]: r for r in got.levels}
    for row in expected["levels"]:
        r = rows[row["name"]]
        agree(r.ratio, row["ratio"], case, f"{row['name']}: ratio")
        if row["fieller"] is None:
            assert r.low is None
        else:
            assert r.fieller is not None
            agree_all({"df": r.fieller.df, "g": r.fieller.g, "low": r.low}, row["fieller"], case, row["name"])
        if row["log_ratio"] is None:
            assert r.log is None
        else:
            assert r.log is not None
            actual = {"log_ratio": r.log.log_ratio, "se_log": r.log.se, "df": r.log.df, "low": r.log.low}
            agree_all(actual, row["log_ratio"], case, row["name"])
    ends = {"fieller": (got.before, got.after), "log_ratio": (got.before_by_log, got.after_by_log)}
    for by, (before, after) in ends.items():
        told = {"before": before, "after": after}
        assert {k: None if v is None else names[v] for k, v in told.items()} == expected["farthest"][by], by


def logrank(case: Any) -> None:
    given, expected = case["input"], case["expected"]
    groups = {n: [(s["time"], s["failed"]) for s in own] for n, own in by_group(given["specimens"]).items()}
    test = log_rank(list(groups.values()))
    if expected["logrank"] is None:
        assert test is None
    else:
        assert test is not None
        agree_all({"chisq": test.chisq, "df": test.df, "p": test.p}, expected["logrank"], case)
    for n, row in enumerate(expected["groups"]):
        agree(test.expected[n] if test else None, row["expected_failures"], case, "expected failures")
        for got, own in zip(
            kaplan_meier(groups[row["name"]], given["at"], given["level"]), row["survival"], strict=True
        ):
            agree_all(vars(got), own, case, row["name"])
