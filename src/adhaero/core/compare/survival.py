"""Pieces looked at on their way: how many were still whole when, and between which looks the others came apart."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

Looks = Sequence[tuple[float, bool]]
"""Of one piece, in order: (days since it was glued, whether it was whole)."""


@dataclass(frozen=True)
class Step:
    """At a day: ``whole`` of the ``known`` pieces whose state is known then."""

    day: float
    whole: int
    known: int


@dataclass(frozen=True)
class Loss:
    """``pieces`` came apart after ``after`` (the last look at which they were whole) and by ``by`` days."""

    after: float
    by: float
    pieces: int


@dataclass(frozen=True)
class Survival:
    """The steps of one treatment and its losses, each with its interval."""

    steps: tuple[Step, ...]
    losses: tuple[Loss, ...]

    def in_words(self) -> str:
        """For example "7 of 10 whole on day 30; lost 3 from day 10 to 30"."""
        whole = ", ".join(f"{s.whole} of {s.known} whole on day {s.day:.3g}" for s in self.steps)
        lost = ", ".join(f"{x.pieces} from day {x.after:.3g} to {x.by:.3g}" for x in self.losses)
        return f"{whole}; lost {lost}" if lost else whole


def survival(pieces: Mapping[str, Looks]) -> Survival:
    """What the looks at the pieces of a treatment say. A piece seen apart stays apart; one not looked at any more is
    known until its last look only.
    """
    days = sorted({day for looks in pieces.values() for day, _ in looks})
    steps = []
    for day in days:
        states = [state for looks in pieces.values() if (state := _at(looks, day)) is not None]
        steps.append(Step(day, sum(states), len(states)))
    lost: dict[tuple[float, float], int] = {}
    for looks in pieces.values():
        apart = next((day for day, whole in looks if not whole), None)
        if apart is not None:
            after = max((day for day, whole in looks if whole and day < apart), default=0.0)
            lost[after, apart] = lost.get((after, apart), 0) + 1
    return Survival(tuple(steps), tuple(Loss(a, b, n) for (a, b), n in sorted(lost.items())))


def _at(looks: Looks, day: float) -> bool | None:
    """Whether a piece was whole at a day; ``None`` where nobody knows."""
    if any(not whole and seen <= day for seen, whole in looks):
        return False
    return True if any(whole and seen >= day for seen, whole in looks) else None
