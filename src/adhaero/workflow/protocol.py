"""The steps of a plan's protocol: what is said of them, for many pieces at once; and lists of steps kept by name."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from datetime import datetime, timedelta
from typing import Any

from adhaero.core.compare.data import counted
from adhaero.core.protocol import DONE, LATE, STATES, ProtocolStep
from adhaero.core.refusal import refuse
from adhaero.store import glueups, shop
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import Act, AppContext, iso
from adhaero.workflow.piece_finding import find_pieces
from adhaero.workflow.piece_records import piece_record
from adhaero.workflow.record_loading import load


@dataclass(frozen=True)
class StepView:
    """A step with the codes of the joints that are through with it, late, left out, or of which nothing is said."""

    step: ProtocolStep
    done: list[str]
    late: list[str]
    not_done: list[str]
    open: list[str]


@dataclass(frozen=True)
class ProtocolView:
    """The protocol of a batch, and the treatment of every joint (by code)."""

    steps: list[StepView]
    treatments: dict[str, str]


def view(w: AppContext, batch_id: int) -> ProtocolView:
    """The steps of a locked batch; a panel goes by its own code until it is glued."""
    with w.db.read() as conn:
        record = load(w, conn, batch_id)
    found = {s.id: StepView(s, [], [], [], []) for s in record.plan.protocol}
    treatments: dict[str, str] = {}
    for own in record.as_units(s for s in record.pieces if s.role != "solid" and not record.finished(s)):
        code, first = record.unit_code(own[0]), piece_record(record, own[0])
        treatments[code] = first.letter
        for m in first.protocol:
            v = found[m.step.id]
            {"done": v.done, "late": v.late, "not done": v.not_done}.get(m.state, v.open).append(code)
    return ProtocolView(list(found.values()), treatments)


def mark(
    w: AppContext, batch_id: int, step: str, codes: Sequence[str], state: str, at: datetime | None, person: str,
    key: str | None, note: str = "",
) -> dict[str, Any]:  # fmt: skip
    """Say of a step (by its id) whether it was done, on several joints at once, now or at a time stated; ``note`` says
    with what: the bottle and the mix of a coat.
    """
    if state not in STATES:
        raise refuse("state", f"{state[:20]!r} is no state of a step", "Use one of: " + ", ".join(STATES) + ".")
    when = at or w.now()
    if when > w.now() + timedelta(minutes=5):
        raise refuse("at", "that lies in the future", "Type when it was done.")
    words = " ".join(note.split())
    if len(words) > 200:
        raise refuse("note", "is longer than 200 characters", "Shorten it.")

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record = load(w, conn, batch_id, action_id)
        pieces = find_pieces(conn, record, codes)
        if not pieces:
            raise refuse("codes", "no joint is chosen", "Choose the joints that this is about.")
        for i, s in enumerate(pieces):
            if not any(m.step.id == step for m in piece_record(record, s).protocol):
                raise refuse(f"codes.{i}", f"{s.code} does not go through that step", "Leave it out.")
        value = {"step": step, "state": state}
        glueups.add_events(conn, [s.id for s in pieces], "step", iso(when), words, action_id, value)
        return {"pieces": len(pieces)}

    summary = f"Protocol: {STATES[state]}, {counted(len(codes), 'joint')}"
    act = Act("glue", "step", summary, batch_id, person, key=key, request=f"{step}{state}{list(codes)}{at}{words}")
    return w.perform(act, body)


def waits(record: BatchRecord) -> list[tuple[str, datetime, list[str]]]:
    """What joints that are not closed yet wait for: (step, when its wait is over, codes)."""
    found: dict[tuple[str, datetime], list[str]] = {}
    for own in record.as_units(s for s in record.pieces if s.role != "solid" and s.id not in record.members):
        first = own[0]
        if record.finished(first):
            continue
        for m in piece_record(record, first).protocol:
            if m.step.wait_s is not None and m.at is not None and m.state in (DONE, LATE):
                over = m.at + timedelta(seconds=m.step.wait_s)
                found.setdefault((m.step.text, over), []).append(record.unit_code(first))
    return [(text, over, codes) for (text, over), codes in found.items()]


def kept(w: AppContext) -> dict[str, list[ProtocolStep]]:
    """The lists of steps that the shop keeps, by name."""
    with w.db.read() as conn:
        return _kept(conn)


def _kept(conn: sqlite3.Connection) -> dict[str, list[ProtocolStep]]:
    stored = shop.settings(conn).get("protocols", {})
    return {name: [ProtocolStep(**{**s, "treatments": ()}) for s in steps] for name, steps in stored.items()}


def keep(w: AppContext, name: str, steps: Sequence[ProtocolStep], key: str | None) -> dict[str, Any]:
    """Keep steps under a name, to take them into other plans; an older list of that name gives way."""
    clean = " ".join(name.split())
    if not 1 <= len(clean) <= 60:
        raise refuse("name", "the steps have no name, or a long one", "Name them: primed epoxy, wiped teak.")

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        # For whom a step is, and its id, belong to one plan.
        own = [asdict(ProtocolStep(s.text, (), s.wait_s, s.within_s)) for s in steps]
        others = {k: [asdict(s) for s in v] for k, v in _kept(conn).items()}
        shop.save_settings(conn, {"protocols": {**others, clean: own}}, action_id)
        return {"pieces": len(own)}

    return w.perform(Act("shop", "protocol", f"Kept the steps {clean}", key=key, request=f"{clean}{steps}"), body)


def missing(record: BatchRecord) -> list[str]:
    """Of every step: of how many glued joints nothing is said."""
    without: dict[str, int] = {}
    for s in record.counting:
        p = piece_record(record, s)
        for m in p.protocol if p.gluing is not None else ():
            if not m.state:
                without[m.step.text] = without.get(m.step.text, 0) + 1
    return [f"{text}: of {counted(n, 'joint')} nobody said whether it was done" for text, n in without.items()]
