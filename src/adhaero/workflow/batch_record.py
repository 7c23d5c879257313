"""Everything that stands about the pieces of a batch, loaded once for a stage to work with."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterable, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from functools import cached_property
from typing import Any, TypeVar

from adhaero.core.breaking.proposal import Proposal
from adhaero.core.breaking.trace import Course, course_from_json
from adhaero.core.glue import joint_records
from adhaero.core.glue.clamping import pressure_mpa
from adhaero.core.glue.exposure import Path, path_of
from adhaero.core.glue.limits import Label
from adhaero.core.glue.pressing import CLAMPLESS
from adhaero.core.joint_forms import Form
from adhaero.core.method import Method
from adhaero.core.parents import KINDS, line_sizes
from adhaero.core.piece_standing import stands
from adhaero.core.plan.blocks import AT_GLUING
from adhaero.core.plan.blocks import KINDS as KINDS_OF_BLOCKS
from adhaero.core.plan.comparisons import Family, families
from adhaero.core.plan.design import COUNTS, TRIAL
from adhaero.core.plan.document import Level, Plan, level_name
from adhaero.core.plan.records import OF_A_GLUEUP, SOLID_GRAIN, clamps_until_broken, sizes_of, whole_factors
from adhaero.core.plan.treatments import Treatment, treatments
from adhaero.core.units import Units
from adhaero.store import batches
from adhaero.store.bottles import Bottle, StoredEvent
from adhaero.store.glueups import Event, Glueup, Member, Mix
from adhaero.store.observations import Observed
from adhaero.store.parents import Parent
from adhaero.store.rigs import SetUp
from adhaero.store.specimens import Measured, Specimen, StoredTreatment
from adhaero.workflow.context import moment

MARKS_EVENT = "marks"
"""That marks of a curve were put elsewhere."""
CALIPER_MM = 0.05
"""Uncertainty of one size read with a caliper on wood: half of the last tenth."""
T = TypeVar("T")


@dataclass(frozen=True)
class Part:
    """What a piece was made into after the lock: ``part``, its new place in the order, the code it stands for."""

    part: str
    place: int | None = None
    instead_of: str = ""
    reason: str = ""


@dataclass(frozen=True)
class BatchRecord:
    """The pieces of a locked batch and what stands about them, by specimen id."""

    batch: batches.Batch
    plan: Plan
    method: Method
    treatments: dict[int, StoredTreatment]
    pieces: list[Specimen]
    parents: dict[int, Parent]
    measured: dict[int, dict[str, Measured]]
    glueups: dict[int, Glueup]
    members: dict[int, Member]
    unclamped: dict[int, Event]
    observed: dict[int, Observed]
    loadings: dict[int, tuple[Observed, ...]]
    parts: dict[int, Part]
    closed: dict[int, Event]
    conditioned: dict[tuple[int, str], Event]
    amended: dict[int, dict[str, Level]]
    joint_records: dict[int, list[Event]]
    mixes: dict[int, Mix]
    not_run: dict[int, str]
    shown: dict[int, Proposal]
    bottles: dict[str, tuple[Bottle, tuple[StoredEvent, ...]]]
    set_ups: dict[int, SetUp]
    units: Units
    rows: dict[str, dict[int, tuple[Hashable, Any]]] = field(default_factory=dict, compare=False, repr=False)
    derived: dict[str, Any] = field(default_factory=dict, compare=False, repr=False)
    """What is worked out once of the whole record."""

    def part(self, piece: Specimen) -> str:
        """What a piece is for now: counts, spare, dummy or trial."""
        changed = self.parts.get(piece.id)
        return changed.part if changed else piece.part

    def place(self, piece: Specimen) -> int:
        """The piece's place in the order to break: a spare that was taken has that of the piece it stands for."""
        changed = self.parts.get(piece.id)
        return changed.place if changed and changed.place is not None else piece.break_order

    @cached_property
    def planned(self) -> dict[str, Treatment]:
        """The treatments of the plan as it stands, by letter."""
        return {t.letter: t for t in treatments(self.plan)}

    @cached_property
    def compared(self) -> list[Family]:
        """What the plan as it stands compares."""
        return families(self.plan, list(self.planned.values()))

    @cached_property
    def counting(self) -> list[Specimen]:
        """The pieces that results rest on: no spares, dummies or trials, and none that was left out."""
        return [s for s in self.pieces if self.part(s) == COUNTS and s.id not in self.not_run]

    @cached_property
    def to_break(self) -> list[Specimen]:
        """The pieces that go to the rig: those that count, and trials."""
        return [s for s in self.pieces if self.part(s) in (COUNTS, TRIAL) and s.id not in self.not_run]

    @cached_property
    def left_out(self) -> list[Specimen]:
        """The pieces that were planned to count and are not run."""
        return [s for s in self.pieces if self.part(s) == COUNTS and s.id in self.not_run]

    @cached_property
    def moved_courses(self) -> dict[int, Course]:
        """Courses of pulls whose marks were put elsewhere, by pull."""
        told = (e for own in self.joint_records.values() for e in own if e.kind == MARKS_EVENT)
        return {int(e.value["pull"]): course_from_json(e.value["course"]) for e in told}

    def next_loading(self, piece: Specimen) -> int:
        """The number that the next loading of a piece has."""
        all_of_it = self.loadings.get(piece.id) or ((seen,) if (seen := self.observed.get(piece.id)) else ())
        return max((o.loading for o in all_of_it), default=0) + 1

    def finished(self, piece: Specimen) -> bool:
        """Whether nothing more happens to a piece."""
        seen, out = self.observed.get(piece.id), piece.id in self.not_run
        return stands(seen.observation.kind if seen else None, not_run=out, apart=self.came_apart(piece)).ended

    def came_apart(self, piece: Specimen) -> bool:
        """Whether a joint was found apart on its way to the break."""
        return any(joint_records.came_apart(e.kind, e.value) for e in self.joint_records.get(piece.id, ()))

    def sizes(self, specimen_id: int) -> dict[str, float]:
        """Sizes in mm: measured where they are, nominal otherwise; of a joint that slipped, as it really lies."""
        own = {k: m.value for k, m in self.measured.get(specimen_id, {}).items()}
        sizes = {**self.nominal(specimen_id), **own}
        if specimen_id not in self.joint_records:
            return sizes
        shift, fastener = (self.last(specimen_id, k) for k in ("shift", "fastener"))
        return joint_records.moved(sizes, shift.value if shift else None, fastener.value if fastener else None)

    def arm_mm(self, s: Specimen) -> float | None:
        """The arm of the load on a piece as it stands, where the method has one."""
        return self.sizes(s.id).get("arm") if "arm" in self.method.setup_sizes else None

    def sizes_loaded(self, s: Specimen, o: Observed | None) -> dict[str, float]:
        """Sizes of a piece at one of its loadings: all but the last keep the arm that they had."""
        sizes, last = self.sizes(s.id), max((x.beside or x.loading for x in self.loadings.get(s.id, ())), default=0)
        if o is None or o.arm_mm is None or "arm" not in sizes or (o.beside or o.loading) == last:
            return sizes
        return {**sizes, "arm": o.arm_mm}

    def nominal(self, specimen_id: int) -> dict[str, float]:
        """Sizes of a piece as planned, in mm."""
        return self._nominal[self._treatment_of[specimen_id]]

    @cached_property
    def _treatment_of(self) -> dict[int, int]:
        return {s.id: s.treatment_id for s in self.pieces}

    @cached_property
    def _nominal(self) -> dict[int, dict[str, float]]:
        solid = {t.id for t in self.treatments.values() if t.role == "solid"}
        return {
            t: dict(self.plan.sizes) if t in solid else sizes_of(self.plan, self._forms[t].key, own)
            for t, own in self._levels.items()
        }

    def last(self, specimen_id: int, kind: str) -> Event | None:
        """The latest that was told of a piece, of that kind."""
        return next((e for e in reversed(self.joint_records.get(specimen_id, ())) if e.kind == kind), None)

    def bottle(self, piece: Specimen) -> str:
        """The label of the bottle that a glued joint's glue came from; empty where nobody said."""
        member = self.members[piece.id]
        return member.bottle if member.bottle is not None else self.glueups[member.glueup_id].bottle

    def is_measured(self, specimen_id: int) -> bool:
        """Whether the figure of merit rests on measured sizes (a moment rests on none of the piece's own)."""
        own = self.measured.get(specimen_id, {})
        return all(k in own for k in self.to_measure)

    @cached_property
    def to_measure(self) -> tuple[str, ...]:
        """The sizes that the figure of merit takes from the piece itself; the others belong to the rig's set-up."""
        return tuple(k for k in self.method.figure_sizes if k not in self.method.setup_sizes)

    def level(self, piece: Specimen, key: str) -> Level | None:
        """A field of a piece's planned record: its treatment's level, else what the plan held constant for it."""
        own = self.amended.get(piece.id)
        if own and key in own:
            return own[key]
        return self._levels[piece.treatment_id].get(key, self.plan.constants.get(key))

    @cached_property
    def _levels(self) -> dict[int, dict[str, Level]]:
        return {t.id: {k: v for k, _, v in t.levels} for t in self.treatments.values()}

    def form(self, piece: Specimen) -> Form:
        """The joint form of a piece."""
        return self._forms[piece.treatment_id]

    @cached_property
    def _forms(self) -> dict[int, Form]:
        constant = self.plan.constants.get("form", Level(None))
        return {t: self._form(own.get("form", constant).value) for t, own in self._levels.items()}

    def loaded(self, piece: Specimen) -> tuple[str, ...]:
        """How the wood of a piece is loaded, blank by blank: along its grain or across it; empty where no matter."""
        if piece.role == "solid":
            level = self.level(piece, SOLID_GRAIN)
            # Plans of older formats have solid pieces of the method's usual kind only.
            grain = level.value if level is not None else self.method.solid_grain
            return (str(grain),) if grain else ()
        return self.method.loading(self.form(piece).key, piece.orientation) or ()

    def glue_of(self, glue: str, bottle: Bottle | None = None) -> tuple[str, Label | None]:
        """Family and label of a glue: those of the bottle that it came from, else of the plan's own product."""
        if bottle is not None:
            return bottle.family, bottle.limits or None
        product = self.plan.products.get(glue)
        return (product.family, product.label or None) if product else (glue, None)

    def is_held(self, piece: Specimen) -> bool:
        """Return whether a glued joint is still in its clamp. Tape and hands are not clamps; a broken joint is out."""
        member = self.members.get(piece.id)
        if member is None or piece.id in self.unclamped or not piece.clamp_s or self.finished(piece):
            return False
        return (self.glueups[member.glueup_id].pressed_by or self.pressed_by(piece)) not in CLAMPLESS

    def clamped_until_broken(self, piece: Specimen) -> bool:
        """Whether the plan breaks a joint in its clamp: its clamp time is stated as its age then."""
        return piece.clamp_s == piece.cure_s and clamps_until_broken(self.plan)

    def pressed_by(self, piece: Specimen) -> str:
        """The means that the plan presses a joint with; empty for a pressure that any clamp may give."""
        level = self.level(piece, "press_by")
        if level is not None and isinstance(level.value, str):
            return level.value
        return "nothing" if piece.pressure_mpa == 0 else ""

    def _form(self, key: object) -> Form:
        # A batch locked before forms were checked against the method was made, and its areas taken, as the usual one.
        return self.method.form(key if key in self.method.forms else None)

    def area_mm2(self, piece: Specimen) -> float:
        """Glued area in mm2, of the piece's own joint form and sizes (for a solid piece, that of the plain joint)."""
        form = self._form(None) if piece.role == "solid" else self.form(piece)
        return form.glued_area_mm2(self.sizes(piece.id))

    def parent(self, piece: Specimen) -> Parent | None:
        """What a piece is made as one with, if anything."""
        return self.parents.get(piece.parent_id) if piece.parent_id is not None else None

    @cached_property
    def pieces_of(self) -> dict[int, list[Specimen]]:
        """The pieces of every parent, by its id."""
        found: dict[int, list[Specimen]] = {p: [] for p in self.parents}
        for s in self.pieces:
            if s.parent_id in found:
                found[s.parent_id].append(s)
        return found

    def as_one(self, piece: Specimen) -> list[Specimen]:
        """The pieces that are glued and pressed at once with a piece: those of its panel or beam."""
        parent = self.parent(piece)
        return self.pieces_of[parent.id] if parent is not None and KINDS[parent.kind].sawn else [piece]

    def as_units(self, pieces: Iterable[Specimen]) -> list[list[Specimen]]:
        """Pieces by what is glued at once, in their order; of a panel only those that are named."""
        found: dict[int, list[Specimen]] = {}
        for s in pieces:
            found.setdefault(self.as_one(s)[0].id, []).append(s)
        return list(found.values())

    def unit_code(self, piece: Specimen) -> str:
        """The code that a joint goes by until it is sawn: that of its panel or beam, or its own."""
        return p.code if (p := self.parent(piece)) is not None and KINDS[p.kind].sawn else piece.code

    def of_code(self, code: str) -> list[Specimen]:
        """The pieces that a code stands for: one, or all of a parent; none for a code of another batch."""
        piece = self.by_code.get(code)
        return [piece] if piece is not None else self._of_parent.get(code, [])

    @cached_property
    def _of_parent(self) -> dict[str, list[Specimen]]:
        return {p.code: self.pieces_of[p.id] for p in self.parents.values()}

    def apart(self, piece: Specimen) -> str:
        """The levels of a piece that are one for everything that is glued at once, in words; empty where none are."""
        own = [(key, self.level(piece, key)) for key in self._whole]
        return ", ".join(level_name(key, level) for key, level in own if level is not None)

    @cached_property
    def _whole(self) -> list[str]:
        return list(dict.fromkeys([*(f.key for f in whole_factors(self.plan)), *OF_A_GLUEUP]))

    def in_short(self, pieces: Sequence[Specimen]) -> list[str]:
        """The codes of pieces, a parent's instead of those of all that is left of it."""
        ids, found = {s.id for s in pieces}, []
        for s in pieces:
            parent = self.parent(s)
            whole = parent is not None and all(o.id in ids for o in self.pieces_of[parent.id] if not self.finished(o))
            found.append(parent.code if parent is not None and whole else s.code)
        return list(dict.fromkeys(found))

    def parent_in_words(self, piece: Specimen) -> str:
        """Where a piece comes from: "panel 3 (K7QX)"; empty for one that is made on its own."""
        p = self.parent(piece)
        return f"{KINDS[p.kind].name.lower()} {p.number} ({p.code})" if p is not None else ""

    @property
    def glued_in_blocks(self) -> bool:
        """Whether a block is a day, a session or a maker: it is glued by itself."""
        return self.plan.blocks is not None and self.plan.blocks.kind in AT_GLUING

    def block_in_words(self, piece: Specimen) -> str:
        """The planned block of a piece: "day 2"; empty without blocks."""
        b = self.plan.blocks
        return f"{KINDS_OF_BLOCKS[b.kind]} {piece.block}" if b is not None and piece.block else ""

    def home_in_words(self, piece: Specimen) -> str:
        """What a piece is made as one with, and its block."""
        return ", ".join(x for x in (self.parent_in_words(piece), self.block_in_words(piece)) if x)

    def line_sizes(self, piece: Specimen) -> dict[str, float]:
        """The sizes of what is glued at once: measured ones of a joint, planned ones of a panel that is sawn later."""
        own, p = self.as_one(piece), self.plan.parents
        if p is None or piece.parent_id is None or not KINDS[p.kind].sawn:
            return self.sizes(piece.id)
        return line_sizes(p, len(own), self.method.key, self.nominal(piece.id))

    def pressed_mm2(self, piece: Specimen) -> float:
        """Area over which the clamp force of a joint (or of its whole panel) is spread, mm2."""
        return self.form(piece).pressed_area_mm2(self.line_sizes(piece))

    def spread_mm2(self, piece: Specimen) -> float:
        """Area that is spread at once, mm2: that of a joint, or of its whole panel."""
        return self.form(piece).glued_area_mm2(self.line_sizes(piece))

    def pressed_at(self, piece: Specimen) -> datetime:
        """When a glued joint was pressed: its own moment where the bench took it down, else its glue-up's."""
        own = self.closed.get(piece.id)
        return moment(own.at if own else self.glueups[self.members[piece.id].glueup_id].started_at)

    def exposure(self, piece: Specimen) -> Path | None:
        """What a piece goes through before its break; ``None`` for most."""
        level = self.level(piece, "conditioning")
        return path_of(str(level.value)) if level is not None else None

    def conditioning(self, piece: Specimen) -> tuple[int, int]:
        """How long a piece is conditioned before its break, and dried afterwards, s; zeros for most."""
        path = self.exposure(piece)
        return (0, 0) if path is None else (int(path.total_s - path.drying_s), int(path.drying_s))

    def due_at(self, piece: Specimen) -> datetime:
        """When a glued joint may be broken: its cure time over, or its conditioning and drying once they began."""
        wet, dry = self.conditioning(piece)
        begun, ended = (self.conditioned.get((piece.id, way)) for way in ("in", "out"))
        if ended is not None:
            return moment(ended.at) + timedelta(seconds=dry)
        begin = moment(begun.at) if begun else self.pressed_at(piece) + timedelta(seconds=piece.cure_s or 0)
        return begin + timedelta(seconds=wet + dry)

    def pressure_mpa(self, piece: Specimen) -> float | None:
        """Clamp pressure in MPa of a glued joint, from its own area; ``None`` where the force is not known.

        A force that was read at the clamp comes before the one that was meant: the first reading, at closing.
        """
        member = self.members.get(piece.id)
        if member is None:
            return None
        read = next((e for e in self.joint_records.get(piece.id, ()) if e.kind == "force"), None)
        if read is not None:
            return pressure_mpa(read.value["force_n"], self.pressed_mm2(piece))
        glueup = self.glueups[member.glueup_id]
        force = member.force_n if member.force_n is not None else glueup.force_n
        clamps = member.clamps if member.clamps is not None else glueup.clamps
        if glueup.pressed_by == "nothing":
            return 0.0
        if force is None or (glueup.force_known == "unknown" and member.force_n is None):
            return None
        return pressure_mpa(force * clamps, self.pressed_mm2(piece))

    def per_newton(self, specimen_id: int) -> float:
        """Figure of merit of one newton on this piece."""
        return self.method.per_newton(self.sizes(specimen_id))

    @cached_property
    def by_code(self) -> dict[str, Specimen]:
        """Pieces by code."""
        return {s.code: s for s in self.pieces}

    @cached_property
    def ids(self) -> frozenset[int]:
        """The pieces by id."""
        return frozenset(s.id for s in self.pieces)

    def row(self, view: str, piece: Specimen, make: Callable[..., T], *more: Hashable) -> T:
        """``make(facts, piece, *more)``, made anew only after the facts of the piece, or ``more``, changed."""
        known = self.rows.get(view)
        if known is None:
            known = self.rows[view] = {}
        found = known.get(piece.id)
        if found is not None and found[0] == more:
            value: T = found[1]
            return value
        made = make(self, piece, *more)
        known[piece.id] = more, made
        return made
