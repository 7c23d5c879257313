"""The bottles of a plan held against each other: their age and state run along with the glue."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date

from adhaero.core.plan.caveat import Caveat

APART_DAYS = 30
"""Bottles opened less far apart than this are taken as of one age."""


@dataclass(frozen=True)
class PlannedBottle:
    """A bottle that a level of a plan stands for; ``state`` is what it went through, in words."""

    label: str
    family: str
    opened_on: date | None
    expires_on: date | None
    state: str


def bottle_caveats(bottles: Sequence[PlannedBottle], today: date) -> Iterator[Caveat]:
    """What the age and the state of the bottles add to a comparison of glues."""
    if len(bottles) > 1:
        known = [(b, (today - b.opened_on).days) for b in bottles if b.opened_on is not None]
        if len(known) > 1:
            old, new = max(known, key=lambda k: k[1]), min(known, key=lambda k: k[1])
            if old[1] - new[1] >= APART_DAYS:
                text = (
                    f"{old[0].label} has been open for {old[1]} days, {new[0].label} for {new[1]}: the age of the "
                    "bottle runs along with the glue. Take bottles of one age, or say that the age is what is asked."
                )
                yield Caveat("factors", text)
        unknown = [b.label for b in bottles if b.opened_on is None]
        if unknown and known:
            yield Caveat("factors", f"When {', '.join(unknown)} was opened is not known: write it down under Shop.")
    for b in bottles:
        if b.expires_on is not None and b.expires_on < today:
            days = (today - b.expires_on).days
            text = f"{b.label} is past its date by {days} days: discard it, or test it against a fresh one first."
            yield Caveat("factors", text)
        if b.state:
            yield Caveat("factors", f"{b.label} was {b.state}: that runs along with its glue.")
