"""The rig's line protocol, version 1: what a line says, and a clock that never runs backward.

Lines are ASCII, ended by ``\\n`` or ``\\r\\n``::

    # adhaero-rig 1 name=bench-press unit=N capacity=20000 resolution=1 rate=80
    <milliseconds>,<force>[,<displacement mm>]

See ``docs/rig-protocol.md``.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from dataclasses import dataclass, replace

import regex

from adhaero.core.quantity import Dimension, unit
from adhaero.core.refusal import Refusal, refuse

MAX_LINE = 200
MAX_PATTERN = 120
_PATTERN_REMEDY = (
    "Type the number of the column with the load, like 2, or an expression with a group for it, like load=([-0-9.]+)."
)
LINE_S = 0.02
"""The longest that a pattern may take over a line."""
_HARD_LINES = ("1" * 190 + " x", "12.5 " * 38, "a" * 190, "ST,GS,+  12.34kg " * 11, " " * 190 + "x", "-.-.-." * 30)
"""Lines over which a pattern that backtracks without end takes longer than that."""
BELIEVED = 40
"""So many lines in a row that are not as those before are no errors: a counter that began anew, lines without one."""
_COUNTER_WRAP_MS = 2.0**32
_LONGEST_STEP_MS = 5_000.0
_KEY = re.compile(r"(\w+)=(\S+)")


@dataclass(frozen=True)
class Identity:
    """What a rig says about itself; forces in N. Without a ``unit`` it has said nothing yet."""

    name: str = ""
    unit: str = ""
    capacity_n: float | None = None
    resolution_n: float | None = None
    rate_hz: float | None = None

    def reads_like(self, other: Identity) -> bool:
        """Return whether both describe the same rig in the same setting; another rate is no other setting."""
        return replace(self, rate_hz=None) == replace(other, rate_hz=None)


@dataclass(frozen=True)
class Line:
    """A line with a force, in the rig's own unit. ``ms`` is ``None`` where the rig sends no time."""

    ms: float | None
    force: float
    displacement_mm: float | None


def parse_identity(text: str) -> Identity | None:
    """The identity in a comment line; ``None`` for any other comment or another protocol version."""
    if not text.startswith("# adhaero-rig 1 "):
        return None
    values = dict(_KEY.findall(text))
    symbol = values.get("unit", "N")
    try:
        factor = unit(symbol, Dimension.FORCE)
    except Refusal:
        return None

    def force(key: str) -> float | None:
        number = _number(values.get(key, ""))
        return None if number is None else factor.to_base(number)

    return Identity(
        values.get("name", ""), factor.symbol, force("capacity"), force("resolution"), _number(values.get("rate", ""))
    )


def _number(text: str) -> float | None:
    try:
        value = float(text)
    except ValueError:
        return None
    return value if math.isfinite(value) else None


def parse_line(text: str) -> Line | None:
    """A line with a force; ``None`` for garbage, half lines and numbers that are not finite."""
    if len(text) > MAX_LINE:
        return None
    parts = [p.strip() for p in text.split(",")]
    if len(parts) == 1:
        force = _number(parts[0])
        return None if force is None else Line(None, force, None)
    if len(parts) > 3:
        return None
    ms, force = _number(parts[0]), _number(parts[1])
    displacement = _number(parts[2]) if len(parts) == 3 and parts[2] else None
    if ms is None or force is None or (len(parts) == 3 and parts[2] and displacement is None):
        return None
    return Line(ms, force, displacement)


def line_reader(pattern: str) -> Callable[[str], Line | None]:
    """How lines are read: by the rig's own protocol (empty), by the number of the column that has the load (columns end
    at a comma, semicolon, tab or blanks), or by a regular expression whose first group, or the one named ``load``, is
    the load, with groups ``ms`` and ``travel`` where there are such. Raises ``Refusal`` for what is none of these.
    """
    if not pattern:
        return parse_line
    if pattern.isdigit():
        return _by_column(int(pattern))
    if len(pattern) > MAX_PATTERN:
        raise refuse("pattern", f"is over {MAX_PATTERN} characters long", _PATTERN_REMEDY)
    try:
        expression = regex.compile(pattern)
    except (regex.error, RecursionError, OverflowError) as error:
        raise refuse("pattern", f"is no column and no expression: {error}", _PATTERN_REMEDY) from error
    if not expression.groups:
        raise refuse("pattern", "has no group for the load", _PATTERN_REMEDY)
    read = _by_expression(expression)
    try:
        for line in _HARD_LINES:
            read(line)
    except TooSlow as error:
        raise refuse("pattern", "takes too long with some lines", _PATTERN_REMEDY) from error
    return read


def _by_column(column: int) -> Callable[[str], Line | None]:
    if not 1 <= column <= 20:
        raise refuse("pattern", f"column {column} is not possible", _PATTERN_REMEDY)

    def read(text: str) -> Line | None:
        parts = re.split(r"\s*[,;\t]\s*|\s+", text.strip()) if len(text) <= MAX_LINE else []
        force = _number(parts[column - 1]) if len(parts) >= column else None
        return None if force is None else Line(None, force, None)

    return read


class TooSlow(Exception):
    """A pattern of the user's own took longer over a line than a line may take."""


def _by_expression(expression: regex.Pattern[str]) -> Callable[[str], Line | None]:
    names = expression.groupindex

    def read(text: str) -> Line | None:
        try:
            found = expression.search(text, timeout=LINE_S) if len(text) <= MAX_LINE else None
        except TimeoutError as error:
            raise TooSlow from error
        force = _number(found["load" if "load" in names else 1] or "") if found else None
        if found is None or force is None:
            return None
        ms, travel = (_number(found[n] or "") if n in names else None for n in ("ms", "travel"))
        return Line(ms, force, travel)

    return read


class SteadyClock:
    """Seconds that only go forward, from a device counter that may stand, jump back, wrap, restart or be missing.

    A plausible step of the counter is believed; otherwise the time that passed on this computer is taken. A counter
    that jumped and goes on from there is believed again; one that jumps to and fro was only wrong in between.
    """

    def __init__(self) -> None:
        self._ms: float | None = None
        self._ms_at_s = 0.0
        self._odd_ms: float | None = None
        self._odd = 0
        self._host_s: float | None = None
        self._now_s = 0.0

    @property
    def now_s(self) -> float:
        """The time of the latest sample."""
        return self._now_s

    def at(self, ms: float | None, host_s: float) -> float:
        """Time of a sample with this counter, received at ``host_s`` (any monotonic clock)."""
        passed = 0.0 if self._host_s is None else max(0.0, host_s - self._host_s)
        step, jumped = _step(self._ms, ms), _step(self._odd_ms, ms)
        if step is not None:
            self._now_s = max(self._now_s, self._ms_at_s + step / 1000)
        else:
            self._now_s += passed if jumped is None else jumped / 1000
        self._odd = 0 if step is not None else self._odd + 1
        if self._ms is not None and 0 < self._odd < BELIEVED:
            self._odd_ms = ms
        else:
            self._ms, self._ms_at_s, self._odd_ms, self._odd = ms, self._now_s, None, 0
        self._host_s = host_s
        return self._now_s


def _step(last: float | None, ms: float | None) -> float | None:
    """A plausible step of a counter, in ms; ``None`` for any other."""
    if ms is None or last is None:
        return None
    step = ms - last
    if step < 0 and last > _COUNTER_WRAP_MS - _LONGEST_STEP_MS and ms < _LONGEST_STEP_MS:
        step += _COUNTER_WRAP_MS
    return step if 0 < step <= _LONGEST_STEP_MS else None


class LineSplitter:
    """Bytes in, whole lines out; half lines wait, endless ones are dropped. ``dropped`` counts them."""

    def __init__(self) -> None:
        self._rest = b""
        self.dropped = 0

    def feed(self, data: bytes) -> list[str]:
        """Whole lines in ``data`` and what was waiting, without their ends."""
        *lines, self._rest = (self._rest + data).split(b"\n")
        if len(self._rest) > 4 * MAX_LINE:
            self._rest = b""
            self.dropped += 1
        return [line.decode("ascii", "replace").strip("\r\x00 ") for line in lines]

    def reset(self) -> None:
        """Forget a half line: the cable was out."""
        self._rest = b""
