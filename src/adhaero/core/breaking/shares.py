"""How a broken joint gave way in several places: shares of its face by mode and member, that make 100 %.

A share is kept as ``mode`` or ``mode@member`` with its percentage: ``("wood-at-line@B", 60.0)``.
"""

from __future__ import annotations

from collections.abc import Sequence

from adhaero.core.method import FAILURE_NAMES, MIXED
from adhaero.core.refusal import Problems, refuse

Shares = tuple[tuple[str, float], ...]
MEMBERS = ("A", "B", "C")
"""Members of a joint as its drawing names them; none where the share is of the joint as a whole."""


def mode_of(what: str) -> str:
    """The failure mode of a share."""
    return what.split("@")[0]


def check(shares: Shares, p: Problems) -> None:
    """Add what is wrong with shares to ``p``."""
    for what, share in shares:
        mode, _, member = what.partition("@")
        known = mode in FAILURE_NAMES and mode != MIXED and (not member or member in MEMBERS)
        p.check(known, "shares", f"{what!r} is no way in which a part gives way", "Choose one, and a member A, B or C.")
        p.check(0 <= share <= 100, "shares", f"a share of {share:g} % is not possible", "Type 0 to 100 %.")
    names = [what for what, _ in shares]
    p.check(len(set(names)) == len(names), "shares", "one of them stands twice", "Add the two up.")
    total = sum(share for _, share in shares)
    p.check(
        not shares or abs(total - 100) < 1e-6, "shares", f"the shares make {total:g} %, not 100",
        "Change a share so that all together make 100 %.",
    )  # fmt: skip


def main_mode(shares: Shares) -> str | None:
    """The mode that shares come down to: the only one, else mixed."""
    modes = {mode_of(what) for what, share in shares if share > 0}
    return (modes.pop() if len(modes) == 1 else MIXED) if modes else None


def in_words(shares: Shares) -> str:
    """For people: ``60 % in the wood at the line of B, 40 % at the interface``."""
    return ", ".join(f"{share:g} % {_named(what)}" for what, share in shares)


def _named(what: str) -> str:
    mode, _, member = what.partition("@")
    return FAILURE_NAMES[mode].lower() + (f" of {member}" if member else "")


def as_cell(shares: Shares) -> str:
    """For a table: ``wood-at-line@B 60; interface 40``."""
    return "; ".join(f"{what} {share:g}" for what, share in shares)


def from_cell(text: str) -> Shares:
    """Shares as such a cell has them. Raises ``Refusal``."""
    found: list[tuple[str, float]] = []
    for part in filter(None, (x.strip() for x in text.split(";"))):
        what, _, share = part.rpartition(" ")
        try:
            found.append((what.strip(), float(share)))
        except ValueError:
            raise refuse("shares", f"{part[:40]!r} is no share", "Write it like wood-at-line@B 60.") from None
    return tuple(found)


def together(given: Sequence[tuple[str, str, float]]) -> Shares:
    """Shares from (mode, member, percentage); those of nothing are left out."""
    return tuple((f"{mode}@{member}" if member else mode, share) for mode, member, share in given if share)
