"""How far what was done lay from what was scheduled: joint by joint, summed up by task."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

TASKS: dict[str, str] = {
    "closed": "closed",
    "released": "taken out of the clamps",
    "in": "put into conditioning",
    "broken": "broken",
}
"""Moments of a joint that are compared, with how they read."""
Moments = Mapping[str, float]
"""Task -> seconds since any fixed moment; what has not happened is left out."""


@dataclass(frozen=True)
class Lateness:
    """A task over the joints that had a moment for it: s late (negative: early) on average, and the farthest off."""

    task: str
    joints: int
    mean_s: float
    worst_s: float
    worst: str

    def in_words(self) -> str:
        """For example "12 joints closed 8 min late on average, M29Y 25 min late"."""
        many = f"{self.joints} {'joint' if self.joints == 1 else 'joints'} {TASKS[self.task]}"
        if abs(self.worst_s) < 60:
            return f"{many} to the minute"
        if self.joints == 1:
            return f"{many} {_off(self.worst_s)}"
        average = "on time on average" if abs(self.mean_s) < 60 else f"{_off(self.mean_s)} on average"
        return f"{many} {average}, {self.worst} {_off(self.worst_s)}"


def lateness(planned: Mapping[str, Moments], actual: Mapping[str, Moments]) -> list[Lateness]:
    """By task, over the joints (by code) for which both moments are known."""
    found = []
    for task in TASKS:
        off = {
            code: actual[code][task] - own[task]
            for code, own in planned.items()
            if task in own and task in actual.get(code, {})
        }
        if off:
            worst = max(off, key=lambda code: (abs(off[code]), code))
            found.append(Lateness(task, len(off), sum(off.values()) / len(off), off[worst], worst))
    return found


def _off(seconds: float) -> str:
    minutes = abs(seconds) / 60
    if minutes < 90:
        shown = f"{minutes:.0f} min"
    else:
        shown = f"{minutes / 60:.1f} h" if minutes < 48 * 60 else f"{minutes / 1440:.1f} days"
    return f"{shown} {'late' if seconds > 0 else 'early'}"
