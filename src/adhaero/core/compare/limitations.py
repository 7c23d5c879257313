"""What limits a conclusion: bounds, small numbers, no control, set-ups, pieces that are missing, marked or not run."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence

from adhaero.core.compare.analysis import Row
from adhaero.core.compare.case import Case, Finding
from adhaero.core.compare.data import WEAK_N, counted, listed
from adhaero.core.compare.planned import MEDIANS, Judged
from adhaero.core.flags import FLAGS
from adhaero.core.observation import Kind
from adhaero.core.piece_record import Known


def find(case: Case) -> list[Finding]:
    """All that holds, one sentence each."""
    a = case.analysis
    joints = [r for r in a.rows if r.group.role != "solid"]
    bounded = [r for r in joints if r.summary.bounded and r.summary.n]
    found = _bounds_of_many(joints, bounded) if len(bounded) >= SEVERAL else []
    found += [f for r in joints for f in _of_treatment(r, told=len(bounded) < SEVERAL)]
    # What is so of all pieces alike says less about a difference than what the batch lacks.
    return [*found, *_of_batch(case), *_flagged(joints)]


SEVERAL = 3
"""Treatments from which on one sentence says what all of them have in common."""


def _flagged(rows: Sequence[Row]) -> Iterator[Finding]:
    """What is worth minding of the pieces: treatment by treatment, or in one sentence where it is of most."""
    counts = {r.group.letter: Counter(k for p in r.group.pieces if p.opened for k in p.flags) for r in rows}
    for kind in sorted({k for own in counts.values() for k in own}):
        own = [r for r in rows if counts[r.group.letter][kind]]
        if len(own) < SEVERAL:
            for r in own:
                n = counts[r.group.letter][kind]
                yield _say(r, f"{FLAGS[kind]} ({n} of {r.made}).", flagged=n)
            continue
        n, made = sum(counts[r.group.letter][kind] for r in own), sum(r.made for r in own)
        who = "All treatments" if len(own) == len(rows) else f"{len(own)} of {len(rows)} treatments"
        letters = tuple(r.group.letter for r in own)
        yield Finding("limitation", f"{who}: {FLAGS[kind]} ({n} of {made}).", {"flagged": n}, letters)


def _say(r: Row, text: str, **numbers: float | int | str | None) -> Finding:
    return Finding("limitation", f"{r.group.label}: {text}", numbers, (r.group.letter,))


def _bounds_of_many(joints: Sequence[Row], bounded: Sequence[Row]) -> list[Finding]:
    """Bounds of several treatments in one sentence."""
    reasons: Counter[str] = Counter()
    for r in bounded:
        reasons += _sorts(r)
    pieces = sum(d.datum.counts for r in joints for d in r.group.pieces)
    who = "All treatments hold" if len(bounded) == len(joints) else f"{len(bounded)} of {len(joints)} treatments hold"
    sorts = ", ".join(f"{n} {what}" for what, n in reasons.most_common())
    text = f"{who} bounds (of {pieces} pieces {sorts}): fitted medians are compared, not means."
    return [Finding("limitation", text, {"bounds": sum(reasons.values())}, tuple(r.group.letter for r in bounded))]


def _of_treatment(r: Row, *, told: bool) -> Iterator[Finding]:
    s = r.summary
    if s.bounded and s.n and told:
        why = f"{bounds_in_words(r)}: its mean is only a bound, and its median is compared."
        yield _say(r, why, at_least=s.n_at_least, between=s.n_between)
    elif 0 < s.n < WEAK_N:
        yield _say(r, f"{counted(s.n, r.group.unit)} only, too few for any claim about scatter.", n=s.n)
    if s.n_fell_apart:
        yield _say(r, f"{s.n_fell_apart} of {r.made - r.void} fell apart before the test.", fell_apart=s.n_fell_apart)
    if r.held:
        verb = "piece broke" if r.held == 1 else "pieces broke"
        yield _say(r, f"{r.held} {verb} while a load stood on it; that load counts as borne.", held=r.held)
    if r.group.left_out:
        reasons = Counter(r.group.left_out)
        why = "; ".join(reason for reason, _ in reasons.most_common())
        yield _say(r, f"{counted(len(r.group.left_out), 'piece')} not run: {why}.", left_out=len(r.group.left_out))


def bounds_in_words(r: Row) -> str:
    """Why loads of a treatment are bounds, each sort with its number."""
    said = [f"{n} {what}" for what, n in _sorts(r).most_common()]
    return f"of {counted(sum(p.datum.counts for p in r.group.pieces), 'piece')} " + ", ".join(said)


def _sorts(r: Row) -> Counter[str]:
    """Sorts of bounds among the pieces of a treatment, with how many of each."""
    data = [p.datum for p in r.group.pieces]
    found = Counter(_bound(d.reason) for d in data if d.known is Known.AT_LEAST)
    found.update("broke between two steps" for d in data if d.known is Known.BETWEEN)
    return found


def _bound(reason: str) -> str:
    words = {
        "held, at least": "did not break",
        "broke in the wood: the glue bore at least this": "broke in the wood",
        "broke elsewhere: the glue bore at least this": "broke elsewhere",
    }
    return words.get(reason, reason)


def _of_batch(case: Case) -> Iterator[Finding]:
    a = case.analysis

    def say(text: str, **numbers: float | int | str | None) -> Finding:
        return Finding("limitation", text, numbers)

    if not any(r.group.role == "solid" and r.summary.n for r in a.rows):
        yield say("No solid reference was broken: joint efficiency is unknown.")
    apart = {r.group.no_solid for r in a.rows if r.group.no_solid and r.summary.n}
    for why in sorted(apart):
        yield say(f"No share of solid wood: {why}.")
    if not any(r.group.is_control for r in a.rows) and case.main is not None and case.main.family.every_pair:
        yield say("No control could be used: treatments are set against each other, and the highest is partly luck.")
    at_odds = [j for r in case.results for j in r.comparisons if _at_odds(j, case.alpha)]
    if at_odds:
        names = listed([f"{case.label(j.first)} and {case.label(j.second)}" for j in at_odds], 3)
        yield say(f"Of {names} the fitted medians and the mere order of the loads say different things.",
                  comparisons=len(at_odds))  # fmt: skip
    if len(a.set_ups) > 1:
        text = f"{len(a.set_ups)} rig set-ups were used: a difference between treatments may be one between fixtures."
        yield say(text, set_ups=len(a.set_ups))
    wood = [r.group.label for r in a.rows if r.group.role != "solid" and r.modes and _mostly_wood(r)]
    if wood:
        yield say(f"{listed(wood)} mostly broke in the wood: of the glue that says only that it bore as much.")
    unbroken = sum(r.unbroken for r in a.rows)
    if unbroken:
        verb = "piece is" if unbroken == 1 else "pieces are"
        yield say(f"{unbroken} {verb} not broken yet.", unbroken=unbroken)
    void = Counter(p.datum.reason for r in a.rows for p in r.group.pieces if p.kind is Kind.VOID)
    for reason, n in void.most_common(3):
        yield say(f"{counted(n, 'reading')} {reason}.", void=n)


def _at_odds(j: Judged, alpha: float) -> bool:
    """Whether the test free of any shape says something else than the fit."""
    return j.route == MEDIANS and None not in (j.p, j.by_order) and ((j.p or 0) < alpha) != ((j.by_order or 0) < alpha)


def _mostly_wood(r: Row) -> bool:
    seen = [p for p in r.group.pieces if p.opened and p.failure_mode]
    return sum(p.in_wood for p in seen) > len(seen) / 2
