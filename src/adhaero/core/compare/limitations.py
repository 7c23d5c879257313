"""What limits a conclusion: bounds, small numbers, no control, set-ups, pieces that are missing, marked or not run."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence

from adhaero.core.compare.analysis import Row
from adhaero.core.compare.case import Case
from adhaero.core.compare.caveat import Caveat, Weight
from adhaero.core.compare.data import WEAK_N, counted, listed
from adhaero.core.compare.planned import MEDIANS, Judged
from adhaero.core.flags import FLAGS
from adhaero.core.observation import Kind
from adhaero.core.piece_record import Known


def find(case: Case) -> list[Caveat]:
    """Return all that holds, one sentence each."""
    a = case.analysis
    joints = [r for r in a.rows if r.group.role != "solid"]
    bounded = [r for r in joints if r.summary.bounded and r.summary.n]
    found = _bounds_of_many(joints, bounded) if len(bounded) >= SEVERAL else []
    found += _few_pieces(joints)
    found += [f for r in joints for f in _of_treatment(r, told=len(bounded) < SEVERAL)]
    # What is so of all pieces alike says less about a difference than what the batch lacks.
    return [*found, *_of_batch(case), *_flagged(joints)]


SEVERAL = 3
"""Treatments from which on one sentence says what all of them have in common."""


def _flagged(rows: Sequence[Row]) -> Iterator[Caveat]:
    """What is worth minding of the pieces: treatment by treatment, or in one sentence where it is of most. What is so
    of half of one treatment and of no other could be the whole difference.
    """
    counts = {r.group.letter: Counter(k for p in r.group.pieces if p.opened for k in p.flags) for r in rows}
    for kind in sorted({k for own in counts.values() for k in own}):
        own = [r for r in rows if counts[r.group.letter][kind]]
        if len(own) < SEVERAL:
            for r in own:
                n = counts[r.group.letter][kind]
                only = len(own) == 1 < len(rows) and 2 * n >= r.made
                yield _say(r, f"{FLAGS[kind]} ({n} of {r.made}).", Weight.OVERTURNS if only else Weight.BEARS)
            continue
        n, made = sum(counts[r.group.letter][kind] for r in own), sum(r.made for r in own)
        every = len(own) == len(rows)
        who = "All treatments" if every else f"{len(own)} of {len(rows)} treatments"
        weight = Weight.GENERAL if every else Weight.BEARS
        yield Caveat(f"{who}: {FLAGS[kind]} ({n} of {made}).", weight, tuple(r.group.letter for r in own))


def _say(r: Row, text: str, weight: Weight = Weight.BEARS) -> Caveat:
    return Caveat(f"{r.group.label}: {text}", weight, (r.group.letter,))


def _bounds_of_many(joints: Sequence[Row], bounded: Sequence[Row]) -> list[Caveat]:
    """Limits instead of loads in several treatments, in one sentence."""
    reasons: Counter[str] = Counter()
    for r in bounded:
        reasons += _sorts(r)
    pieces = sum(d.datum.counts for r in joints for d in r.group.pieces)
    who = "In all treatments" if len(bounded) == len(joints) else f"In {len(bounded)} of {len(joints)} treatments"
    sorts = ", ".join(f"{n} {what}" for what, n in reasons.most_common())
    text = f"{who} some loads are only known as limits (of {pieces} pieces {sorts}): medians are fitted to all of them."
    return [Caveat(text, about=tuple(r.group.letter for r in bounded))]


def _few_pieces(joints: Sequence[Row]) -> Iterator[Caveat]:
    """Treatments of one or two pieces, those of one number together."""
    for n in range(1, WEAK_N):
        own = [r for r in joints if r.summary.n == n]
        if not own:
            continue
        letters = tuple(r.group.letter for r in own)
        much = counted(n, own[0].group.unit)
        if len(own) < SEVERAL:
            told = f"{listed([r.group.label for r in own])}: {much} only"
        else:
            told = f"{len(own)} treatments have {much} each"
        yield Caveat(f"{told}, too few to judge one of them by itself.", about=letters)


def _of_treatment(r: Row, *, told: bool) -> Iterator[Caveat]:
    s = r.summary
    if s.bounded and s.n and told:
        yield _say(r, f"{bounds_in_words(r)}: its mean is only a limit, and its median is fitted.")
    if s.n_fell_apart:
        yield _say(r, f"{s.n_fell_apart} of {r.made - r.void} fell apart before the test.")
    if r.held:
        verb = "piece broke" if r.held == 1 else "pieces broke"
        text = f"{r.held} {verb} while a load stood on it; that load counts as borne."
        yield _say(r, text, Weight.GENERAL)
    if r.group.left_out:
        reasons = Counter(r.group.left_out)
        why = "; ".join(reason for reason, _ in reasons.most_common())
        yield _say(r, f"{counted(len(r.group.left_out), 'piece')} not run: {why}.")


def bounds_in_words(r: Row) -> str:
    """Why loads of a treatment are only limits, each sort with its number."""
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


def _of_batch(case: Case) -> Iterator[Caveat]:
    a = case.analysis
    if not any(r.group.role == "solid" and r.summary.n for r in a.rows):
        yield Caveat(
            "No solid pieces were broken, so we can't say how the joints compare with solid wood.", Weight.GENERAL
        )
    apart = {r.group.no_solid for r in a.rows if r.group.no_solid and r.summary.n}
    for why in sorted(apart):
        yield Caveat(f"No share of solid wood: {why}.", Weight.GENERAL)
    at_odds = [j for r in case.results for j in r.comparisons if _at_odds(j, case.alpha)]
    if at_odds:
        names = listed([f"{case.label(j.first)} and {case.label(j.second)}" for j in at_odds], 3)
        yield Caveat(f"Of {names} the fitted medians and the mere order of the loads say different things.")
    if len(a.set_ups) > 1:
        text = f"{len(a.set_ups)} rig set-ups were used: a difference between treatments may be one between fixtures."
        yield Caveat(text)
    unbroken = sum(r.unbroken for r in a.rows)
    if unbroken:
        yield Caveat(f"{unbroken} {'piece is' if unbroken == 1 else 'pieces are'} not broken yet.")
    void = Counter(p.datum.reason for r in a.rows for p in r.group.pieces if p.kind is Kind.VOID)
    for reason, n in void.most_common(3):
        yield Caveat(f"{counted(n, 'reading')} {reason}.")


def _at_odds(j: Judged, alpha: float) -> bool:
    """Whether the test free of any shape says something else than the fit."""
    return j.route == MEDIANS and None not in (j.p, j.by_order) and ((j.p or 0) < alpha) != ((j.by_order or 0) < alpha)
