"""Single pieces that carry a verdict, and pieces that lie apart: told, never left out by the program.

A comparison hangs on a piece where leaving it out would end it otherwise, at the same level. Pieces that lie apart from
their treatment are found on logarithms, where all figures are above 0: one by Grubbs, of many up to three by the
generalised ESD test, whose critical values hold from about fifteen pieces on (Rosner 1983); where boards or days are
taken out of the comparisons, on what is left of the pieces without them as well.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Mapping
from functools import lru_cache

from adhaero.core.compare.analysis import Row
from adhaero.core.compare.case import Case, Finding
from adhaero.core.compare.data import counted, listed
from adhaero.core.compare.differences import in_order
from adhaero.core.compare.in_blocks import fit_shared
from adhaero.core.compare.outcome import Outcome
from adhaero.core.compare.planned import BLOCKS, MEANS, FamilyResult, Judged
from adhaero.core.compare.residuals import of_pieces
from adhaero.core.piece_record import Known
from adhaero.core.statistics.contrasts import moments, welch
from adhaero.core.statistics.outliers import grubbs, rosner

MOST = 3
"""Sentences of each kind that are told; of more only how many."""
ENOUGH = 5
"""With fewer pieces than this, leaving one out only shows that there are few."""
LEAST, MANY = 4, 15
"""Pieces of a treatment from which on one of them can lie apart, and from which on up to three are looked for."""
MOST_FITS = 40
"""Pieces of a comparison within blocks beyond which it is fitted anew only without those that pull hardest."""
FARTHEST = 3
"""So many of them on either end of each treatment."""
Figures = tuple[tuple[str, float], ...]


def find(case: Case) -> list[Finding]:
    """What hangs on a single piece, and which pieces lie apart."""
    left = _left(case)
    plain = {x: _lying_apart(_figures(case, r), case.alpha) for x, r in case.setting.rows.items()}
    apart = {x: found for x, r in case.setting.rows.items() if (found := _apart(case, r, left))}
    told = [f for r in in_order(case) for f in _by_pieces(_carried(case, r, j, apart, left) for j in r.comparisons)]
    lying = [_said(case, letter, codes, seen=set(codes) <= set(plain[letter])) for letter, codes in apart.items()]
    return [*_few(told, "further comparison"), *_few(lying, "further treatment")]


def _by_pieces(found: Iterable[Finding | None]) -> list[Finding]:
    """What hangs on fewest pieces first: with many that turn it, a comparison is merely a close one."""
    return sorted((f for f in found if f is not None), key=lambda f: int(f.numbers["pieces"] or 0))


def _few(found: list[Finding], what: str) -> Iterator[Finding]:
    yield from found[:MOST]
    if len(found) > MOST:
        yield Finding("limitation", f"The same holds for {counted(len(found) - MOST, what)}.")


def _figures(case: Case, r: Row) -> Figures:
    """Code and figure of each piece, where pieces are what is counted and all of them have one."""
    if r.group.unit != "piece" or r.summary.bounded:
        return ()
    kinds = (Known.EXACT, Known.BELOW) if case.setting.fallen_as_zero else (Known.EXACT,)
    return tuple((p.code, p.datum.low) for p in r.group.pieces if p.datum.known in kinds)


def _left(case: Case) -> dict[str, float]:
    """What is left of each piece where treatments share boards or days that are taken out; empty where nothing is."""
    shared = case.setting.shared
    if shared is None or not any(r.shared is not None for r in case.results):
        return {}
    return of_pieces({x: _figures(case, r) for x, r in case.setting.rows.items()}, shared.of)


def _apart(case: Case, r: Row, left: Mapping[str, float]) -> list[str]:
    """Pieces that lie apart as they are, or once what they share is taken out: a strong board hides a weak piece."""
    own = _figures(case, r)
    found = _lying_apart(own, case.alpha)
    if all(code in left for code, _ in own) and own:
        # As figures about 1, since their logarithms are what is looked at.
        within = _lying_apart(tuple((code, math.exp(left[code])) for code, _ in own), case.alpha)
        return list(dict.fromkeys([*found, *within]))
    return list(found)


# After one piece changed, nearly all treatments and comparisons come again with the very same figures.
@lru_cache(maxsize=2048)
def _lying_apart(own: Figures, alpha: float) -> tuple[str, ...]:
    if len(own) < LEAST or min(v for _, v in own) <= 0:
        return ()
    logs = [math.log(v) for _, v in own]
    if len(own) < MANY:
        one = grubbs(logs, alpha)
        return (own[one.suspect][0],) if one is not None and one.outlier else ()
    found = rosner(logs, alpha=alpha)
    return tuple(own[i][0] for i in found.removed[: found.outliers])


def _said(case: Case, letter: str, codes: list[str], *, seen: bool) -> Finding:
    """``seen``: they lie apart as they are drawn, not only once what they share with others is taken out."""
    once = "" if seen or case.setting.shared is None else f" once each {case.setting.shared.name} is taken out"
    verb, its = ("lies", "its record before trusting it") if len(codes) == 1 else ("lie", "their records first")
    text = f"{case.label(letter)}: {listed(codes)} {verb} apart from the others{once}; look at {its}."
    return Finding("limitation", text, {"apart": len(codes)}, (letter,))


def _carried(
    case: Case, r: FamilyResult, j: Judged, apart: dict[str, list[str]], left: Mapping[str, float]
) -> Finding | None:
    """Whether a comparison would end otherwise without one piece: one that told apart what then is not told, or one
    that lies apart and hides a difference.
    """
    if j.route not in (MEANS, BLOCKS) or j.alpha is None or j.p is None or j.outcome is Outcome.SAME:
        return None
    sides = {x: _figures(case, case.row(x)) for x in (j.first, j.second)}
    told = j.outcome is not Outcome.UNKNOWN
    asked = [
        tuple(c for c, _ in own if len(own) >= ENOUGH and (told or c in apart.get(x, ()))) for x, own in sides.items()
    ]
    if j.route == BLOCKS and sum(map(len, asked)) > MOST_FITS:
        asked = [_farthest(side, left) for side in asked]
    if j.route == BLOCKS:
        turning = [c for side in asked for c in side if _told_in_blocks(case, r, j, c) != told]
    else:
        turning = _turning(sides[j.first], sides[j.second], asked[0], asked[1], told, j.alpha)
    if not turning:
        return None
    names = f"{case.label(j.first)} against {case.label(j.second)}"
    if not told:
        text = f"{names}: without {listed(turning)} they would be told apart."
    elif len(turning) == 1:
        text = f"{names} hangs on one piece: without {turning[0]} it can't be told."
    else:
        text = f"{names} is close: without any one of {listed(turning, 4)} it can't be told."
    return Finding("limitation", text, {"pieces": len(turning)}, (j.first, j.second))


def _farthest(codes: tuple[str, ...], left: Mapping[str, float]) -> tuple[str, ...]:
    """Of very many pieces those that pull hardest either way."""
    order = sorted((c for c in codes if c in left), key=lambda c: left[c])
    return tuple(dict.fromkeys([*order[:FARTHEST], *order[-FARTHEST:]]))


def _told_in_blocks(case: Case, r: FamilyResult, j: Judged, code: str) -> bool:
    """The same where what treatments share is taken out: fitted anew without the piece."""
    letters = {x for c in r.comparisons if c.route == BLOCKS for x in (c.first, c.second)}
    s = case.setting
    fits = fit_shared({x: s.rows[x] for x in letters}, s.shared, fallen_as_zero=s.fallen_as_zero, without=code)
    if fits is None or not fits.together(j.first, j.second):
        return False
    return fits.ratio(j.first, j.second).p < (j.alpha or case.alpha)


@lru_cache(maxsize=8192)
def _turning(
    first: Figures, second: Figures, of_first: tuple[str, ...], of_second: tuple[str, ...], told: bool, alpha: float
) -> list[str]:  # fmt: skip
    """Which of these pieces turn what is told of two treatments when they are left out."""
    found = [c for c in of_first if _told([v for x, v in first if x != c], [v for _, v in second], alpha) != told]
    return found + [
        c for c in of_second if _told([v for _, v in first], [v for x, v in second if x != c], alpha) != told
    ]


def _told(first: list[float], second: list[float], alpha: float) -> bool:
    if min(len(first), len(second)) < 2:
        return False
    p = welch(moments(first), moments(second)).p
    return p is not None and p < alpha
