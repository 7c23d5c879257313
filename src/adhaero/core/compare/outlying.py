"""Outliers of each treatment: the page names them, the program never excludes them.

They are found on logarithms, where all figures are above 0: one by Grubbs, of many up to three by the generalised ESD
test, whose critical values hold from about fifteen pieces on (Rosner 1983); where boards or days are taken out of the
comparisons, on what is left of the pieces without them as well.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from functools import lru_cache

from adhaero.core.compare.analysis import Row
from adhaero.core.compare.case import Case
from adhaero.core.compare.caveat import Caveat
from adhaero.core.compare.data import counted, listed
from adhaero.core.compare.residuals import of_pieces
from adhaero.core.piece_record import Known
from adhaero.core.statistics.outliers import grubbs, rosner

MOST = 3
"""Treatments of which it is told; of more only how many."""
LEAST, MANY = 4, 15
"""Pieces of a treatment from which on one of them can be an outlier, and from which on up to three are looked for."""
Figures = tuple[tuple[str, float], ...]


def find(case: Case) -> list[Caveat]:
    """Return the outliers, treatment by treatment."""
    left = _left(case)
    plain = {x: _lying_apart(_figures(case, r), case.alpha) for x, r in case.setting.rows.items()}
    apart = {x: found for x, r in case.setting.rows.items() if (found := _apart(case, r, left))}
    lying = [_said(case, letter, codes, seen=set(codes) <= set(plain[letter])) for letter, codes in apart.items()]
    return list(_few(lying, "further treatment"))


def _few(found: list[Caveat], what: str) -> Iterator[Caveat]:
    yield from found[:MOST]
    if len(found) > MOST:
        yield Caveat(f"There are outliers in {counted(len(found) - MOST, what)}.")


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
    """Return the outliers, as the loads are or once what they share is taken out: a strong board hides a weak piece."""
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


def _said(case: Case, letter: str, codes: list[str], *, seen: bool) -> Caveat:
    """``seen``: they are outliers as drawn, not only once what they share with others is taken out."""
    once = (
        "" if seen or case.setting.shared is None else f" once the effect of each {case.setting.shared.name} is removed"
    )
    verb, its = ("is an outlier", "its record") if len(codes) == 1 else ("are outliers", "their records")
    text = f"{case.label(letter)}: {listed(codes)} {verb}{once}. Check {its} before relying on this average."
    return Caveat(text, about=(letter,))
