"""Clock times as they stand on paper, to moments."""

from __future__ import annotations

import re
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from adhaero.core.refusal import refuse

_CLOCK = re.compile(r"^(\d{1,2})[:.h]?(\d{2})\s*(am|pm)?$")


def clock_time(text: str, after: datetime, zone: ZoneInfo, field: str) -> datetime | None:
    """A clock time as the first such moment after another one; empty is none."""
    clean = text.strip().lower()
    if not clean:
        return None
    match = _CLOCK.match(clean)
    hour, minute = (int(match[1]), int(match[2])) if match else (99, 99)
    if match and match[3]:
        hour = hour % 12 + (12 if match[3] == "pm" else 0)
    if hour > 23 or minute > 59:
        raise refuse(field, f"{text[:20]!r} is no time of day", "Write it like 17:42.")
    local = after.astimezone(zone)
    at = local.replace(hour=hour, minute=minute, second=0, microsecond=0)
    # Times are written to the minute: the same minute is no next day.
    return at if at >= local - timedelta(minutes=1) else at + timedelta(days=1)
