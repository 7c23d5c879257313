"""Few pieces of each treatment, their scatter steadied by that of the others."""

from __future__ import annotations

import math
from typing import Any

from adhaero.core.statistics.adjust import holm
from adhaero.core.statistics.moderated import LogRatio, log_ratio, prior_of, steadied
from tests.core.references.cases import agree, agree_all


def moderated(case: Any) -> None:
    given, expected = case["input"], case["expected"]
    values = {g["name"]: g["values"] for g in given["groups"]}
    prior, told = prior_of(list(values.values())), expected["prior"]
    if told["d0"] is None:
        assert prior is None
        return
    assert prior is not None
    agree(prior.raw_df if math.isfinite(prior.raw_df) else None, told["d0_raw"], case, "d0_raw")
    own_prior = {"d0": prior.df, "s0_squared": prior.cv2, "total_df": prior.total_df, "n_groups": prior.groups}
    agree_all(own_prior, told, case)
    own = {name: steadied(v, prior) for name, v in values.items()}
    for row in expected["groups"]:
        found = own[row["name"]]
        if row["used"] is None:
            assert found is None
            continue
        assert found is not None
        agree_all({"n": found.n, "mean": found.mean, "cv_squared": found.cv2, "used": found.used, "df": found.df},
                  row, case, row["name"])  # fmt: skip
    for family in expected["families"]:
        pairs = [(own[r["first"]], own[r["second"]]) for r in family["comparisons"]]
        tests = [log_ratio(a, b, prior) if a is not None and b is not None else None for a, b in pairs]
        known = [t for t in tests if t is not None]
        adjusted = iter(holm([t.p for t in known]))
        level = given["level"]
        for t, row in zip(tests, family["comparisons"], strict=True):
            agree(None if t is None else t.p, row["p"], case, row["first"])
            if t is not None:
                _pair(t, row, case, next(adjusted), level, 1 - (1 - level) / len(known))


def _pair(t: LogRatio, row: Any, case: Any, p_holm: float, level: float, shared: float) -> None:
    low, high = t.interval(level)
    low_f, high_f = t.interval(shared)
    actual = {
        "ratio": t.ratio, "log_ratio": t.log_ratio, "se_log": t.se, "df": t.df, "t": t.log_ratio / t.se,
        "p_holm": p_holm, "ci_low": low, "ci_high": high, "ci_low_family": low_f, "ci_high_family": high_f,
    }  # fmt: skip
    agree_all(actual, row, case, f"{row['first']} / {row['second']}")
