"""What another way of looking changes: treatments that change places, and outcomes that are others."""

from __future__ import annotations

from collections.abc import Mapping
from itertools import combinations

MOST = 4
Outcomes = Mapping[tuple[str, str], str]


def changes(
    before: Mapping[str, float], after: Mapping[str, float], was: Outcomes, now: Outcomes, label: Mapping[str, str]
) -> list[str]:
    """``before`` and ``after`` are the estimates by letter, ``was`` and ``now`` the outcomes of each comparison."""
    both = [x for x in before if x in after]
    turned = [(a, b) for a, b in combinations(both, 2) if (before[a] - before[b]) * (after[a] - after[b]) < 0]
    said = [f"The order of {label[a]} and {label[b]} turns." for a, b in turned[:MOST]]
    said += [f"{len(turned) - MOST} more change places."] * (len(turned) > MOST)
    other = [(pair, was[pair], end) for pair, end in now.items() if pair in was and was[pair] != end]
    said += [f"{label[a]} against {label[b]}: {end}, not {old}." for (a, b), old, end in other[:MOST]]
    said += [f"{len(other) - MOST} more comparisons end otherwise."] * (len(other) > MOST)
    gone = [label[x] for x in before if x not in after]
    said += [f"{', '.join(gone)}: no figure in this view."] * bool(gone)
    return said or ["Neither the order nor an outcome changes."]
