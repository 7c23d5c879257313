"""Means, pairs, ratios, blocks and units of exact figures; and what a plan can show."""

from __future__ import annotations

import dataclasses
from typing import Any

from adhaero.core.compare.data import Piece, unit_data
from adhaero.core.compare.letters import cliques, letters
from adhaero.core.piece_record import Datum, Known
from adhaero.core.plan.power import comparisons, pieces_needed, smallest_difference
from adhaero.core.plan.power import power as chance
from adhaero.core.statistics.blocked import blocked
from adhaero.core.statistics.descriptive import summarise
from adhaero.core.statistics.nested import components
from adhaero.core.statistics.pairwise import games_howell, welch_anova
from adhaero.core.statistics.ranks import dunn, kruskal_wallis
from adhaero.core.statistics.ratio import ratio_of_means
from tests.core.references.cases import agree, agree_all


def welch(case: Any) -> None:
    _pairs_of_welch(case)
    _letters(case)
    _ranks(case)


def summary(case: Any) -> None:
    got = dataclasses.asdict(summarise(case["input"]["values"], case["input"]["level"]))
    expected = case["expected"] or dict.fromkeys(got, None) | {"n": 0}
    assert set(expected) <= set(got)
    for key, value in expected.items():
        agree(got[key], value, case, key)


def _groups(case: Any) -> list[list[float]]:
    return [g["values"] for g in case["input"]["groups"]]


def _pairs_of_welch(case: Any) -> None:
    groups, expected = _groups(case), case["expected"]
    welch = welch_anova(groups)
    if expected["welch"] is None:
        assert welch is None
    else:
        assert welch is not None
        for key, value in zip(("F", "df_num", "df_den", "p"), dataclasses.astuple(welch), strict=True):
            agree(value, expected["welch"][key], case, key)
    pairs = games_howell(groups, case["input"]["alpha"])
    assert len(pairs) == len(expected["games_howell"])
    for pair, row in zip(pairs, expected["games_howell"], strict=True):
        for key in ("diff", "se", "df", "t", "q", "p", "ci_low", "ci_high"):
            agree(getattr(pair, key), row[key], case, f"{row['group1']} - {row['group2']}: {key}")


def _letters(case: Any) -> None:
    groups = _groups(case)
    group_names = [g["name"] for g in case["input"]["groups"]]
    order = [group_names.index(g["name"]) for g in case["expected"]["groups_by_mean"]]
    pairs = games_howell(groups)
    sets = cliques(order, pairs, case["input"]["alpha"])
    expected = case["expected"]["cliques"]
    assert (None if sets is None else [[group_names[t] for t in s] for s in sets]) == expected
    if sets is not None:
        shown = letters(order, sets)
        for pair in pairs:
            shared = set(shown[pair.first]) & set(shown[pair.second])
            assert bool(shared) == (pair.p is not None and pair.p >= case["input"]["alpha"])


def _ranks(case: Any) -> None:
    groups, expected = _groups(case), case["expected"]
    kruskal = kruskal_wallis(groups)
    if expected["kruskal_wallis"] is None:
        assert kruskal is None
    else:
        assert kruskal is not None
        agree(kruskal.h, expected["kruskal_wallis"]["H"], case, "H")
        agree(kruskal.p, expected["kruskal_wallis"]["p"], case, "p")
    rows = dunn(groups)
    if expected["dunn"] is None or rows is None:
        assert rows is None
        assert not expected["dunn"] or all(r["z"] is None for r in expected["dunn"])
        return
    for row, e in zip(rows, expected["dunn"], strict=True):
        for key in ("mean_rank_diff", "z", "p", "p_holm"):
            agree(getattr(row, key), e[key], case, key)


def ratios(case: Any) -> None:
    data, expected = case["input"], case["expected"]
    got = ratio_of_means(data["numerator"], data["denominator"], data["level"])
    assert got is not None
    agree(got.ratio, expected["ratio"], case, "ratio")
    parts = (
        (got.fieller, "fieller_welch", ("df", "g", "ci_low", "ci_high")),
        (got.pooled, "fieller_pooled", ("df", "g", "ci_low", "ci_high")),
        (got.geometric, "geometric", ("ratio", "df", "ci_low", "ci_high")),
    )
    for part, name, keys in parts:
        if expected[name] is None:
            assert part is None, name
            continue
        for key in keys:
            agree(getattr(part, key), expected[name][key], case, f"{name}.{key}")


def power(case: Any) -> None:
    given = case["input"]
    if case["expected"] is None:
        row = given["rows"][0]
        if given["find"] == "n":
            assert pieces_needed(row["percent"] / 100, row["cv"], given["alpha"], given["power"]) is None
        else:
            assert smallest_difference(row["n"], row["cv"], given["alpha"], given["power"]) is None
        return
    for row, expected in zip(given["rows"], case["expected"]["rows"], strict=True):
        alpha = given["alpha"]
        if "groups" in row:
            count = comparisons(row["groups"], row["against"])
            assert count == expected["comparisons"]
            alpha = given["alpha"] / count
            agree(alpha, expected["alpha_adjusted"], case, "alpha")
        for both, suffix in ((False, ""), (True, "_both_tails")):
            if given["find"] == "percent":
                d = smallest_difference(row["n"], row["cv"], alpha, given["power"], both_tails=both)
                assert d is not None
                agree(100 * d, expected["percent" + suffix], case, "percent" + suffix)
                continue
            d = row["percent"] / 100
            found = pieces_needed(d, row["cv"], alpha, given["power"], both_tails=both)
            assert found is not None
            agree(found[0], expected["n" + suffix], case, "n" + suffix)
            agree(found[1], expected["n_exact" + suffix], case, "n_exact" + suffix)
            reached = chance(found[0], d, row["cv"], alpha, both_tails=both)
            agree(reached, expected["power_at_n" + suffix], case, "power" + suffix)


def blocks(case: Any) -> None:
    rows, expected = case["input"]["rows"], case["expected"]
    named = list(dict.fromkeys(r["treatment"] for r in rows))
    places = [named.index(r["treatment"]) for r in rows]
    got = blocked([r["strength"] for r in rows], places, [r["board"] for r in rows], case["input"]["level"])
    if expected is None:
        assert got is None
        return
    assert got is not None
    for term, own in (("treatment", got.treatments), ("board", got.blocks)):
        for key, value in zip(("sum_sq", "df", "F", "p"), dataclasses.astuple(own), strict=True):
            agree(value, expected["anova"][term][key], case, f"{term}.{key}")
    agree(got.scatter**2, expected["anova"]["residual"]["mean_sq"], case, "mean_sq")
    assert got.df == expected["anova"]["residual"]["df"]
    for row in expected["adjusted_means"]:
        mean = got.means[named.index(row["treatment"])]
        for key in ("n", "mean", "se", "ci_low", "ci_high"):
            agree(getattr(mean, key), row[key], case, f"{row['treatment']}: {key}")
    found = {(d.first, d.second): d for d in got.differences}
    assert len(found) == len(expected["pairwise"])
    for row in expected["pairwise"]:
        d = found[named.index(row["treatment1"]), named.index(row["treatment2"])]
        for key in ("diff", "se", "t", "p", "ci_low", "ci_high", "p_tukey", "tukey_low", "tukey_high"):
            agree(getattr(d, key), row[key], case, f"{row['treatment1']} - {row['treatment2']}: {key}")


def nested(case: Any) -> None:
    """Means of parents as the data, as Compare takes them where they are the units."""
    expected = case["expected"]
    groups: dict[str, list[Piece]] = {}
    for n, p in enumerate(case["input"]["pieces"]):
        d = Datum(Known.EXACT, p["value"], p["value"])
        groups.setdefault(p["group"], []).append(Piece(str(n), d, parent=p["unit"]))
    data = [unit_data(own, fallen_as_zero=True) for own in groups.values()]
    values = [[d.low for d in own] for own in data]
    level = case["input"]["level"]
    for own, row in zip(values, expected["groups"], strict=True):
        s = summarise(own, level)
        agree(s.n, row["n_units"], case, "n_units")
        for key, name in (("mean", "mean_of_units"), ("sd", "sd_of_units"), ("se", "se"), ("ci_low", "ci_low"),
                          ("ci_high", "ci_high")):  # fmt: skip
            agree(getattr(s, key), row[name], case, f"{row['name']}: {name}")
    for own, row in zip(groups.values(), expected["groups"], strict=True):
        found = components([p.datum.low for p in own], [p.parent for p in own])
        if row["variance"]["icc"] is None:
            assert found is None or found.icc is None
            continue
        assert found is not None
        agree_all(vars(found), row["variance"], case, row["name"])
    pairs = games_howell(values, case["input"]["alpha"])
    for pair, row in zip(pairs, expected["games_howell"] or (), strict=bool(expected["games_howell"])):
        for key in ("diff", "se", "df", "t", "q", "p", "ci_low", "ci_high"):
            agree(getattr(pair, key), row[key], case, f"{row['group1']} - {row['group2']}: {key}")
