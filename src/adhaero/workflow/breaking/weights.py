"""Weights hung on a piece one after another: the rack of the shop, what hangs now, and how it ended."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from adhaero.core.breaking import rack as racks
from adhaero.core.breaking.instrument import Instrument
from adhaero.core.breaking.rack import NEWTONS_PER_G, Rack, Step, hanging
from adhaero.core.observation import Observation
from adhaero.core.plan.forecast import expected
from adhaero.core.quantity import Dimension, parse
from adhaero.core.refusal import Refusal, refuse
from adhaero.store import glueups, rigs
from adhaero.store.specimens import Specimen
from adhaero.workflow import history
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.breaking.rack_of_shop import rack
from adhaero.workflow.context import Act, AppContext, iso, moment
from adhaero.workflow.piece_finding import find_piece
from adhaero.workflow.record_loading import load

WEIGHT = "weight"


@dataclass(frozen=True)
class Hung:
    """A weight hung (positive) or taken off (negative), g, and the total then."""

    mass_g: int
    total_g: int
    at: str


@dataclass(frozen=True)
class Total:
    """A total on the rack: its mass, and the load on the piece."""

    mass_g: int
    load_n: float


@dataclass(frozen=True)
class WeightsView:
    """A piece on the rack: ``now`` hangs, ``borne`` was borne for sure, ``next`` can be reached with what is left.

    ``expected_n`` is what the forecast has for the piece, up to the highest of nine in ten; ``short`` says what the
    rack cannot do about it, beforehand.
    """

    code: str
    rack: Rack
    steps: list[Hung]
    now: Total
    borne: Total
    next: list[Total]
    largest: Total
    left: list[tuple[int, int]]
    since: str | None
    runs_out: bool
    expected_n: tuple[float, float] | None
    short: str


def view(w: AppContext, batch_id: int, code: str) -> WeightsView:
    """What hangs on a piece, and what can come next."""
    with w.db.read() as conn:
        record = load(w, conn, batch_id)
        piece = find_piece(conn, record, code)
        own, used = rack(conn), rigs.in_use(conn)
        known = history.of_own_pieces(w, conn, besides=batch_id)
    steps = steps_of(record, piece)
    h = hanging(own, steps)
    per_g, tare_n = on_piece(used.set_up.instrument if used else Instrument())

    def total(mass_g: int) -> Total:
        return Total(mass_g, mass_g * per_g + tare_n if mass_g else 0.0)

    treatment = record.planned.get(record.treatments[piece.treatment_id].letter)
    found = expected(record.plan, treatment, known, None) if treatment else None
    largest = total(h.largest_g)
    return WeightsView(
        code=piece.code,
        rack=own,
        steps=[Hung(s.mass_g, hanging(own, steps[: i + 1]).total_g, iso(s.at)) for i, s in enumerate(steps)],
        now=total(h.total_g),
        borne=total(h.borne_g),
        next=[total(m) for m in h.next_g],
        largest=largest,
        left=list(h.left),
        since=iso(h.since) if h.since else None,
        runs_out=h.runs_out,
        expected_n=(found.load_n, found.high_n) if found else None,
        short=_short(record, own, largest, total(own.vessel_g), found.load_n if found else None),
    )


def _short(record: BatchRecord, own: Rack, largest: Total, vessel: Total, expected_n: float | None) -> str:
    """What the rack cannot do about a piece, said before the first weight hangs."""
    if expected_n is None or not (own.weights or own.vessel_g):
        return ""
    said, most = [], max(largest.load_n, vessel.load_n)
    if own.weights and largest.load_n < expected_n:
        said.append(f"everything together is {largest.mass_g / 1000:g} kg")
    if own.vessel_g and vessel.load_n < expected_n:
        said.append(f"the vessel holds {own.vessel_g / 1000:g} kg")
    if not said or most >= expected_n:
        return ""
    return f"{' and '.join(said)[:1].upper()}{' and '.join(said)[1:]}: less than this piece is expected to bear."


def on_piece(i: Instrument) -> tuple[float, float]:
    """Newtons on the piece for one gram hung, and what is on it anyhow: by the lever and the tare of the set-up."""
    return NEWTONS_PER_G * i.lever, i.carried_n


def steps_of(record: BatchRecord, piece: Specimen) -> list[Step]:
    """The weights of the loading that goes on: those since its last reading."""
    now = record.next_loading(piece)
    return [
        Step(int(e.value["mass_g"]), moment(e.at))
        for e in record.joint_records.get(piece.id, ())
        if e.kind == WEIGHT and e.value.get("loading") == now
    ]


def hang(w: AppContext, batch_id: int, code: str, mass_g: int, person: str, key: str | None) -> dict[str, Any]:
    """Hang a weight of so many grams on a piece, or take one off (negative)."""

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record = load(w, conn, batch_id, action_id)
        piece = find_piece(conn, record, code)
        if piece.id in record.not_run or record.came_apart(piece):
            raise refuse("code", f"{piece.code} is done with", "Take the next piece.")
        racks.check_step(rack(conn), steps_of(record, piece), mass_g)
        value = {"mass_g": mass_g, "loading": record.next_loading(piece)}
        glueups.add_events(conn, [piece.id], WEIGHT, w.stamp(), "", action_id, value)
        return {"code": piece.code}

    said = f"Hung {mass_g / 1000:g} kg on {code}" if mass_g > 0 else f"Took {-mass_g / 1000:g} kg off {code}"
    return w.perform(Act("break", "weight", said, batch_id, person, key=key, request=f"{code}{mass_g}"), body)


def weighed(
    conn: sqlite3.Connection, record: BatchRecord, piece: Specimen, o: Observation, how: str, at: datetime, gross: str
) -> Observation:
    """What is observed of a piece when its hanging ended in this way (a key of ``rack.ENDS``); ``gross`` is what a
    vessel weighed, as typed.
    """
    used = rigs.in_use(conn)
    steps: Sequence[Step] = steps_of(record, piece)
    per_g, tare_n = on_piece(used.set_up.instrument if used else Instrument())
    weighed_g = _mass(gross, record) if how == "filled" else None
    end = racks.ended(hanging(rack(conn), steps), how, at, per_g, tare_n, weighed_g)
    return replace(o, kind=end.kind, low_n=end.low_n, high_n=end.high_n, held_s=end.held_s)


def _mass(text: str, record: BatchRecord) -> float:
    pounds = record.units.symbol(Dimension.FORCE) == "lbf"
    try:
        return parse(text, Dimension.MASS, "lb" if pounds else "kg").base
    except Refusal as refusal:
        raise refuse("low", refusal.problems[0].message, refusal.problems[0].remedy) from refusal
