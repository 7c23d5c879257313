"""The levels along an axis in one sentence: those within the plateau, those that are weaker or stronger than the
reference level, and those that can't be told from it yet.

The plateau comes from its walk (core.compare.axis), the rest from the planned comparisons of each level with the
reference. Where these do not hold every level, or tell none apart, the axis speaks for itself.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from adhaero.core.compare.axis import Axis, AxisPoint, Series
from adhaero.core.compare.case import Case
from adhaero.core.compare.data import listed
from adhaero.core.compare.outcome import Outcome
from adhaero.core.compare.planned import ORDER, Judged, turned
from adhaero.core.compare.saying import TIMES_FROM
from adhaero.core.compare.standing import several

FEW = 2
"""So many levels are named one by one, with by how much; of more at an end of the axis the nearest and the farthest."""
BELOW, ABOVE = "below", "above"


def series_in_words(case: Case, axis: Axis, s: Series, found: Sequence[Judged], *, brief: bool = False) -> str:
    """A stratum along the axis, in one sentence without its end; a ``brief`` one leaves out what can't be told."""
    against = _against_reference(s, found)
    others = [p for p in s.points if p.letter in against]
    outside = [p for p in others if p.letter not in s.plateau]
    # The plateau is what is not less than the reference: a level of it may well be more.
    more = [p for p in others if against[p.letter].outcome is Outcome.BETTER]
    less = [p for p in outside if against[p.letter].outcome is Outcome.WORSE]
    alike = [p for p in others if p not in outside and p not in more]
    parts = [s.within] if s.within and alike else []
    for own, word in ((more, case.words.more), (less, case.words.less)):
        if own:
            parts.append(_told(case, s, own, [against[p.letter] for p in own], word, named=bool(parts)))
    if len(others) < len(s.points) - 1 or not (more or less):
        text = s.short
    else:
        parts += [] if brief else _rest(s, outside, against, named=bool(s.within and alike))
        text = "; ".join(parts)
    text = with_missing(s, text)
    # "2" alone is nothing: of levels without a unit it is said what they are.
    return f"{axis.name}: {text[:1].lower()}{text[1:]}" if all(_is_bare(p.level) for p in s.points) else text


def _is_bare(level: str) -> bool:
    try:
        float(level)
    except ValueError:
        return False
    return True


def with_missing(s: Series, text: str) -> str:
    """Add the levels that have no figure, and why, to a sentence."""
    left = [f"{listed(own, 4)} {several(own, why)}" for why, own in s.missing.items()]
    return "; ".join([text, *left])


def _against_reference(s: Series, found: Sequence[Judged]) -> dict[str, Judged]:
    """Every level against the reference, by its letter."""
    known = {j.first: j for j in found if j.second == s.reference}
    known |= {j.second: turned(j) for j in found if j.first == s.reference}
    return {p.letter: known[p.letter] for p in s.points if p.letter in known}


def _told(case: Case, s: Series, own: Sequence[AxisPoint], judged: Sequence[Judged], word: str, *, named: bool) -> str:
    """Levels that are weaker (or stronger) than the reference, which is ``named`` already or not."""
    reference = next(p.level for p in s.points if p.letter == s.reference)
    ratios = [j.ratio for j in judged if j.ratio is not None and 0 < j.ratio < TIMES_FROM and j.route != ORDER]
    share = [f"{100 * abs(x - 1):.0f}" for x in ratios]
    end = _end(s, own)
    by = ""
    if len(ratios) == len(own) and len(own) <= FEW:
        by = f" by {listed(share)} %"
    elif len(ratios) == len(own) and end:
        near, far = (0, -1) if end == ABOVE else (-1, 0)
        by = f", by {share[near]} % at {own[near].level} and {share[far]} % at {own[far].level}"
    what = case.words.by_size(ratios[0], word) if by and len(own) == 1 else word
    than = "" if named else f" than {reference}"
    return f"{_levels(s, own)} {'is' if len(own) == 1 else 'are'} {what}{than}{by}"


def _end(s: Series, own: Sequence[AxisPoint]) -> str:
    """At which end of the axis they lie all together, if at one."""
    letters, all_of = [p.letter for p in own], [p.letter for p in s.points]
    return BELOW if letters == all_of[: len(own)] else ABOVE if letters == all_of[-len(own) :] else ""


def _rest(s: Series, outside: Sequence[AxisPoint], against: Mapping[str, Judged], *, named: bool) -> list[str]:
    """Levels outside of the plateau that are the same, or not told."""
    same = [p for p in outside if against[p.letter].outcome is Outcome.SAME]
    open_ = [p for p in outside if against[p.letter].outcome is Outcome.UNKNOWN]
    told = []
    if same:
        told.append(f"{_levels(s, same)} {'is' if len(same) == 1 else 'are'} the same for practical purposes")
    if open_:
        told.append(f"{_levels(s, open_)} can't be told{'' if named else ' from it'} yet")
    return told


def _levels(s: Series, own: Sequence[AxisPoint]) -> str:
    """Levels by name; three and more that lie at an end of the axis by where they begin."""
    end = _end(s, own) if len(own) > FEW else ""
    if end:
        return f"{own[-1 if end == BELOW else 0].level} and {end}"
    return listed([p.level for p in own], 4)
