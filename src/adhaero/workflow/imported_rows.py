"""The rows of a table looked at one by one: what is wrong with a cell is said before anything is written."""

from __future__ import annotations

import json
import math
from collections.abc import Callable, Sequence
from datetime import UTC, datetime, timedelta
from typing import Any, NamedTuple

from adhaero.core.breaking.details import NOTHING, details_from_json
from adhaero.core.breaking.instrument import checked as checked_instrument
from adhaero.core.breaking.instrument import instrument_from_json
from adhaero.core.breaking.shares import from_cell
from adhaero.core.breaking.trace import course_from_json
from adhaero.core.cut.measurements import MEASUREMENTS
from adhaero.core.glue.pressing import MEANS
from adhaero.core.observation import Kind, Observation, checked
from adhaero.core.parents import KINDS
from adhaero.core.plan import design
from adhaero.core.plan.codes import read_code
from adhaero.core.plan.document import Level
from adhaero.core.refusal import Problems, Refusal
from adhaero.formats import specimen_csv
from adhaero.formats.specimen_csv import Row
from adhaero.store.adherends import Step
from adhaero.workflow import joint_events
from adhaero.workflow.context import moment
from adhaero.workflow.imported_plan import MADE_TO_COUNT

SOURCES = ("typed", "weights", "vessel")
"""Sources of readings that a file can name; all others are the file itself."""

PARTS = (*MADE_TO_COUNT, design.SPARE, design.DUMMY)
FIRST = datetime(1970, 1, 1, tzinfo=UTC)
TIMES = ("glued_at", "glueup_ended_at", "unclamped_at", "mixed_at", "observed_at")


def observation(r: Row) -> Observation | None:
    if not r.kind:
        return None
    return Observation(
        kind=Kind(r.kind),
        low_n=r.load_low_n,
        high_n=r.load_high_n,
        held_s=r.held_s,
        failure_mode=r.failure_mode or None,
        wood_failure_pct=r.wood_failure_pct,
        shares=from_cell(r.shares),
        reason=r.reason,
        note=r.note,
        details=details_from_json(json.loads(r.details)) if r.details else NOTHING,
    )


def check(rows: Sequence[Row], now: datetime) -> None:
    p, seen = Problems(), set()
    for r in rows:
        at = f"row {r.number}: "
        try:
            if read_code(r.code) != r.code:
                p.add(f"{at}code", f"{r.code!r} is not written as a code", "Write it in capitals, without the half.")
        except Refusal as refusal:
            p.take(refusal, at)
        p.check(r.code not in seen, f"{at}code", f"{r.code} stands twice", "One row for each specimen.")
        seen.add(r.code)
        p.check(r.role in ("joint", "solid"), f"{at}role", f"{r.role!r} is not joint or solid", "Write one of the two.")
        p.check(r.part in PARTS, f"{at}part", f"{r.part!r} is no part", "Use one of: " + ", ".join(PARTS[1:]) + ".")
        _check_reading(r, at, p)
        for name, value in r.sizes.items():
            field = f"{at}{specimen_csv.size_head(name)}"
            more = MEASUREMENTS.get(name)
            low, high = (more.low, more.high) if more else specimen_csv.size_range(name)
            fine = low <= value <= high
            p.check(fine, field, f"{value:g} is outside {low:g} to {high:g}", "Check the number and its unit.")
        _check_gluing(r, at, p)
        joint_events.check_cell(r.events, f"{at}events", p, now)
        _check_times(r, at, now, p)
        _check_documents(r, at, p)
    _check_parents(rows, p)
    p.raise_if_any()


def _check_parents(rows: Sequence[Row], p: Problems) -> None:
    """A parent has one code, one kind and one number, in all of its rows."""
    codes: dict[str, tuple[int | None, str]] = {}
    numbers: dict[int | None, str] = {}
    for r in (r for r in rows if r.parent):
        at = f"row {r.number}: parent"
        try:
            fits = read_code(r.parent) == r.parent and r.parent not in {x.code for x in rows}
        except Refusal:
            fits = False
        p.check(fits, at, f"{r.parent!r} is no code of a parent", "Write it in capitals, as on its label.")
        p.check(r.parent_kind in KINDS, f"{at}_kind", f"{r.parent_kind!r} is no kind of parent",
                "Use one of: " + ", ".join(KINDS) + ".")  # fmt: skip
        same = codes.setdefault(r.parent, (r.parent_number, r.parent_kind)) == (r.parent_number, r.parent_kind)
        same = same and numbers.setdefault(r.parent_number, r.parent) == r.parent and bool(r.parent_number)
        p.check(same, f"{at}_number", "does not name one parent", "Give every parent a number of its own.")


def _check_reading(r: Row, at: str, p: Problems) -> None:
    kinds = {k.value for k in Kind}
    if p.check(not r.kind or r.kind in kinds, f"{at}kind", f"{r.kind!r} is no kind of observation",
               "Use one of: " + ", ".join(sorted(kinds)) + "."):  # fmt: skip
        try:
            o = observation(r)
            if o is not None:
                checked(o)
        except Refusal as refusal:
            p.take(refusal, at)
        except (ValueError, TypeError, KeyError, AttributeError):
            pass  # its details are no document: said where documents are looked at
    crack = r.first_crack_n
    p.check(crack is None or 0 <= crack <= 1e6, f"{at}first_crack_n", "is no load", "Check its unit.")


_RANGES = {
    "air_c": (-40, 60), "humidity_pct": (0, 100), "clamp_force_n": (0, 200_000), "clamps": (1, 50),
    "spread_g_m2": (0, 5000), "planned_pressure_mpa": (0, 1000), "planned_clamp_s": (0, 1e9),
    "planned_cure_s": (0, 1e10),
    "replicate": (1, 100_000), "break_order": (0, 100_000), "glue_order": (0, 100_000),
}  # fmt: skip
_CHOICES = {"clamp_force_known": ("measured", "estimated", "unknown"), "glueup_faces": ("one", "both"),
            "pressed_by": tuple(MEANS)}  # fmt: skip


def _check_gluing(r: Row, at: str, p: Problems) -> None:
    for name, (low, high) in _RANGES.items():
        value = getattr(r, name)
        p.check(value is None or low <= value <= high, f"{at}{name}", f"must be {low:g} to {high:g}", "Check its unit.")
    for name, able in _CHOICES.items():
        value = getattr(r, name)
        p.check(not value or value in able, f"{at}{name}", f"{value!r} is none of the choices",
                "Use one of: " + ", ".join(able) + ".")  # fmt: skip


def _check_times(r: Row, at: str, now: datetime, p: Problems) -> None:
    for name in TIMES:
        text = getattr(r, name)
        if not text:
            continue
        wrong = wrong_time(text, now)
        if wrong:
            p.add(f"{at}{name}", wrong, "Write it as 2026-11-23T16:50:00Z.")


def wrong_time(text: str, now: datetime) -> str:
    """What is wrong with a time that something happened at; empty if nothing is."""
    try:
        when = moment(text)
    except ValueError:
        return "is not a time"
    if when.tzinfo is None:
        return "has no time zone"
    try:
        return "" if FIRST <= when <= now + timedelta(days=1) else "lies in the future, or before 1970"
    except (OverflowError, ValueError):
        return "is not a time"


def _levels(document: Any) -> None:
    for level in document.values():
        Level(**level)


class OtherLoading(NamedTuple):
    """A loading besides the one that counts; ``beside`` the loading of which it is another reading."""

    number: int
    observation: Observation
    at: str
    person: str
    source: str
    beside: int | None
    arm_mm: float | None


def other_loadings(document: Any) -> list[OtherLoading]:
    """Readings of loadings besides the one that counts."""
    found = []
    for x in document["others"]:
        said = dict(x)
        number, at, person, source = (said.pop(k) for k in ("loading", "at", "person", "source"))
        shares = tuple((str(k), float(v)) for k, v in said.pop("shares"))
        own, beside = details_from_json(said.pop("details", {})), said.pop("beside", None)
        arm = _arm(said.pop("arm_mm", None))
        o = checked(Observation(**{**said, "kind": Kind(said["kind"]), "shares": shares, "details": own}))
        if number == document["counts"] or not 1 <= number <= 100:
            raise ValueError(number)
        found.append(OtherLoading(int(number), o, str(at), str(person), source if source in SOURCES else "file",
                                  None if beside is None else int(beside), arm))  # fmt: skip
    return found


def _loadings(document: Any) -> None:
    beside = document.get("beside")
    if not 1 <= int(document["counts"]) <= 100 or not (beside is None or 1 <= int(beside) <= 100):
        raise ValueError
    _arm(document.get("arm_mm"))
    other_loadings(document)


def _arm(told: Any) -> float | None:
    if told is not None and not 0 < float(told) <= 10_000:
        raise ValueError
    return None if told is None else float(told)


def _curve(document: Any) -> None:
    course_from_json(document["course"])
    if not 0 <= float(document.get("signal_error_n", 0.0)) < math.inf:
        raise ValueError


def _texts(document: Any) -> None:
    if not isinstance(document, list) or not all(isinstance(x, str) for x in document):
        raise TypeError


_SHAPES: dict[str, Callable[[Any], object]] = {
    "amended": _levels, "confirmed": _texts, "steps": lambda d: [Step(**x) for x in d], "defects": list,
    "board_places": list, "plan": dict, "shop": dict, "loadings": _loadings, "details": details_from_json,
    "curve": _curve,
    "rig_instrument": lambda d: checked_instrument(instrument_from_json(d)),
}  # fmt: skip
"""What the documents of a table are made of, as far as it can be told before anything is written."""


DEEPEST = 40
"""Brackets within brackets in a cell; what is exported has a few."""


def depth(text: str) -> int:
    """How deeply the brackets of a document are nested; those in its texts count too, which does no harm."""
    deepest = now = 0
    for sign in text:
        now += (sign in "[{") - (sign in "]}")
        deepest = max(deepest, now)
    return deepest


def _check_documents(r: Row, at: str, p: Problems) -> None:
    for name in specimen_csv.DOCUMENTS:
        text = getattr(r, name)
        if text and depth(text) > DEEPEST:
            p.add(f"{at}{name}", "is nested too deeply", "Leave the cell as it was written, or empty.")
            continue
        if name == "events" or not text:
            continue
        try:
            _SHAPES[name](json.loads(text))
        except (ValueError, TypeError, AttributeError, KeyError):
            p.add(f"{at}{name}", "is not written as it was exported", "Leave the cell as it was written, or empty.")
