"""What was observed of a piece: written down once, corrected as a patch on what stands."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Any

from adhaero.core.breaking.details import Details
from adhaero.core.breaking.trace import PEAK
from adhaero.core.flags import UNCHECKED_MARK
from adhaero.core.method import FAILURE_NAMES
from adhaero.core.observation import Kind, Observation, checked
from adhaero.core.piece_record import FACE_EVENT
from adhaero.core.quantity import Dimension
from adhaero.core.refusal import Doubts, Problem, refuse
from adhaero.core.units import Units
from adhaero.store import actions, glueups, observations, pulls, rigs
from adhaero.store.observations import Observed
from adhaero.store.pulls import Pull
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.breaking import checklist
from adhaero.workflow.breaking.from_signal import from_signal, refuse_as_exact
from adhaero.workflow.breaking.queue import in_order, not_ready
from adhaero.workflow.breaking.reading_doubts import (
    AT_CAPACITY,
    FACE_DIFFERS,
    OF_LOAD,
    OVER_CAPACITY,
    WITH_LOAD,
    ask_face,
    ask_low,
    ask_peaks,
    ask_range,
    ask_step,
    pulled_before,
)
from adhaero.workflow.breaking.weights import weighed
from adhaero.workflow.context import Act, AppContext, Conflict, iso
from adhaero.workflow.courses import moved_on
from adhaero.workflow.piece_finding import find_piece
from adhaero.workflow.record_loading import load
from adhaero.workflow.rigs import NOT_LOOKED_OVER, typed_load
from adhaero.workflow.rigs import ask as ask_rig

EARLY = "early"
STANDING = "has a result"
"""Asked before a reading takes the place of another: two people may be typing, or a label was misread."""


def ask_early(record: BatchRecord, piece: Specimen, at: datetime, doubts: Doubts) -> None:
    """Ask about a joint that is not glued, not of age or still in its conditioning."""
    why, _ = not_ready(record, piece, at)
    if why is not None:
        remedy = "Take another piece, write down what was done to it, or save it all the same: it will be flagged."
        doubts.ask(EARLY, f"{piece.code}: {why}", remedy)


def _as_typed(o: Observation, typed: tuple[str, str], s: rigs.SetUp | None, units: Units) -> Observation:
    """With the loads that follow from what was typed of the instrument; what was not typed stays."""
    low, high = (typed_load(t, s, units, name) for t, name in zip(typed, ("low", "high"), strict=True))
    shown = " to ".join(text.strip() for text in typed if text.strip())
    o = replace(o, low_n=o.low_n if low is None else low, high_n=o.high_n if high is None else high)
    o = replace(o, details=replace(o.details, typed=shown[:80])) if shown else o
    return replace(o, high_n=o.low_n) if o.kind is Kind.EXACT and o.high_n is None else o


def plausible(record: BatchRecord, piece: Specimen, o: Observation) -> None:
    """Raise ``Refusal`` for a load that would be a figure beyond all that any joint bears."""
    method, scale, units = record.method, record.per_newton(piece.id), record.units
    top, dimension = method.plausible[1], method.figure_dimension
    for name, load_n in (("low_n", o.low_n), ("high_n", o.high_n)):
        if load_n is not None and load_n * scale > top:
            figure, most = (units.text(v, dimension) for v in (load_n * scale, top))
            raise refuse(
                name,
                f"{units.text(load_n, Dimension.FORCE)} on this piece would be {figure}; no joint bears over {most}",
                "Check the unit of the load, and the measured sizes.",
            )


def _check(record: BatchRecord, piece: Specimen, o: Observation) -> None:
    checked(o)
    if record.method.loadless and o.kind not in (Kind.SEEN, Kind.FELL_APART, Kind.VOID):
        raise refuse("kind", "this method has no load", "Choose how it gave way, fell apart, or does not count.")
    if o.kind in WITH_LOAD and record.came_apart(piece):
        raise refuse(
            "kind",
            f"{piece.code} was found apart on its way: it bore nothing",
            "Choose 'fell apart'; if that look was wrong, undo it under Glue.",
        )
    plausible(record, piece, o)


def _check_outcome(record: BatchRecord, o: Observation) -> None:
    """Raise ``Refusal`` for an outcome in words that the plan does not have, or that stands for another mode."""
    word = o.details.outcome
    known = {x.word: x.mode for x in record.plan.outcomes}
    if word and word not in known:
        raise refuse("details.outcome", f"{word!r} is none of the plan's words", f"Use one of: {', '.join(known)}.")
    if word and known[word] != o.failure_mode:
        meant = FAILURE_NAMES[known[word]].lower()
        raise refuse("details.outcome", f"{word!r} stands for {meant}", "Choose the word again, or leave it.")


def _when(w: AppContext, at: datetime | None) -> datetime:
    when = at or w.now()
    if when > w.now() + timedelta(minutes=5):
        raise refuse("at", "that lies in the future", "Type when it broke.")
    return when


@dataclass(frozen=True)
class Told:
    """What is told of how a piece ended: its loads are those of ``o``, or follow from what was ``typed`` of the
    instrument, from the ``weights`` that hang and how that ended, or else from the signal of the ``pull``. ``again``:
    the piece was loaded once more, and its earlier readings stay beside this one. ``beside``: it is another reading of
    the break that stands.
    """

    o: Observation
    source: str
    person: str
    when: datetime
    pull: Pull | None = None
    typed: tuple[str, str] = ("", "")
    weights: str = ""
    again: bool = False
    beside: bool = False
    confirmed: Sequence[str] = ()


def observe(
    w: AppContext, batch_id: int, code: str, o: Observation, *, pull_id: int | None, source: str, person: str,
    key: str | None, at: datetime | None = None, confirmed: Sequence[str] = (), typed: tuple[str, str] = ("", ""),
    weights: str = "", again: bool = False, beside: bool = False,
) -> dict[str, Any]:  # fmt: skip
    """Write down how a piece ended (see ``Told``), now or at a time stated.

    Raises ``Doubt`` for a joint that is not due, and for a load beyond the rig. Returns the next piece's code.
    """
    when = _when(w, at)

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record = load(w, conn, batch_id, action_id)
        piece = find_piece(conn, record, code)
        pull = pulls.pull(conn, pull_id) if pull_id is not None else None
        if pull_id is not None and (pull is None or pull.specimen_id != piece.id):
            raise refuse("pull_id", f"this pull is not one of {piece.code}", "Begin a pull of this piece.")
        if pull is not None and pull.state == "open":
            raise refuse("pull_id", "the pull is still going on", "End it first.")
        told = Told(o, source, person, when, pull, typed, weights, again, beside, confirmed)
        said = write_down(conn, record, piece, told, action_id) or _out_of_turn(w, record, piece, when)
        if said:
            actions.say(conn, action_id, said)
        left = (c for c in in_order(record, w.now()) if c != piece.code)
        return {"code": piece.code, "next": next(left, None)}

    act = Act(
        "break", "observe", f"Broke {code}", batch_id, person, key=key,
        request=f"{code}{o}{typed}{weights}{again}{beside}{pull_id}{at}",
        after={"kind": o.kind.value, "low_n": o.low_n, "typed": list(typed), "weights": weights},
    )  # fmt: skip
    answer = w.perform(act, body)
    if pull_id is not None:
        w.rig.forget(pull_id)
    return answer


def write_down(conn: sqlite3.Connection, record: BatchRecord, piece: Specimen, t: Told, action_id: int) -> str:
    """Write how one piece ended, within an action. Returns what the history says of it besides that it broke: that it
    had a reading already. Raises ``Refusal`` and ``Doubt``.
    """
    if piece.id in record.not_run:
        raise refuse("code", f"{piece.code} was left out of the plan", "Undo that first: under Plan.")
    used, pull = rigs.in_use(conn), t.pull
    set_up = record.set_ups.get(pull.setup_id) if pull else used.set_up if used else None
    if t.weights:
        seen = weighed(conn, record, piece, t.o, t.weights, t.when, t.typed[0])
    else:
        seen = _as_typed(t.o, t.typed, set_up, record.units)
    seen, crack = from_signal(record, pull, seen, set_up.instrument.carried_n if set_up else 0.0)
    if seen.kind is Kind.FELL_APART:
        seen = replace(seen, low_n=0.0, high_n=0.0)
    _check(record, piece, seen)
    _check_outcome(record, seen)
    standing = record.observed.get(piece.id)
    once_more = t.again or (pull is not None and pulls.is_of_a_loaded_piece(conn, pull.id))
    if t.beside and standing is None:
        raise refuse("beside", f"{piece.code} has no reading yet", "Save this one as its first.")
    number = record.next_loading(piece) if once_more or t.beside else 1 if standing is None else standing.loading
    doubts = Doubts(t.confirmed)
    if standing is not None and not once_more and not t.beside:
        _ask_standing(record, piece, standing, doubts)
    noted = _asked(conn, record, piece, t, seen, set_up, doubts)
    doubts.raise_if_any()
    stored = Observed(
        0, piece.id, pull.id if pull else None, set_up.id if set_up else None, seen, crack, t.source, iso(t.when),
        t.person, tuple(noted), number, standing.loading if t.beside and standing else None,
        record.arm_mm(piece),
    )  # fmt: skip
    observations.add(conn, stored, action_id)
    if standing is None or t.beside:
        return ""
    if once_more:
        return f"Loaded {piece.code} again, for the {number}. time"
    return f"Took the place of {_told(record, standing)} of {piece.code}"


def _out_of_turn(w: AppContext, record: BatchRecord, piece: Specimen, when: datetime) -> str:
    """Departures from the order are allowed, and on record: what was skipped. What another screen shows was not."""
    order = in_order(record, when, early=True)
    shown = w.in_hand.shown(record.batch.id, w.now())
    before = [c for c in order[: order.index(piece.code)] if c not in shown] if piece.code in order else []
    return f"Broke {piece.code} out of turn: {before[0]} was next" if before else ""


def _told(record: BatchRecord, standing: Observed) -> str:
    o, text = standing.observation, record.units.text
    if not o.low_n:
        return f"'{o.kind.value.replace('_', ' ')}'"
    if o.kind is Kind.BETWEEN and o.high_n is not None:
        return f"{text(o.low_n, Dimension.FORCE)} to {text(o.high_n, Dimension.FORCE)}"
    # A bound is never told as if it had broken.
    return f"{'' if o.kind is Kind.EXACT else o.kind.value.replace('_', ' ') + ' '}{text(o.low_n, Dimension.FORCE)}"


def _ask_standing(record: BatchRecord, piece: Specimen, standing: Observed, doubts: Doubts) -> None:
    message = f"{piece.code} has {_told(record, standing)} already, perhaps from another device"
    remedy = "Read its label again, or say under it that it was loaded again; saved all the same, this takes its place."
    doubts.ask(STANDING, message, remedy)


def _asked(
    conn: sqlite3.Connection, record: BatchRecord, piece: Specimen, t: Told, seen: Observation,
    set_up: rigs.SetUp | None, doubts: Doubts,
) -> list[str]:  # fmt: skip
    """Ask about what may be a slip; returns what is to be flagged of the reading."""
    # What the rig itself read is within its range, whatever its last digit: only a typed load is asked about.
    from_rig = bool(t.weights) or (t.pull is not None and t.o.low_n is None and not any(t.typed))
    noted = ask_range(record, seen, set_up, Doubts([OVER_CAPACITY, AT_CAPACITY]) if from_rig else doubts)
    noted += ask_face(seen, doubts)
    noted += ask_low(record, piece, seen, doubts)
    if from_rig:
        by_hand = t.pull is not None and PEAK in moved_on(record, t.pull.id)
        noted += ask_peaks(record, t.pull.proposal if t.pull else None, by_hand, doubts)
    elif not t.weights:
        noted += ask_step(t.typed, (seen.low_n, seen.high_n), set_up, record.units, doubts)
    if seen.kind in WITH_LOAD:
        # A pull was asked about when it began.
        noted += ask_rig(conn, set_up, record.units, Doubts([NOT_LOOKED_OVER]) if t.pull is not None else doubts)
        left = [p.key for p in checklist.of_session(conn, record, set_up, t.when) if not p.ticked]
        noted += [f"{UNCHECKED_MARK}{', '.join(left)}"] if left else []
        noted += pulled_before(conn, record, piece, t.pull)
    if seen.kind in WITH_LOAD or seen.kind is Kind.SEEN:
        if t.pull is None:
            ask_early(record, piece, t.when, doubts)
        if not_ready(record, piece, t.when)[0] is not None:
            noted.append(EARLY)
    return noted


def correct(
    w: AppContext, batch_id: int, code: str, changes: Mapping[str, Any], person: str, key: str | None,
    confirmed: Sequence[str] = (), base: int | None = None,
) -> dict[str, Any]:  # fmt: skip
    """Change what is named of the standing reading of a piece; all else stays: curve, source, first crack, time.

    ``changes`` are fields of ``Observation``, ``at``, and ``low`` and ``high`` as typed of the instrument. The reading
    before stays on record. ``base`` is the id of the reading that was on the screen: raises ``Conflict`` where another
    one stands by now.
    """

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record = load(w, conn, batch_id, action_id)
        piece = find_piece(conn, record, code)
        old = record.observed.get(piece.id)
        if old is None:
            raise refuse("code", f"{piece.code} has no result yet", "Write one down first.")
        if base is not None and base != old.id:
            message = (
                f"{piece.code} was corrected on another screen since you opened it: {_told(record, old)} stands now"
            )
            raise Conflict([Problem("reading", message, "Close this form and open it again to see that first.")])
        at = changes.get("at")
        set_up = record.set_ups.get(old.setup_id) if old.setup_id is not None else None
        loads = {
            f"{name}_n": typed_load(changes[name], set_up, record.units, name)
            for name in ("low", "high")
            if name in changes
        }
        if "details" in changes:
            # What was typed belongs to the load; correcting anything else keeps it.
            kept = replace(changes["details"], typed=old.observation.details.typed)
            fields = {**changes, "details": kept}
        else:
            fields = dict(changes)
        seen = _patched(old.observation, {k: v for k, v in fields.items() if k not in ("at", "low", "high")} | loads)
        pull = pulls.pull(conn, old.pull_id) if old.pull_id is not None and old.source == "rig" else None
        if pull is not None and pull.proposal is not None and loads.get("low_n", changes.get("low_n")) is None:
            refuse_as_exact(pull.proposal, seen.kind)
        _check(record, piece, seen)
        _check_outcome(record, seen)
        new, doubts = replace(old, observation=seen), Doubts(confirmed)
        if at is not None:
            when = _when(w, at)
            ask_early(record, piece, when, doubts)
            early = [EARLY] if not_ready(record, piece, when)[0] is not None else []
            new = replace(new, at=iso(when), confirmed=(*(c for c in old.confirmed if c != EARLY), *early))
        told = "low" in changes or "low_n" in changes
        if (seen.low_n, seen.high_n) != (old.observation.low_n, old.observation.high_n) and told:
            texts = str(changes.get("low") or ""), str(changes.get("high") or "")
            seen = replace(seen, details=replace(seen.details, typed=" to ".join(x for x in texts if x.strip())[:80]))
            noted = ask_range(record, seen, set_up, doubts)
            noted += ask_step(texts, (seen.low_n, seen.high_n), set_up, record.units, doubts)
            noted += ask_low(record, piece, seen, doubts)
            rest = [c for c in new.confirmed if c not in OF_LOAD]
            new = replace(new, observation=seen, source="typed", confirmed=(*rest, *noted))
        of_face = {"failure_mode", "wood_failure_pct", "shares"} & set(changes)
        face = ask_face(seen, doubts if of_face else Doubts([FACE_DIFFERS]))
        new = replace(new, confirmed=(*(c for c in new.confirmed if c != FACE_DIFFERS), *face))
        doubts.raise_if_any()
        observations.add(conn, new, action_id)
        _judge_anew(w, conn, record, piece, changes, person, action_id)
        return {"code": piece.code, "next": None}

    before = _standing(w, batch_id, code)
    act = Act(
        "break", "correct", f"Corrected {code}", batch_id, person, key=key, request=f"{code}{sorted(changes.items())}",
        before=before, after={k: _plain(v) for k, v in changes.items()},
    )  # fmt: skip
    return w.perform(act, body)


def _judge_anew(
    w: AppContext, conn: sqlite3.Connection, record: BatchRecord, piece: Specimen, changes: Mapping[str, Any],
    person: str, action_id: int,
) -> None:  # fmt: skip
    """A changed wood failure is a verdict of now: a map that the same person painted before counts no more."""
    pct = changes.get("wood_failure_pct")
    if pct is not None and record.last(piece.id, FACE_EVENT) is not None:
        value = {"assessor": person, "how": "typed", "wood_pct": pct, "maps": {}, "proposed": {}}
        glueups.add_events(conn, [piece.id], FACE_EVENT, w.stamp(), "", action_id, value)


def choose(
    w: AppContext, batch_id: int, code: str, loading: int, reason: str, person: str, key: str | None
) -> dict[str, Any]:
    """Say which loading of a piece counts, and why."""

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record = load(w, conn, batch_id, action_id)
        piece = find_piece(conn, record, code)
        if loading not in [o.loading for o in record.loadings.get(piece.id, ())]:
            raise refuse("loading", f"{piece.code} has no loading {loading}", "Choose one of those on record.")
        if not reason.strip():
            raise refuse("reason", "is empty", "Say why that one counts.")
        glueups.add_events(conn, [piece.id], "counts", w.stamp(), reason.strip(), action_id, {"loading": loading})
        return {"code": piece.code}

    act = Act("break", "counts", f"Loading {loading} of {code} counts", batch_id, person, reason, key=key,
              request=f"{code}{loading}{reason}")  # fmt: skip
    return w.perform(act, body)


def _standing(w: AppContext, batch_id: int, code: str) -> dict[str, Any] | None:
    with w.db.read() as conn:
        record = load(w, conn, batch_id)
        old = record.observed.get(find_piece(conn, record, code).id)
    if old is None:
        return None
    o = old.observation
    return {"kind": o.kind.value, "low_n": o.low_n, "high_n": o.high_n, "failure_mode": o.failure_mode}


def _plain(value: Any) -> Any:
    if isinstance(value, Details):
        return value.to_json()
    return iso(value) if isinstance(value, datetime) else value


def _patched(o: Observation, changes: Mapping[str, Any]) -> Observation:
    """The observation with these fields changed, its loads as its kind has them."""
    new = replace(o, **changes)
    match new.kind:
        case Kind.EXACT:
            return replace(new, high_n=new.low_n)
        case Kind.AT_LEAST | Kind.HELD | Kind.PROOF:
            return replace(new, high_n=None)
        case Kind.FELL_APART:
            return replace(new, low_n=0.0, high_n=0.0)
        case Kind.SEEN:
            return replace(new, low_n=None, high_n=None)
    return new
