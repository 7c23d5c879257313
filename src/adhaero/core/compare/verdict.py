"""The verdict: sentences built from the numbers, none of which claims more than its interval.

Each pair of treatments ends as one of four outcomes. With d the smallest difference that matters to the user, as a
share of the mean of the reference of the pair, and the simultaneous interval of the difference:

- *same for practical purposes*: the interval lies within +-d, even if it excludes 0;
- *better*, *worse*: the interval excludes 0 (and is not within +-d);
- *can't tell yet*: everything else, and every pair without a test.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

from adhaero.core.compare.analysis import WEAK_N, Analysis
from adhaero.core.compare.groups import Pair
from adhaero.core.method import FAILURE_NAMES
from adhaero.core.plan.power import comparisons, pieces_needed

MOST_OTHERS = 12
"""Differences told of, beside those with the reference; the rest stand in the table of all pairs."""


class Outcome(StrEnum):
    """What can be said of one treatment against another."""

    BETTER = "better"
    WORSE = "worse"
    SAME = "same for practical purposes"
    UNKNOWN = "can't tell yet"


@dataclass(frozen=True)
class Comparison:
    """``first`` against ``second`` (indices of rows), in percent of the second's mean, and in words."""

    first: int
    second: int
    outcome: Outcome
    percent: float | None
    percent_low: float | None
    percent_high: float | None
    p: float | None
    text: str


@dataclass(frozen=True)
class Sentence:
    """One sentence of the verdict. ``kind``: headline, difference, efficiency, failure, weakness or next."""

    kind: str
    text: str
    numbers: dict[str, float | int | str | None]


@dataclass(frozen=True)
class Verdict:
    """The comparisons with the control (or, without one, the strongest), and the sentences."""

    reference: int | None
    comparisons: list[Comparison]
    sentences: list[Sentence]


def outcome(low: float, high: float, matters: float) -> Outcome:
    """The outcome of a difference with interval [low, high] when ``matters`` is the smallest that counts."""
    if -matters <= low and high <= matters:
        return Outcome.SAME
    if low > 0:
        return Outcome.BETTER
    if high < 0:
        return Outcome.WORSE
    return Outcome.UNKNOWN


def _compare(analysis: Analysis, pair: Pair, matters: float, *, flip: bool) -> Comparison:
    first, second = analysis.tested[pair.first], analysis.tested[pair.second]
    diff, low, high = pair.diff, pair.ci_low, pair.ci_high
    if flip:
        first, second, diff = second, first, -diff
        low, high = (None, None) if low is None or high is None else (-high, -low)
    rows = analysis.rows
    name, other = rows[first].group.label, rows[second].group.label
    base = rows[second].summary.mean
    if not base or low is None or high is None:
        text = f"{name} against {other}: can't tell yet; there is no scatter to judge by."
        return Comparison(first, second, Outcome.UNKNOWN, None, None, None, None, text)
    percent, p_low, p_high = (100 * v / base for v in (diff, low, high))
    found = outcome(p_low, p_high, 100 * matters)
    span = f"{p_low:+.0f} % to {p_high:+.0f} %"
    match found:
        case Outcome.BETTER:
            text = f"{name} is stronger than {other} by {percent:.0f} % ({span})."
        case Outcome.WORSE:
            text = f"{name} is weaker than {other} by {-percent:.0f} % ({span})."
        case Outcome.SAME:
            what = f"{100 * matters:.0f} % is what matters"
            text = f"{name} and {other} are the same for practical purposes ({span}; {what})."
        case Outcome.UNKNOWN:
            text = f"{name} against {other}: can't tell yet ({span})."
    return Comparison(first, second, found, percent, p_low, p_high, pair.p, text)


def _settled(analysis: Analysis, pairs: list[Pair], matters: float) -> list[tuple[float, Pair]]:
    """The pairs that have an outcome, with their difference as a share of the weaker mean, largest first.

    Of a thousand pairs only a few are told, so the outcome of each is found here without its words.
    """
    found = []
    means = [analysis.rows[i].summary.mean for i in analysis.tested]
    for pair in pairs:
        base = means[pair.first] if pair.diff < 0 else means[pair.second]
        if base and pair.ci_low is not None and pair.ci_high is not None:
            low, high = pair.ci_low / base, pair.ci_high / base
            if low > 0 or high < 0 or (-matters <= low and high <= matters):
                found.append((abs(pair.diff / base), pair))
    return sorted(found, key=lambda f: -f[0])


def reference_row(analysis: Analysis) -> int | None:
    """The control if it can be tested, else the strongest treatment; ``None`` if nothing can."""
    control = [i for i in analysis.tested if analysis.rows[i].group.is_control]
    if control:
        return control[0]
    return max(analysis.tested, key=lambda i: analysis.rows[i].summary.mean or 0.0, default=None)


def judge(
    analysis: Analysis,
    show: Callable[[float], str],
    *,
    matters: float = 0.10,
    alpha: float = 0.05,
    wanted_power: float = 0.8,
    single_figure: str = "strength",
) -> Verdict:
    """The verdict of an analysis. ``show`` writes a figure with its unit; ``matters`` is a share of the mean."""
    reference = reference_row(analysis)
    place = analysis.tested.index(reference) if reference is not None else None
    against = [
        _compare(analysis, pair, matters, flip=pair.first == place)
        for pair in analysis.pairs
        if place in (pair.first, pair.second)
    ]
    rest = [pair for pair in analysis.pairs if place not in (pair.first, pair.second)]
    settled = _settled(analysis, rest, matters)
    others = [_compare(analysis, pair, matters, flip=pair.diff < 0) for _, pair in settled[:MOST_OTHERS]]
    open_ = len(rest) - len(settled)
    sentences = [
        *_headline(analysis, against, reference, show, single_figure),
        *_differences([*against, *others], len(settled) - len(others), open_),
        *_efficiency(analysis),
        *_failures(analysis),
        *_weaknesses(analysis, reference),
        *_next(analysis, open_ + sum(c.outcome is Outcome.UNKNOWN for c in against), matters, alpha, wanted_power),
    ]
    return Verdict(reference, against, sentences)


def _differences(told: list[Comparison], more: int, open_: int) -> list[Sentence]:
    """Every pair with the reference, the largest settled differences among the others, and how many more there are."""
    sentences = [Sentence("difference", c.text, _numbers(c)) for c in told]
    for count, what in ((more, "settled too; see all pairs"), (open_, "not told apart yet")):
        if count:
            pairs = "1 other pair is" if count == 1 else f"{count} other pairs are"
            sentences.append(Sentence("difference", f"{pairs} {what}.", {"pairs": count}))
    return sentences


def _numbers(c: Comparison) -> dict[str, float | int | str | None]:
    return {
        "percent": c.percent,
        "percent_low": c.percent_low,
        "percent_high": c.percent_high,
        "p": c.p,
        "outcome": c.outcome.value,
    }


def _headline(
    a: Analysis,
    found: list[Comparison],
    reference: int | None,
    show: Callable[[float], str],
    figure: str,
) -> list[Sentence]:
    if reference is None or len(a.tested) < 2:
        broken = sum(r.summary.n for r in a.rows)
        text = "Nothing broken yet." if not broken else "Can't tell yet: fewer than two treatments can be tested."
        return [Sentence("headline", text, {"broken": broken})]
    name = a.rows[reference].group.label
    by = {o: [a.rows[c.first].group.label for c in found if c.second == reference and c.outcome is o] for o in Outcome}
    role = "the control" if a.rows[reference].group.is_control else "the highest mean"
    parts = [
        (by[Outcome.BETTER], f"stronger than {name}"),
        (by[Outcome.WORSE], f"weaker than {name}"),
        (by[Outcome.SAME], f"the same as {name} for practical purposes"),
    ]
    said = [f"{_and(names)} {'is' if len(names) == 1 else 'are'} {what}" for names, what in parts if names]
    if by[Outcome.UNKNOWN]:
        said.append(f"{_and(by[Outcome.UNKNOWN])} can't be told apart from it yet")
    mean = a.rows[reference].summary.mean or 0.0
    text = f"Against {name} ({role}, mean {figure} {show(mean)}): {'; '.join(said)}."
    numbers: dict[str, float | int | str | None] = {"reference_mean": mean}
    if a.welch is not None:
        numbers |= {
            "welch_f": a.welch.f,
            "df_num": a.welch.df_num,
            "df_den": a.welch.df_den,
            "p": a.welch.p,
        }
    if a.kruskal is not None:
        numbers |= {"kruskal_h": a.kruskal.h, "kruskal_p": a.kruskal.p}
    return [Sentence("headline", text, numbers)]


def _and(names: list[str]) -> str:
    return names[0] if len(names) == 1 else ", ".join(names[:-1]) + " and " + names[-1]


def _efficiency(a: Analysis) -> list[Sentence]:
    out = []
    for r in a.rows:
        if r.efficiency is None:
            continue
        f = r.efficiency.fieller
        ends = f is not None and f.ci_low is not None and f.ci_high is not None
        span = (
            f" ({100 * (f.ci_low or 0):.0f} to {100 * (f.ci_high or 0):.0f} %)"
            if ends and f is not None
            else " (no interval: " + (r.efficiency.reason or "too few pieces") + ")"
        )
        text = f"{r.group.label} keeps {100 * r.efficiency.ratio:.0f} % of solid wood{span}."
        out.append(Sentence("efficiency", text, {
            "ratio": r.efficiency.ratio,
            "ci_low": f.ci_low if f else None,
            "ci_high": f.ci_high if f else None,
        }))  # fmt: skip
    return out


def _failures(a: Analysis) -> list[Sentence]:
    out = []
    for r in a.rows:
        if not r.modes or r.group.role == "solid":
            continue
        total = sum(r.modes.values())
        common = Counter(r.modes).most_common()
        wood = "" if r.wood_failure_pct is None else f"; wood failure {r.wood_failure_pct:.0f} % on average"
        if common[0][1] > total / 2:
            how = f"mostly {FAILURE_NAMES[common[0][0]].lower()} ({common[0][1]} of {total})"
        else:
            how = ", ".join(f"{FAILURE_NAMES[m].lower()} ({n})" for m, n in common)
        text = f"{r.group.label} gave way {how}{wood}."
        numbers: dict[str, float | int | str | None] = {
            **r.modes,
            "wood_failure_pct": r.wood_failure_pct,
        }
        out.append(Sentence("failure", text, numbers))
    return out


def _weaknesses(a: Analysis, reference: int | None) -> list[Sentence]:
    said: list[tuple[str, dict[str, float | int | str | None]]] = []
    joints = [r for r in a.rows if r.group.role != "solid"]
    for r in joints:
        s = r.summary
        if s.bounded and s.n:
            text = (
                f"{r.group.label}: {s.n_at_least} of {s.n} pieces held to the end and {s.n_between} broke between "
                "steps; its mean is only a bound and it is not tested."
            )
            said.append((text, {"at_least": s.n_at_least, "between": s.n_between}))
        elif 0 < s.n < WEAK_N:
            pieces = "1 piece" if s.n == 1 else f"{s.n} pieces"
            said.append((f"{r.group.label}: {pieces} only, too few for any claim about scatter.", {"n": s.n}))
        if s.n_fell_apart:
            said.append(
                (
                    f"{r.group.label}: {s.n_fell_apart} of {r.made - r.void} fell apart before the test.",
                    {"fell_apart": s.n_fell_apart},
                )
            )
    if not any(r.group.role == "solid" and r.summary.n for r in a.rows):
        said.append(("No solid reference was broken: joint efficiency is unknown.", {}))
    if reference is not None and not a.rows[reference].group.is_control:
        said.append(
            (
                "No control could be used: everything is set against the highest mean, which is partly luck.",
                {},
            )
        )
    if len(a.set_ups) > 1:
        said.append(
            (
                f"{len(a.set_ups)} rig set-ups were used: a difference between treatments may be one between fixtures.",
                {"set_ups": len(a.set_ups)},
            )
        )
    nominal = sum(p.nominal_area and p.datum is not None for r in a.rows for p in r.group.pieces)
    if nominal:
        said.append(
            (
                f"{nominal} pieces were not measured: their stress uses the nominal area.",
                {"nominal_area": nominal},
            )
        )
    unbroken = sum(r.unbroken for r in a.rows)
    if unbroken:
        said.append((f"{unbroken} pieces are not broken yet.", {"unbroken": unbroken}))
    return [Sentence("weakness", text, numbers) for text, numbers in said]  # fmt: skip


def _next(a: Analysis, open_: int, matters: float, alpha: float, wanted: float) -> list[Sentence]:
    """What to do about the ``open_`` pairs that could not be told apart."""
    if not a.pairs:
        return []
    if not open_:
        return [Sentence("next", "Every pair is settled: more pieces would not change the answer.", {})]
    cvs = [(a.rows[i].summary.exact.cv or 0.0, a.rows[i].summary.n) for i in a.tested]
    weight = sum(n - 1 for _, n in cvs)
    if not weight:
        return []
    cv = (sum(c * c * (n - 1) for c, n in cvs) / weight) ** 0.5
    pairs = max(1, comparisons(len(a.tested), "all pairs"))
    needed = pieces_needed(matters, cv, alpha / pairs, wanted) if cv else None
    most = max(n for _, n in cvs)
    if needed is None or needed[0] <= most:
        return []
    text = (
        f"To show a difference of {100 * matters:.0f} % at the scatter seen here (CV {100 * cv:.0f} %) "
        f"takes about {needed[0]} pieces of each treatment; you have up to {most}."
    )
    return [Sentence("next", text, {"needed": needed[0], "cv": cv})]
