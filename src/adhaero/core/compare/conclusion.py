"""A conclusion of the user's own, held against the figures: borne out, contradicted with the figure, or not told yet.

It says of treatments that each is stronger, weaker, nearly equal to another or bears a share of it (claim_end: the
whole interval of the ratio decides), or that no piece of theirs differs in how it gave way. It is said after the
figures were seen: a comparison that the plan makes counts as it was judged there, any other one shares its risk with
all that could have been picked.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from adhaero.core.compare.analysis import Row
from adhaero.core.compare.claim_end import NOT_SUPPORTED, SUPPORTED, end_of
from adhaero.core.compare.data import listed
from adhaero.core.compare.planned import Judged, Setting, turned
from adhaero.core.compare.saying import begun
from adhaero.core.method import FAILURE_NAMES
from adhaero.core.plan.claim_kinds import SAME, SAYS, SHARE

ALIKE = "alike"
KINDS: Mapping[str, str] = {**SAYS, SAME: "nearly equals", ALIKE: "no piece differs in how it gave way"}
"""Key -> words between the treatments and what they are set against."""
BORNE_OUT, CONTRADICTED, OPEN = "borne out", "contradicted", "can't tell yet"


@dataclass(frozen=True)
class Held:
    """A conclusion against the figures: its ``state``, and why, with the numbers or the pieces by name."""

    state: str
    why: str


def text_of(says: str, share: float, labels: Sequence[str], against: str) -> str:
    """A conclusion as a sentence."""
    of = listed(labels, 4) if labels else ""
    if says == ALIKE:
        return begun(f"{of}: {KINDS[ALIKE]}.")
    words = KINDS[says]
    if len(labels) > 1:
        words = words.replace("is ", "are ").replace("bears", "bear").replace("equals", "equal")
    if says == SHARE:
        words = f"{words} {100 * share:g} % of"
    return begun(f"{of} {words} {against}.")


def hold(
    says: str, share: float, rows: Sequence[Row], against: Row | None, s: Setting, planned: Iterable[Judged] = ()
) -> Held:
    """How it stands by the figures of the setting, where ``planned`` comparisons are judged already. One treatment that
    speaks against it is enough.
    """
    if says == ALIKE:
        return _alike(rows)
    known = {(j.first, j.second): j for j in planned}
    picked = s.alpha / max(1, math.comb(sum(r.summary.n > 0 for r in s.rows.values()), 2))
    ends = [end_of(says, share, r, against, s, _judged(known, r, against), picked) for r in rows]
    for state, found in ((CONTRADICTED, NOT_SUPPORTED), (OPEN, ""), (BORNE_OUT, SUPPORTED)):
        own = [e.text for e in ends if e.state == found or (not found and e.state not in (SUPPORTED, NOT_SUPPORTED))]
        if own:
            return Held(state, "; ".join(own))
    return Held(OPEN, "it names no treatment that has results")


def _judged(known: Mapping[tuple[str, str], Judged], r: Row, against: Row | None) -> Judged | None:
    """The comparison of the plan, whichever way round it stands there."""
    a, b = r.group.letter, against.group.letter if against is not None else ""
    if (a, b) in known:
        return known[a, b]
    return turned(known[b, a]) if (b, a) in known else None


def _alike(rows: Sequence[Row]) -> Held:
    pieces = [p for r in rows for p in r.group.pieces if p.opened]
    seen = [p for p in pieces if p.failure_mode]
    if not seen:
        return Held(OPEN, "no piece was looked at")
    usual, _ = Counter(p.failure_mode for p in seen).most_common(1)[0]
    others = [f"{p.code} ({FAILURE_NAMES.get(p.failure_mode or '', '').lower()})" for p in seen
              if p.failure_mode != usual]  # fmt: skip
    usual_word = FAILURE_NAMES.get(usual or "", usual or "").lower()
    if others:
        return Held(CONTRADICTED, f"{listed(others)}, the others {usual_word}")
    if len(seen) < len(pieces):
        unseen = listed([p.code for p in pieces if not p.failure_mode])
        was = "was" if len(pieces) - len(seen) == 1 else "were"
        return Held(OPEN, f"{unseen} {was} not looked at, the others {usual_word}")
    return Held(BORNE_OUT, f"all {len(seen)} {usual_word}")
