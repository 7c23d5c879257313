"""The user's hours as stretches of elapsed seconds, so that a night with a clock change is as long as it is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from zoneinfo import ZoneInfo

from adhaero.core.refusal import Problems

DAY_S = 86400
Stretch = tuple[int, int]
"""From and to, in whole seconds since the start of the schedule."""


@dataclass(frozen=True)
class Hours:
    """When somebody is at the bench: (weekday with Monday 0, from, to) in minutes after midnight, local time.

    ``zone`` is a name of the time zone database; ``off`` are days without work.
    """

    weekly: tuple[tuple[int, int, int], ...]
    zone: str = "UTC"
    off: tuple[date, ...] = ()

    def check(self) -> None:
        """Raise ``Refusal`` for hours that cannot be."""
        p = Problems()
        p.check(bool(self.weekly), "weekly", "there is no hour in the week", "State when you are at the bench.")
        for i, (day, start, end) in enumerate(self.weekly):
            fine = 0 <= day <= 6 and 0 <= start < end <= 1440
            p.check(fine, f"weekly.{i}", "is no stretch of a day", "From must lie before to, both within the day.")
        try:
            ZoneInfo(self.zone)
        except (ValueError, LookupError, OSError):
            p.add("zone", f"{self.zone[:60]!r} is no time zone", "Use a name like Europe/Helsinki.")
        p.raise_if_any()


def stretches(hours: Hours, start: datetime, days: int) -> list[Stretch]:
    """The hours of ``days`` days from ``start`` on, in elapsed seconds; what touches is one stretch."""
    zone = ZoneInfo(hours.zone)
    first = start.astimezone(zone).date()
    found: list[Stretch] = []
    for n in range(-1, days):
        day = first + timedelta(days=n)
        if day in hours.off:
            continue
        for weekday, low, high in hours.weekly:
            if weekday == day.weekday():
                a, b = (_elapsed(day, minute, zone, start) for minute in (low, high))
                if b > max(a, 0):
                    found.append((max(a, 0), b))
    return joined(found)


def _elapsed(day: date, minute: int, zone: ZoneInfo, start: datetime) -> int:
    plain = datetime.combine(day, time()) + timedelta(minutes=minute)
    return int((plain.replace(tzinfo=zone).astimezone(UTC) - start).total_seconds())


def joined(parts: Sequence[Stretch]) -> list[Stretch]:
    """The same stretches in order, overlapping and touching ones as one."""
    found: list[Stretch] = []
    for a, b in sorted(parts):
        if found and a <= found[-1][1]:
            found[-1] = found[-1][0], max(found[-1][1], b)
        elif b > a:
            found.append((a, b))
    return found
