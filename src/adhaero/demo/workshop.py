"""A small workshop in a snowy valley that builds sleds and kick-sledges. Everything here is invented.

Loaded through the same functions that the screens use, with a clock that is moved along, so that the demo data obey
every rule. Dates are relative to the day it is loaded: home always has something to show.
"""

from __future__ import annotations

import random
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Any

from adhaero.core.breaking.curve_file import Columns
from adhaero.core.breaking.instrument import Instrument
from adhaero.core.cut.layout import Rect, Saw
from adhaero.core.glue.schedule.compose import BLOCKS
from adhaero.core.observation import Kind, Observation
from adhaero.core.plan.document import Extra, Factor, Level, Plan, first_plan
from adhaero.core.plan.treatments import treatments
from adhaero.rig import strength_model
from adhaero.rig.behaviour import behaviour
from adhaero.rig.strength_model import Fate
from adhaero.store.boards import StoredBoard
from adhaero.store.bottles import Bottle
from adhaero.store.clamps import StoredClamp
from adhaero.workflow import rigs, shop
from adhaero.workflow.breaking import checklist, curve_import, faces, observing, pulling, queue
from adhaero.workflow.breaking.faces import Judged
from adhaero.workflow.context import AppContext
from adhaero.workflow.cut import boards, cutting
from adhaero.workflow.cut.cutting import Typed
from adhaero.workflow.glue import after, glueup_entry, gluing, scheduling, working_hours
from adhaero.workflow.glue.glueup_entry import NewGlueup
from adhaero.workflow.plan import planning

SEED = 20417
PERSON, OTHER = "Second maker", "First maker"
REVISION = 8
"""Counts up when the demo workshop changes, so that scratch data of an older one are made anew."""
H, DAY = 3600.0, 86400.0


@dataclass
class Clock:
    """A clock that stands until it is moved."""

    at: datetime

    def __call__(self) -> datetime:
        return self.at


def _levels(*values: str | float, unit: str = "") -> tuple[Level, ...]:
    return tuple(Level(v, unit) for v in values)


def _plan(question: str, guess: str, *factors: Factor, **changes: Any) -> Plan:
    base = first_plan()
    constants = {**base.constants, "glue": Level("pva-damp"), **changes.pop("constants", {})}
    constants = {k: v for k, v in constants.items() if k not in {f.key for f in factors}}
    return replace(base, question=question, guess=guess, factors=factors, constants=constants, **changes)


LAMINATIONS = _plan(
    "Which glue family holds runner laminations best?",
    "Epoxy first, foaming polyurethane last.",
    Factor("glue", "Glue", _levels("pva-damp", "polyurethane", "epoxy-slow", "urea-resin")),
    constants={"cure_s": Level(5 * DAY, "d")},
    control={"glue": "l1"},
)
STRIPPING = _plan(
    "How early can the bending form be stripped?",
    "Two hours are enough.",
    Factor("clamp_s", "Clamp time", _levels(0.5 * H, 1 * H, 2 * H, 4 * H, 8 * H, unit="h")),
    constants={"cure_s": Level(3 * DAY, "d"), "species": Level("birch")},
    replicates=5,
    control={"clamp_s": "l5"},
)
BRIDLE = _plan(
    "How much does a loose bridle joint cost?",
    "A playing card's width costs a third.",
    Factor("gap", "Gap", _levels(0.0, 0.1, 0.3, 0.6, unit="mm")),
    constants={"species": Level("elm"), "clamp_s": Level(20 * H, "h")},
    control={"gap": "l1"},
)
ROBINIA = _plan(
    "Does oily robinia need a solvent wipe?",
    "",
    Factor("prep", "Surface prep", _levels("planed", "oily", "solvent-wiped")),
    Factor("conditioning", "Conditioning", _levels("dry", "wet-cold-3wk")),
    constants={"species": Level("robinia")},
    control={"prep": "l1", "conditioning": "l1"},
    extras=(Extra("Unglued, pressed dry", {"glue": Level(None)}, 3, "untreated"),),
)
AGEING = _plan(
    "How do last winter's pieces age in the store?",
    "No loss within two years.",
    Factor("cure_s", "Cure time", _levels(7 * DAY, 90 * DAY, 180 * DAY, 365 * DAY, 730 * DAY, unit="d")),
    constants={"species": Level("larch"), "glue": Level("pva-wet")},
    control={"cure_s": "l1"},
)


_BOARDS: tuple[tuple[Any, ...], ...] = (
    ("Ash 11", "ash", 620, 118, 44, ((212, 30, 36, 28),)),
    ("Ash 12", "ash", 540, 126, 44, ()),
    ("Ash 14", "ash", 700, 104, 46, ((0, 82, 180, 22), (455, 12, 30, 24))),
    ("Larch 3", "larch", 980, 140, 45, ((610, 60, 44, 40),)),
    ("Elm 2", "elm", 900, 160, 46, ((120, 0, 260, 26),)),
    ("Birch 5", "birch", 760, 110, 44, ()),
    ("Robinia 1", "robinia", 640, 96, 44, ((300, 20, 60, 30),)),
)
"""Label, species, length, width, thickness, and defects as (x, y, length, width); mm."""


_LABELS = {
    "Bottle 4": {"open_s": 420.0, "clamp_s": 3600.0, "pressure_low_mpa": 0.5, "pressure_high_mpa": 1.2, "least_c": 8.0},
    "Kit 2": {"open_s": 2700.0, "pot_s": 2400.0, "least_c": 12.0},
}
"""What the labels of some bottles state."""


class _Story:
    """Moves one batch along."""

    def __init__(self, w: AppContext, clock: Clock, name: str, plan: Plan, seed: int) -> None:
        self.w, self.clock, self.rng = w, clock, random.Random(seed)
        self.batch_id = int(planning.create(w, name)["id"])
        planning.save_draft(w, self.batch_id, 1, name, plan.to_json(), None)

    def lock(self) -> None:
        planning.lock(self.w, self.batch_id, planning.view(self.w, self.batch_id).version, PERSON, None)

    def cut(self) -> None:
        """Lay the blanks out on the boards of the shop."""
        boards.lay_out(self.w, self.batch_id, Saw(), None, "all", PERSON, None)

    def measure(self, count: int | None = None) -> None:
        """Measure pieces as a caliper would: a tenth or two off the nominal."""
        rows = cutting.view(self.w, self.batch_id)
        cells = [
            Typed(r.code, q, f"{r.nominal[q] + self.rng.gauss(0, 0.12):.1f}")
            for r in rows.rows[:count]
            for q in ("width", "overlap")
        ]
        cutting.measure(self.w, self.batch_id, cells, PERSON, None)

    def glue(self, codes: list[str], bottle: str, air_c: float, humidity: float) -> None:
        new = NewGlueup(codes, PERSON, None, air_c, humidity, bottle, 400.0, 1, "estimated", None, "one", "")
        glueup_entry.add_glueup(self.w, self.batch_id, new, None)

    def joints(self) -> list[str]:
        return [p.code for p in gluing.view(self.w, self.batch_id).pieces]

    def unclamp(self, codes: list[str]) -> None:
        after.unclamp(self.w, self.batch_id, codes, None, "", PERSON, None)

    def tell(self, codes: list[str], kind: str, **value: float | str) -> None:
        after.tell_of(self.w, self.batch_id, after.JointRecord(kind, tuple(codes), value), None, PERSON, None)

    def break_next(self, note: str = "", kind: Kind = Kind.EXACT) -> None:
        code = queue.view(self.w, self.batch_id).next
        assert code is not None
        self.break_piece(code, note, kind)

    def pull(self, code: str) -> None:
        """Break a piece at a rig that left its curve in a file."""
        self.clock.at += timedelta(minutes=4)
        f = strength_model.draw(pulling.piece_for_stand_in(self.w, self.batch_id, code), self.rng)
        self._look_over()
        curve_import.take(self.w, code, _curve(f, self.rng), Columns(1, 2, 3), PERSON, None)
        made = queue.view(self.w, self.batch_id).loose[0].pull.id
        o = Observation(Kind.EXACT, failure_mode=f.failure_mode, wood_failure_pct=f.wood_failure_pct)
        observing.observe(
            self.w, self.batch_id, code, o, pull_id=made, source="rig", person=PERSON, key=None,
            confirmed=(observing.EARLY,),
        )  # fmt: skip

    def _look_over(self) -> None:
        left = [p.key for p in queue.view(self.w, self.batch_id).checklist if not p.ticked]
        if left:
            checklist.tick(self.w, self.batch_id, left, PERSON, None)

    def break_piece(self, code: str, note: str = "", kind: Kind = Kind.EXACT) -> None:
        f = strength_model.draw(pulling.piece_for_stand_in(self.w, self.batch_id, code), self.rng)
        load = round(f.load_n)
        o = Observation(kind, load, load, failure_mode=f.failure_mode, wood_failure_pct=f.wood_failure_pct, note=note)
        if kind is Kind.VOID:
            o = Observation(kind, reason=note)
        elif kind is Kind.AT_LEAST:
            o = Observation(kind, 0.9 * load, None, note=note)
        elif kind is Kind.BETWEEN:
            step = 250
            o = replace(o, low_n=load // step * step, high_n=load // step * step + step, note=note)
        self.clock.at += timedelta(minutes=4)
        self._look_over()
        observing.observe(
            self.w,
            self.batch_id,
            code,
            o,
            pull_id=None,
            source="typed",
            person=PERSON,
            key=None,
            confirmed=(observing.EARLY,),
        )


def _curve(f: Fate, rng: random.Random) -> str:
    """The curve of a pull as a logger's file has it: two seconds of quiet, 40 to 70 s to the peak, the end."""
    b, seconds, rows = behaviour(f), rng.uniform(40, 70), ["time [s],load [N],travel [mm]"]
    for n in range(int(10 * (2 + seconds * b.end + 1))):
        x = (n / 10 - 2) / seconds
        load = max(0.0, f.load_n * b.share(x) + rng.gauss(0, 2.0))
        rows.append(f"{n / 10:.1f},{load:.1f},{max(0.0, min(x, b.end)) * b.travel_mm:.3f}")
    return "\n".join(rows)


def load(w: AppContext, clock: Clock, rig_port: str) -> None:
    """Fill an empty workshop. ``clock`` is the workshop's clock; it is back at its time when this returns."""
    now = clock.at
    morning = now.replace(hour=8, minute=30, second=0, microsecond=0)
    clock.at = morning - timedelta(days=210)
    shop.save_settings(w, None, PERSON, currency="€")
    today = now.date()
    for label, family, opened, price, pack_g in (
        ("Bottle 4", "pva-damp", 40, 11.0, 750.0), ("Bottle 7", "pva-wet", 220, 16.0, 500.0),
        ("Bottle 9", "polyurethane", 60, 14.0, 300.0), ("Kit 2", "epoxy-slow", 100, 39.0, 800.0),
        ("Tin 1", "urea-resin", 75, 21.0, 1000.0),
    ):  # fmt: skip
        day = (today - timedelta(days=opened)).isoformat()
        end = (today - timedelta(days=opened - 300)).isoformat()
        shop.add_bottle(w, Bottle(0, label, family, "", day, end, "", _LABELS.get(label, {}), price, pack_g), None)
    rigs.use(w, rigs.set_up("Bench press", "Shear fixture 2", Instrument(), capacity=20_000.0, step=1.0), rig_port)
    for label, species, length, width, thick, defects in _BOARDS:
        marked = tuple(Rect(*d) for d in defects)
        board = StoredBoard(0, label, species, length, width, thick, marked, moisture_pct=9.5)
        boards.add_board(w, board, None)
    for clamps in (
        StoredClamp(0, "Bar clamps", "bar", 6, 4000.0, known_by="gauge", caul_mm=30.0),
        StoredClamp(0, "Screw clamps", "screw", 4, 2500.0, known_by="turns"),
        StoredClamp(0, "Cast weights", "weight", 2, 240.0, known_by="weight"),
    ):
        working_hours.add_clamps(w, clamps, None)
    _ageing(w, clock)
    clock.at = morning - timedelta(days=20)
    _one_frost(w, clock)
    clock.at = morning - timedelta(days=12)
    _laminations(w, clock)
    clock.at = morning - timedelta(days=4)
    _stripping(w, clock)
    clock.at = now - timedelta(hours=26)
    _bridle(w, clock, now)
    clock.at = now - timedelta(hours=1)
    _Story(w, clock, "Oily robinia: wipe or not", ROBINIA, SEED + 4)
    clock.at = now


def _one_frost(w: AppContext, clock: Clock) -> None:
    """Bottle 9 was left in the van overnight."""
    number = next(b.bottle.id for b in shop.view(w).bottles if b.bottle.label == "Bottle 9")
    at = clock.at
    for kind, note, hours in (("frozen", "", -26), ("thawed", "", -14), ("looks", "a little thick", -13)):
        shop.tell_of_bottle(w, number, kind, at + timedelta(hours=hours), note, None)


def _ageing(w: AppContext, clock: Clock) -> None:
    start = clock.at
    s = _Story(w, clock, "Last winter's pieces", AGEING, SEED)
    s.lock()
    s.cut()
    s.measure()
    clock.at = start + timedelta(hours=3)
    s.glue(s.joints(), "Bottle 7", 17, 48)
    clock.at += timedelta(hours=4)
    s.unclamp(s.joints())
    rows = queue.view(w, s.batch_id).rows
    for days, letters in ((7, "AF"), (90, "B")):
        clock.at = start + timedelta(days=days, hours=5)
        for r in rows:
            if r.treatment in letters:
                s.pull(r.code)
    _looked_at(s)


def _looked_at(s: _Story) -> None:
    """Some faces were judged again by another pair of eyes, one of them on a map."""
    broken = [r for r in queue.view(s.w, s.batch_id).rows if r.kind is not None and r.role == "joint"]
    for n, r in enumerate(broken[:4]):
        pct = 5 * round((r.wood_failure_pct or 0.0) / 5)
        if n == 0:
            torn = round(96 * pct / 100)
            cells = "".join("w" if (7 * i) % 96 < torn else "g" for i in range(96))
            faces.judge(s.w, s.batch_id, r.code, Judged("map", maps={"A": (12, 8, cells)}), OTHER, None)
        else:
            near = min((0, 25, 50, 75, 100), key=lambda step: abs(step - pct))
            faces.judge(s.w, s.batch_id, r.code, Judged("steps", near), OTHER, None)


def _laminations(w: AppContext, clock: Clock) -> None:
    start = clock.at
    s = _Story(w, clock, "Runner laminations", LAMINATIONS, SEED + 103)
    s.lock()
    s.cut()
    s.measure()
    pieces = gluing.view(w, s.batch_id).pieces
    for i, (family, bottle) in enumerate(
        (("pva-damp", "Bottle 4"), ("polyurethane", "Bottle 9"), ("epoxy-slow", "Kit 2"), ("urea-resin", "Tin 1"))
    ):
        clock.at = start + timedelta(hours=2, minutes=40 * i)
        s.glue([p.code for p in pieces if p.glue == family], bottle, 18.5, 52)
        clock.at += timedelta(hours=4)
        s.unclamp([p.code for p in pieces if p.glue == family])
    clock.at = start + timedelta(days=5, hours=4)
    s.break_next("seated crooked, slipped at 900 N", Kind.VOID)
    while queue.view(w, s.batch_id).next:
        s.break_next()


def _stripping(w: AppContext, clock: Clock) -> None:
    start = clock.at
    s = _Story(w, clock, "When to strip the form", STRIPPING, SEED + 2)
    s.lock()
    s.cut()
    s.measure()
    pieces = gluing.view(w, s.batch_id).pieces
    closed = start + timedelta(hours=1)
    clock.at = closed
    s.glue([p.code for p in pieces], "Bottle 4", 16, 55)
    planned = {t.letter: t.record["clamp_s"].value for t in treatments(STRIPPING) if t.role == "joint"}
    for letter, clamp_s in planned.items():
        clock.at = closed + timedelta(seconds=float(str(clamp_s)))
        s.unclamp([p.code for p in pieces if p.treatment == letter])
    clock.at = closed + timedelta(days=3, hours=1)
    for i in range(15):
        kind = {4: Kind.AT_LEAST, 9: Kind.BETWEEN}.get(i, Kind.EXACT)
        note = {4: "stopped: fixture pin bent", 9: "with weights, steps of 250 N"}.get(i, "")
        s.break_next(note, kind)


def _bridle(w: AppContext, clock: Clock, now: datetime) -> None:
    s = _Story(w, clock, "Loose bridle joints", BRIDLE, SEED + 3)
    s.lock()
    s.cut()
    s.measure(20)
    codes = s.joints()
    clock.at = now - timedelta(hours=25)
    s.glue(codes[:8], "Bottle 4", 15, 58)
    clock.at = now - timedelta(hours=19, minutes=18)
    s.glue(codes[8:16], "Bottle 4", 16, 57)
    clock.at = now - timedelta(hours=3)
    s.unclamp(codes[:6])
    s.tell(codes[:5], "squeeze-out", how="chiselled")
    s.tell(codes[5:6], "shift", along_mm=1.5)
    clock.at = now - timedelta(minutes=10)
    scheduling.make(w, s.batch_id, BLOCKS, None, PERSON, None, seek=False)
