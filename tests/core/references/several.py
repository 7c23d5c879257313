"""Planned comparisons, two factors, counts and outcomes in words."""

from __future__ import annotations

from typing import Any

from adhaero.core.statistics.adjust import holm
from adhaero.core.statistics.contrasts import family, pooled
from adhaero.core.statistics.factorial import factorial as two_factors
from adhaero.core.statistics.outliers import grubbs, rosner
from adhaero.core.statistics.ranks import kruskal_wallis
from adhaero.core.statistics.shares import fisher, fisher_overall, rank_sums, share
from adhaero.core.statistics.tolerance import factor, lower_limit
from tests.core.references.cases import agree, agree_all


def contrasts(case: Any) -> None:
    given, expected = case["input"], case["expected"]
    values = {g["name"]: g["values"] for g in given["groups"]}

    def pairs(rows: Any) -> list[tuple[list[float], list[float]]]:
        return [(values[r["first"]], values[r["second"]]) for r in rows]

    for own, told in zip(given["families"], expected["families"], strict=True):
        found = family(pairs(own["comparisons"]), given["level"])
        for c, row in zip(found, told["comparisons"], strict=True):
            actual = {
                "mean1": c.means[0], "mean2": c.means[1], "diff": c.diff, "se": c.se, "df": c.df, "t": c.t, "p": c.p,
                "p_holm": c.p_holm, "ci_low": c.ci_low, "ci_high": c.ci_high, "ci_low_family": c.low_family,
                "ci_high_family": c.high_family, "ratio": c.ratio,
            }  # fmt: skip
            agree_all(actual, row, case, f"{row['first']} - {row['second']}")
            f, log = row["fieller_welch"], row["log_ratio"]
            assert (c.fieller is None) == (f is None)
            assert (c.log_ratio is None) == (log is None)
            if f is not None and c.fieller is not None:
                agree_all({k: getattr(c.fieller, k) for k in ("df", "g", "ci_low", "ci_high")}, f, case, "fieller")
                agree(c.fieller.low_without_high, f.get("low_without_high"), case, "low without high")
            if log is not None and c.log_ratio is not None:
                r = c.log_ratio
                actual = {"log_ratio": r.log_ratio, "se_log": r.se, "df": r.df, "ci_low": r.low, "ci_high": r.high}
                agree_all(actual, log, case, "log ratio")
    for own, row in zip(given["pooled"], expected["pooled"], strict=True):
        got = pooled(pairs(own["strata"]), given["level"])
        if row.get("log_ratio") is None:
            assert got is None
            continue
        assert got is not None
        actual = {"n_strata": got.strata, "log_ratio": got.log_ratio, "se_log": got.se, "df": got.df, "t": got.t,
                  "p": got.p, "ratio": got.ratio, "ci_low": got.low, "ci_high": got.high}  # fmt: skip
        agree_all(actual, row, case, own["name"])
        q = row["heterogeneity"]
        agree_all({"Q": got.q, "df": got.q_df, "p": got.q_p}, q or dict.fromkeys(("Q", "df", "p")), case, "Q")


def factorial(case: Any) -> None:
    rows, expected = case["input"]["rows"], case["expected"]
    levels = {f: list(dict.fromkeys(r[f] for r in rows)) for f in ("a", "b")}
    places = [[levels[f].index(r[f]) for r in rows] for f in ("a", "b")]
    got = two_factors([r["strength"] for r in rows], *places)
    if expected is None:
        assert got is None
        return
    assert got is not None
    for name, term in (("a", got.a), ("b", got.b), ("interaction", got.interaction)):
        row = expected["anova"][name]
        if term is None:
            assert row is None
            continue
        agree_all({"sum_sq": term.sum_sq, "df": term.df, "F": term.f, "p": term.p}, row, case, name)
    residual = expected["anova"]["residual"]
    agree_all({"sum_sq": got.residual, "df": got.df, "mean_sq": got.scatter**2}, residual, case, "residual")


def counts(case: Any) -> None:
    groups, expected, level = case["input"]["groups"], case["expected"], case["input"].get("level", 0.95)
    if case["input"]["kind"] == "ordered":
        _ordered([g["outcomes"] for g in groups], expected, case)
        return
    shares = [share(g["count"], g["n"], 1 - level) for g in groups]
    for s, row in zip(shares, expected["groups"], strict=True):
        agree(s.share, row["share"], case, "share")
        if s.n:
            agree_all({"ci_low": s.low, "ci_high": s.high}, row, case, row["name"])
    known = [r for r in expected["pairs"] if r["p"] is not None]
    named = {g["name"]: s for g, s in zip(groups, shares, strict=True)}
    p = [fisher(named[r["group1"]], named[r["group2"]]) for r in known]
    for own, adjusted, row in zip(p, holm(p), known, strict=True):
        agree_all({"p": own, "p_holm": adjusted}, row, case, "pair")
    agree(fisher_overall([(s.hits, s.n) for s in shares]), expected["fisher_overall"]["p"], case, "overall")


def _ordered(groups: list[list[float]], expected: Any, case: Any) -> None:
    kruskal = kruskal_wallis(groups)
    if expected["kruskal_wallis"] is None:
        assert kruskal is None
    else:
        assert kruskal is not None
        agree_all({"H": kruskal.h, "df": kruskal.df, "p": kruskal.p}, expected["kruskal_wallis"], case)
    for got, row in zip(rank_sums(groups), expected["pairs"], strict=True):
        if row["p"] is None:
            assert got is None
            continue
        assert got is not None
        assert got.exact == (row["kind"] == "exact")
        agree_all({"W": got.w, "p": got.p, "p_holm": got.p_holm}, row, case, "pair")


def outliers(case: Any) -> None:
    given, expected = case["input"], case["expected"]
    values = given["values"]
    g = grubbs(values, given["alpha"])
    if expected is None:
        assert g is None
        return
    row = expected["grubbs"]
    assert g is not None
    agree_all({"g": g.g, "p": g.p, "critical": g.critical}, row, case, "grubbs")
    assert (g.suspect, g.outlier) == (row["suspect_index"], row["outlier"])
    r, row = rosner(values, given["r_max"], given["alpha"]), expected["rosner"]
    assert (r.removed, r.outliers) == (row["removed_index"], row["n_outliers"])
    for name, own in (("r", r.r), ("lambda", r.critical)):
        for i, (value, wanted) in enumerate(zip(own, row[name], strict=True)):
            agree(value, wanted, case, f"{name} {i}")


def tolerance(case: Any) -> None:
    given, expected = case["input"], case["expected"]
    share_, confidence = given["percentile"], given["confidence"]
    if "n" in given:
        for n, k in zip(given["n"], expected["k"], strict=True):
            agree(factor(n, share_, confidence), k, case, f"k of {n}")
        return
    shape = None if given["distribution"] == "normal" else "lognormal"
    got = lower_limit(given["values"], shape, share_, confidence)
    if expected is None:
        assert got is None
        return
    assert got is not None
    agree_all(vars(got), expected, case)
