"""A rhythm of dates as people say it: "half-yearly for 3 years, then yearly to 11 years"."""

from __future__ import annotations

import re

from adhaero.core.quantity import Dimension, parse
from adhaero.core.refusal import refuse

STEPS = {
    "daily": "1 d", "weekly": "7 d", "monthly": "1 mo", "quarterly": "3 mo", "half-yearly": "6 mo",
    "yearly": "1 y",
}  # fmt: skip
MOST = 64
_PART = re.compile(
    rf"(?:then\s+)?(?:every\s+(?P<every>[\d.,]*\s*[a-z]+)|(?P<word>{'|'.join(STEPS)}))"
    r"\s+(?P<way>for|to|until|up to)\s+(?P<end>[\d.,]+\s*[a-z]+)",
    re.IGNORECASE,
)
_THEN = re.compile(r"(?<=\S)\s*,?\s+(?:and\s+)?(?=then\s)", re.IGNORECASE)


def spelled_out(entries: list[str]) -> list[str]:
    """The entries with every rhythm among them replaced by its dates, each in the unit of its step. A rhythm goes on
    from the end of the one before it. Raises ``Refusal`` where one has no date or more than anybody makes.
    """
    found: list[str] = []
    reached = 0.0
    for entry in (part for e in entries for part in _THEN.split(e)):
        m = _PART.fullmatch(entry.strip())
        if m is None:
            found.append(entry)
            continue
        step_text = STEPS[m["word"].lower()] if m["word"] else _with_number(m["every"])
        step, end = (parse(t, Dimension.TIME, "d") for t in (step_text, m["end"]))
        last = end.base + (reached if m["way"].lower() == "for" else 0.0)
        count = int((last - reached) / step.base * (1 + 1e-9)) if step.base > 0 else 0
        if not 1 <= count <= MOST:
            said = "has no date in it" if count < 1 else f"has {count} dates"
            raise refuse("entry", f"{entry[:60]!r} {said}", f"Say how often and how long, up to {MOST} dates.")
        unit = step.base / step.typed
        found += [f"{(reached + i * step.base) / unit:.10g} {step.unit.symbol}" for i in range(1, count + 1)]
        reached += count * step.base
    return found


def _with_number(text: str) -> str:
    """ "month" is one month."""
    return text if text[:1].isdigit() else f"1 {text}"
