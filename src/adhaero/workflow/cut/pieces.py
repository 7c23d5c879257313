"""One piece in full: its adherends, what was done to their faces, what is wrong with the wood, and its history."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from adhaero.core.refusal import Problems, Refusal, refuse
from adhaero.store import adherends, glueups
from adhaero.store.adherends import Adherend, Step
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import Act, AppContext, iso, moment
from adhaero.workflow.cut.boards import known_of_wood
from adhaero.workflow.glue.air import stays
from adhaero.workflow.own_properties import boards_of
from adhaero.workflow.piece_finding import find_piece, find_pieces
from adhaero.workflow.piece_records import flags
from adhaero.workflow.record_loading import load

MACHINED = ("planed", "jointed", "sawn", "sanded", "scraped")


@dataclass(frozen=True)
class Defect:
    """A fault of a member: where, what, and whether it was found before the test or after."""

    side: str
    text: str
    found: str
    at: str


@dataclass(frozen=True)
class PieceView:
    """A piece in full. ``since_machining_h`` is the time from the last machining to gluing, by side.

    ``coarsest`` is the coarsest grit named; ``pair`` the two halves as they were glued, ``stood`` where
    it stood with what the air was like meanwhile; ``flags`` what is worth minding about it; ``board`` is
    the one it comes from, with what is known of its wood.
    """

    code: str
    treatment: str
    label: str
    parent: str
    board: str
    adherends: list[Adherend]
    steps: list[Step]
    coarsest: int | None
    since_machining_h: dict[str, float]
    defects: list[Defect]
    pair: list[str]
    swapped: str
    stood: list[tuple[str, str]]
    flags: list[str]


def view(w: AppContext, batch_id: int, code: str) -> PieceView:
    """The piece with that code."""
    with w.db.read() as conn:
        record = load(w, conn, batch_id)
        s = find_piece(conn, record, code)
        steps, own = adherends.steps(conn, s.id), glueups.events(conn, batch_id, {s.id})
        sides = adherends.adherends(conn, s.id)
        home = boards_of(conn, record).get(s.code)
        board = ", ".join(x for x in (home.label, known_of_wood(home)) if x) if home else ""
        stood = [(place, found.in_words() or "nothing was read") for place, found in stays(conn, record, s, w.now())]
    glued = record.pressed_at(s) if record.members.get(s.id) else None
    swap = next((e for e in reversed(own) if e.kind == "swapped"), None)
    made_alone = s.role == "joint" and s.parent_id is None
    halves = [f"{s.code}-{a.side}" for a in sides] if made_alone else [s.code]
    t = record.treatments[s.treatment_id]
    return PieceView(
        code=s.code,
        treatment=t.letter,
        label=t.label,
        parent=record.home_in_words(s),
        board=board,
        adherends=sides,
        steps=steps,
        coarsest=min((x.grit for x in steps if x.grit), default=None),
        since_machining_h=_since_machining(steps, glued) if glued else {},
        defects=[Defect(e.value["side"], e.note, e.value["found"], e.at) for e in own if e.kind == "defect"],
        pair=list(swap.value["pair"]) or halves if swap else halves,
        swapped=swap.note if swap else "",
        stood=stood,
        flags=[f.text for f in flags(record, s)],
    )


def _since_machining(steps: Sequence[Step], glued_at: datetime) -> dict[str, float]:
    last: dict[str, datetime] = {}
    for step in steps:
        if step.at and any(word in step.step.lower() for word in MACHINED):
            last[step.side] = moment(step.at)
    return {side: (glued_at - at).total_seconds() / 3600 for side, at in last.items()}


def note_defect(
    w: AppContext, batch_id: int, code: str, side: str, text: str, person: str, key: str | None
) -> dict[str, Any]:
    """Write down a fault of a member. Whether it was found before or after the test follows from the record."""
    words = " ".join(text.split())

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record = load(w, conn, batch_id, action_id)
        piece = find_piece(conn, record, code)
        p = Problems()
        p.check(side in {a.side for a in adherends.adherends(conn, piece.id)}, "side", "is no adherend of this piece",
                "Choose one of its halves.")  # fmt: skip
        p.check(2 <= len(words) <= 300, "text", "the fault is not described", "Say what it is and where.")
        p.raise_if_any()
        value = {"side": side, "found": "after the test" if piece.id in record.observed else "before the test"}
        glueups.add_events(conn, [piece.id], "defect", w.stamp(), words, action_id, value)
        return {"pieces": 1}

    act = Act(
        "cut", "defect", f"Noted a fault of {code}-{side}", batch_id, person, key=key, request=f"{code}{side}{words}"
    )
    return w.perform(act, body)


def write_steps(
    w: AppContext, batch_id: int, codes: Sequence[str], steps: Sequence[Step], person: str, key: str | None
) -> dict[str, Any]:
    """Write what was done to the faces, in order, for several pieces at once (both sides, or the one named)."""

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record = load(w, conn, batch_id, action_id)
        pieces = find_pieces(conn, record, codes)
        p = Problems()
        p.check(bool(pieces), "codes", "no piece is chosen", "Choose the pieces that this was done to.")
        p.check(bool(steps), "steps", "there is no step", "Write the first one down.")
        for i, s in enumerate(steps):
            at = f"steps.{i}"
            p.check(2 <= len(s.step.strip()) <= 120, f"{at}.step", "has no words", "Say what was done.")
            p.check(s.side in ("a", "b"), f"{at}.side", "is neither a nor b", "Choose a half.")
            p.check(s.grit is None or 12 <= s.grit <= 5000, f"{at}.grit", "is no grit", "Type 12 to 5000.")
            p.check(s.wait_s is None or 0 <= s.wait_s <= 1e8, f"{at}.wait_s", "is no wait", "Check the unit.")
            p.check(
                s.amount_g_m2 is None or 0 <= s.amount_g_m2 <= 5000, f"{at}.amount_g_m2", "is no amount", "Check it."
            )
        p.raise_if_any()
        listed = [
            Step(s.side, i, s.step.strip(), s.grit, s.amount_g_m2, s.dilution, s.wait_s, _stored(s.at))
            for i, s in enumerate(steps, 1)
        ]
        adherends.add_steps(conn, [s.id for s in pieces], listed, action_id)
        return {"pieces": len(pieces)}

    request = f"{list(codes)}{list(steps)}"
    act = Act(
        "cut", "surface", f"Prepared the faces of {len(codes)} pieces", batch_id, person, key=key, request=request
    )
    return w.perform(act, body)


def _stored(at: str | None) -> str | None:
    try:
        return iso(moment(at)) if at else None
    except ValueError as error:
        raise refuse("at", f"{(at or '')[:40]!r} is not a time", "Write it as 2026-11-23T16:50:00Z.") from error


@dataclass(frozen=True)
class Pairing:
    """Whether two halves belong together, in words where they do not."""

    right: bool
    text: str


def check_pair(w: AppContext, batch_id: int, first: str, second: str) -> Pairing:
    """Whether two labels, typed or scanned, are the halves of one piece."""
    with w.db.read() as conn:
        record = load(w, conn, batch_id)
        a, b = _half(conn, record, first, "first"), _half(conn, record, second, "second")
    if a[0] != b[0]:
        return Pairing(False, f"{a[0]}-{a[1]} and {b[0]}-{b[1]} belong to two pieces.")
    if a[1] == b[1]:
        return Pairing(False, f"Both are the half {a[1]} of {a[0]}: read the labels again.")
    return Pairing(True, f"{a[0]} is whole.")


def note_swap(w: AppContext, batch_id: int, first: str, second: str, person: str, key: str | None) -> dict[str, Any]:
    """Two halves that do not belong together were glued all the same: both pieces are others now."""

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record = load(w, conn, batch_id, action_id)
        a, b = _half(conn, record, first, "first"), _half(conn, record, second, "second")
        if a[0] == b[0]:
            raise refuse("second", f"both belong to {a[0]}", "Nothing is swapped.")
        # Both pieces are others now: what faces the one half of the first leaves the other half of the second.
        other = {"a": "b", "b": "a"}
        rest = (a[0], other[a[1]]), (b[0], other[b[1]])
        for (piece, _), (with_piece, _), halves in ((a, b, (a, b)), (b, a, rest)):
            pair = [f"{code}-{side}" for code, side in halves]
            own, what = [s.id for s in record.of_code(piece)], f"{pair[0]} faces {pair[1]}"
            value = {"pair": pair, "with": with_piece}
            glueups.add_events(conn, own, "swapped", w.stamp(), what, action_id, value)
        return {"pieces": 2}

    act = Act("glue", "swap", f"{first} faces {second}", batch_id, person, key=key, request=f"{first} {second}")
    return w.perform(act, body)


def _half(conn: sqlite3.Connection, record: BatchRecord, text: str, field: str) -> tuple[str, str]:
    code, _, side = text.strip().lower().rpartition("-")
    if side not in ("a", "b") or not code:
        raise refuse(field, f"{text[:20]!r} names no half", "Type or scan the label: the code, a dash, a or b.")
    if any(p.code == code.upper() for p in record.parents.values()):
        return code.upper(), side
    try:
        return find_piece(conn, record, code, field).code, side
    except Refusal as refusal:
        raise refuse(field, refusal.problems[0].message, refusal.problems[0].remedy) from refusal
