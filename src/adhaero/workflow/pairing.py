"""Letting a device in: a code that is shown at the desk and counts once, exchanged for a key of the device's own."""

from __future__ import annotations

import secrets
import threading
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, timedelta

from adhaero.core.refusal import refuse
from adhaero.store.devices import Device, Devices

LETTERS = "ABCDEFGHJKMNPQRSTVWXYZ23456789"
"""What is not taken for another when it is read aloud or typed with gloves: no I, L, O, U, 0, 1."""
LENGTH = 8
"""30 letters, 8 places: 6.6e11 codes."""
GOOD_FOR = timedelta(minutes=10)
WRONG_IN_ALL = 20
"""So many wrong codes, from wherever, and the code that is open is withdrawn: 3e-11 to have guessed it."""
WRONG_EACH = 5
EACH_IN = timedelta(minutes=1)


@dataclass(frozen=True)
class Code:
    """A code that is open, until a moment; the one of the start has none: it waits for its browser."""

    text: str
    until: datetime | None


def plain(typed: str) -> str:
    """A code as it was meant: in capitals, without the gaps that help reading."""
    return "".join(c for c in typed.upper() if c.isalnum())


class Pairing:
    """One code at a time, and the tries at it. Safe to use from several threads."""

    def __init__(self, devices: Devices, now: Callable[[], datetime]) -> None:
        self.devices, self._now = devices, now
        self._code: Code | None = None
        self._wrong = 0
        self._tries: dict[str, deque[datetime]] = {}
        self._cleared = now()
        self._lock = threading.Lock()
        self.withdrawn = False
        """Whether the last code was withdrawn because too many wrong ones were tried."""

    def new_code(self, *, lasting: bool = False) -> Code:
        """Open a code; the one before no longer counts."""
        text = "".join(secrets.choice(LETTERS) for _ in range(LENGTH))
        with self._lock:
            self._code = Code(text, None if lasting else self._now() + GOOD_FOR)
            self._wrong, self.withdrawn = 0, False
            return self._code

    def code(self) -> Code | None:
        """The code that is open."""
        code = self._code
        return None if code is None or (code.until is not None and code.until <= self._now()) else code

    def pair(self, typed: str, name: str, address: str) -> tuple[Device, str]:
        """Let in who tells the code; returns the device and its key. ``Refusal`` for a wrong one, and for too many."""
        wait_s = self.must_wait(address)
        with self._lock:
            now = self._now()
            if wait_s:
                raise refuse("code", "too many wrong codes came from here", f"Try again in {wait_s} s.")
            code = self.code()
            if code is None or not secrets.compare_digest(plain(typed), code.text):
                self._note_wrong(address, now)
                raise refuse("code", "this is not the code that the desk shows", self._remedy())
            self._code = None
            self._tries.pop(address, None)
            return self.devices.add(name.strip() or "a device", now)

    def must_wait(self, address: str) -> int:
        """After how many seconds another code may be tried from this address; 0 for now."""
        with self._lock:
            now, tries = self._now(), self._tries.get(address)
            while tries and now - tries[0] >= EACH_IN:
                tries.popleft()
            if not tries or len(tries) < WRONG_EACH:
                return 0
            return max(1, int((tries[0] + EACH_IN - now).total_seconds()))

    def _note_wrong(self, address: str, now: datetime) -> None:
        # Addresses of long ago are let go: whoever has many of them can't fill the memory.
        if now - self._cleared >= EACH_IN:
            self._tries = {a: t for a, t in self._tries.items() if t and now - t[-1] < EACH_IN}
            self._cleared = now
        self._tries.setdefault(address, deque()).append(now)
        self._wrong += 1
        if self._code is not None and self._wrong >= WRONG_IN_ALL:
            self._code, self.withdrawn = None, True

    def _remedy(self) -> str:
        return "Look again, or have the desk show a new one: a code counts once, and for ten minutes."
