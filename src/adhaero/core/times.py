"""Times in words."""

from __future__ import annotations

YEAR_S = 365.25 * 86400
_STEPS = ((2 * YEAR_S, YEAR_S, "years"), (72 * 3600.0, 86400.0, "days"), (3600.0, 3600.0, "h"), (60.0, 60.0, "min"))


def clock(seconds: float) -> str:
    """A short time as on a kitchen clock: 70 s are "1:10", 4 h 5 min are "4 h 05"."""
    whole = round(seconds)
    if whole < 3600:
        return f"{whole // 60}:{whole % 60:02d}"
    return f"{whole // 3600} h {whole % 3600 // 60:02d}"


def span(seconds: float) -> str:
    """A time in the unit that fits it: 40 s, 5 min, 2.5 h, 53 days, 5 years."""
    for least, unit, name in _STEPS:
        if abs(seconds) >= least:
            return f"{seconds / unit:.3g} {name}"
    return f"{seconds:.0f} s"
