"""Which piece each screen at the rig shows: two devices at one queue are not offered the same piece.

Kept in memory only: a screen says it anew with every look at the queue, and one that no longer does holds nothing.
"""

from __future__ import annotations

import threading
from collections.abc import Sequence, Set
from dataclasses import dataclass
from datetime import datetime, timedelta

LASTS = timedelta(seconds=12)
"""Three looks at the queue: a screen that has missed them is switched off, asleep or out of reach."""


@dataclass(frozen=True)
class Screen:
    """A page that shows the queue: an identity of its own, the name of its device, and the piece that its person took
    ("" where it shows what it is offered).
    """

    identity: str
    name: str
    took: str = ""


@dataclass(frozen=True)
class _Hold:
    code: str
    name: str
    since: datetime
    seen: datetime


def _seen_from(screen: Screen, other: _Hold) -> str:
    return f"another window of {other.name}" if other.name == screen.name else other.name


class InHand:
    """What the screens of every batch show. Safe to use from several threads."""

    def __init__(self) -> None:
        self._of: dict[int, dict[str, _Hold]] = {}
        self._lock = threading.Lock()

    def shown(self, batch_id: int, now: datetime) -> set[str]:
        """What is on any screen."""
        with self._lock:
            return {h.code for h in self._of.get(batch_id, {}).values() if now - h.seen < LASTS}

    def offer(
        self, batch_id: int, screen: Screen, now: datetime, left: Set[str], order: Sequence[str]
    ) -> tuple[str | None, dict[str, str]]:
        """The piece to offer to a screen, and what of those that are ``left`` to be broken is on other screens (code:
        name of the device): the first in ``order`` that is not; where all are, the first.
        """
        with self._lock:
            of_batch = {s: h for s, h in self._of.get(batch_id, {}).items() if now - h.seen < LASTS and h.code in left}
            self._of[batch_id] = of_batch
            own = of_batch.pop(screen.identity, None)
            others = {h.code: _seen_from(screen, h) for h in of_batch.values()}
            # What a screen had first stays its own, whoever takes it out of turn later.
            earlier = {h.code for h in of_batch.values() if not (own and own.code == h.code and own.since <= h.since)}
            code = next((c for c in order if c not in earlier), next(iter(order), None))
            held = screen.took if screen.took in left else code
            if held is not None and held in left:
                since = own.since if own is not None and own.code == held else now
                of_batch[screen.identity] = _Hold(held, screen.name, since, now)
            return code, others
