"""Steps that a plan asks for on every joint before it is closed: primed, wiped, roughened; done, late, or not.

A step may want a wait before the joint is closed (a primer dries), and may hold only so long (a wiped face is clean for
a quarter of an hour).
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from adhaero.core.times import span

DONE, LATE, NOT_DONE = "done", "late", "not done"
STATES: Mapping[str, str] = {DONE: "done", LATE: "done late", NOT_DONE: "not done"}
SLACK_S = 60.0
"""A minute that a wait may fall short: it is told by a tap after the act."""


@dataclass(frozen=True)
class ProtocolStep:
    """A step of the protocol, for the named treatments (ids; all joints where none is named). ``wait_s`` is how long it
    takes at least until the joint may be closed, ``within_s`` how long it holds.
    """

    text: str
    treatments: tuple[str, ...] = ()
    wait_s: float | None = None
    within_s: float | None = None
    id: str = ""

    def is_for(self, treatment: str) -> bool:
        """Whether the pieces of a treatment go through it."""
        return not self.treatments or treatment in self.treatments


@dataclass(frozen=True)
class StepMark:
    """What was said of a step on one piece, and when it happened."""

    step: ProtocolStep
    state: str = ""
    at: datetime | None = None


def off(marks: Sequence[StepMark], closed_at: datetime) -> Iterator[tuple[str, str]]:
    """Kinds of flags with their figures: steps that were left out, late, or not waited for, of a joint closed then.

    A wait ends with the next step that was done, or with the closing: a second coat on a wet one was not waited for.
    """
    for i, m in enumerate(marks):
        if m.state == NOT_DONE:
            yield "step left out", m.step.text
        elif m.state == LATE:
            yield "step late", m.step.text
        if m.at is None or m.state not in (DONE, LATE):
            continue
        waited = (closed_at - m.at).total_seconds()
        after = [x.at for x in marks[i + 1 :] if x.at is not None and x.state in (DONE, LATE) and x.at >= m.at]
        dried = (min([closed_at, *after]) - m.at).total_seconds()
        if m.step.wait_s is not None and dried < m.step.wait_s - SLACK_S:
            yield "not waited for", f"{m.step.text}: {span(max(0.0, dried))} instead of {span(m.step.wait_s)}"
        if m.step.within_s is not None and waited > m.step.within_s + SLACK_S:
            yield "step too old", f"{m.step.text}: {span(waited)}, holds for {span(m.step.within_s)}"


def not_noted(marks: Sequence[StepMark]) -> list[str]:
    """The steps of which nobody said anything."""
    return [m.step.text for m in marks if not m.state]
