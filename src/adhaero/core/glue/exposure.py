"""Exposure paths: what joints go through before they are broken, step by step, read from what people write.

"soak 6 h at 18 °C, dry 12 h, soak 6 h" is 24 h with two wet phases; "5 x (freeze 12 h, thaw 12 h)" repeats; "3 weeks
outdoors" is weather, and wet at the break unless a drying follows.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache

from adhaero.core.refusal import Refusal, refuse
from adhaero.core.times import span

WET = ("soak", "boil", "steam", "damp", "weather")
DRY = "dry"
KINDS = (*WET, DRY, "freeze", "thaw", "heat", "cool", "rest")
MOST_STEPS = 400
LONGEST = 600
"""Characters that a path may have."""
_UNITS = {"s": 1, "min": 60, "h": 3600, "hour": 3600, "hours": 3600, "d": 86400, "day": 86400, "days": 86400,
          "wk": 604800, "week": 604800, "weeks": 604800, "mo": 2629800, "month": 2629800, "months": 2629800,
          "y": 31557600, "year": 31557600, "years": 31557600}  # fmt: skip
_SAID = {"outdoors": "weather", "outside": "weather", "weathered": "weather", "soaked": "soak", "water": "soak",
         "boiled": "boil", "steamed": "steam", "frozen": "freeze", "freezer": "freeze", "frost": "freeze",
         "thawed": "thaw", "dried": DRY, "drying": DRY, "heated": "heat", "oven": "heat", "indoors": DRY}  # fmt: skip
"""Other words that people use for the phases."""
_STEP = re.compile(
    r"^(?P<kind>[a-z]+)\s+(?P<time>\d+(?:[.,]\d+)?)\s*(?P<unit>[a-z]+)"
    r"(?:\s+at\s+(?P<at>-?\d+(?:[.,]\d+)?)\s*(?P<scale>°?\s*[cf]))?$"
)
_TIME_FIRST = re.compile(r"^(\d+(?:[.,]\d+)?\s*[a-z]+)\s+(?:in the |in )?([a-z]+)(\s+at\s+.*)?$")
_REPEAT = re.compile(r"(\d+)\s*[x×]\s*\(([^()]*)\)")


@dataclass(frozen=True)
class Step:
    """One phase of an exposure: what, for how long in s, and how warm in degrees Celsius where that is stated."""

    kind: str
    seconds: float
    at_c: float | None = None


@dataclass(frozen=True)
class Path:
    """An exposure as its phases in order."""

    steps: tuple[Step, ...]

    @property
    def total_s(self) -> float:
        """From going in to the break."""
        return sum(s.seconds for s in self.steps)

    @property
    def drying_s(self) -> float:
        """The drying at the very end, 0 for what is broken as it comes out."""
        return self.steps[-1].seconds if len(self.steps) > 1 and self.steps[-1].kind == DRY else 0.0

    @property
    def wet_phases(self) -> int:
        """How often it gets wet; wet phases that follow each other are one."""
        wet = [s.kind in WET for s in self.steps]
        return sum(now and not before for before, now in zip([False, *wet], wet, strict=False))

    @property
    def outdoors(self) -> bool:
        """Whether it is weather at the end: how wet a piece is then has to be looked at."""
        return bool(self.steps) and self.steps[-1].kind == "weather"

    @property
    def changes(self) -> tuple[tuple[float, str], ...]:
        """When the next phase begins, s after going in, and which: once for each phase but the first."""
        found, at = [], 0.0
        for before, after in zip(self.steps, self.steps[1:], strict=False):
            at += before.seconds
            found.append((at, after.kind))
        return tuple(found)

    def in_words(self) -> str:
        """For example "24 h in all, 2 wet phases"."""
        phases = {0: "never wet", 1: "1 wet phase"}.get(self.wet_phases, f"{self.wet_phases} wet phases")
        return f"{span(self.total_s)} in all, {phases}"


def _steps(text: str) -> list[str]:
    def again(match: re.Match[str]) -> str:
        times = int(match[1])
        if not 1 <= times <= MOST_STEPS:
            raise refuse("conditioning", f"{times} times is not possible", "Repeat a phase 1 to 400 times.")
        return ", ".join([match[2]] * times)

    return [p.strip() for p in _REPEAT.sub(again, text).split(",")]


def parse(text: str) -> Path:
    """The path that a text states. ``Refusal`` names the phase that cannot be read."""
    found: list[Step] = []
    # Blanks are one each, and the text has an end: what is matched below takes no time that anybody notices.
    text = " ".join(text.split())
    if len(text) > LONGEST:
        raise refuse("conditioning", f"is {len(text)} characters long", f"Use at most {LONGEST}.")
    for part in _steps(text.lower()):
        turned = _TIME_FIRST.match(part)
        match = _STEP.match(f"{turned[2]} {turned[1]}{turned[3] or ''}" if turned else part)
        kind = _SAID.get(match["kind"], match["kind"]) if match else ""
        if match is None or kind not in KINDS or match["unit"] not in _UNITS:
            raise refuse("conditioning", f"{part[:40]!r} is no phase", "Write it like: soak 6 h at 18 °C, dry 12 h.")
        seconds = float(match["time"].replace(",", ".")) * _UNITS[match["unit"]]
        at = None if match["at"] is None else float(match["at"].replace(",", "."))
        if at is not None and match["scale"].endswith("f"):
            at = (at - 32) / 1.8
        if not 0 < seconds <= 50 * 366 * 86400:
            raise refuse("conditioning", f"{part[:40]!r} does not last", "State how long the phase is.")
        found.append(Step(kind, seconds, at))
    if len(found) > MOST_STEPS:
        raise refuse("conditioning", f"has {len(found)} phases", f"Use at most {MOST_STEPS}.")
    return Path(tuple(found))


NAMED: dict[str, str] = {
    "soak-24h": "soak 24 h",
    "soak-24h-dried": "soak 24 h, dry 7 d",
    "soak-7d": "soak 7 d",
    "boil-6h": "boil 6 h",
    "freeze-thaw-5": "5 x (freeze 12 h, thaw 12 h)",
    "freeze-thaw-20": "20 x (freeze 12 h, thaw 12 h)",
    "wet-cold-3wk": "damp 3 weeks at 4 °C",
    "hot-60": "heat 24 h at 60 °C",
    "swing-10": "10 x (dry 3.5 d, damp 3.5 d)",
    "outdoors": "weather 365 d",
}
"""The conditionings that have a name, as paths: a frost takes a day, a swing of humidity a week."""


@lru_cache(maxsize=512)
def path_of(level: str) -> Path | None:
    """The path of a level of the conditioning, named or written out; ``None`` for dry, or where no times are stated."""
    try:
        return parse(NAMED.get(level, level))
    except Refusal:
        return None
