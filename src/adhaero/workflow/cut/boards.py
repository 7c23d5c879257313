"""Boards: what is in the shop, and how a batch is cut from it."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import asdict, dataclass, replace
from typing import Any

from adhaero.core.cut import cutlist, recutting
from adhaero.core.cut.blanks import Blank, blanks
from adhaero.core.cut.cutlist import CutBlank, Cutting, Short, Wanted
from adhaero.core.cut.layout import TAKEN, TOO_NARROW, TOO_SHORT, TOO_THIN, Board, Need, Rect, Saw
from adhaero.core.parents import KINDS, block_blanks, parent_blanks
from adhaero.core.plan.allocation import Balance
from adhaero.core.plan.fields import value_name
from adhaero.core.quantity import Dimension
from adhaero.core.refusal import Problems, refuse
from adhaero.core.units import Units
from adhaero.store import boards as store
from adhaero.store import shop
from adhaero.store.boards import StoredBoard
from adhaero.store.parents import Parent
from adhaero.store.specimens import Specimen, StoredTreatment
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import Act, AppContext, NotFound
from adhaero.workflow.piece_finding import find_piece
from adhaero.workflow.record_loading import load

SPOILED = "spoiled"
FOOT_MM = 304.8
MOISTURE_SLACK_PCT = 2.0
"""How far a board's moisture may be off where the plan sets no tolerance: the error of a pin meter, points."""


@dataclass(frozen=True)
class BoardMap:
    """A board with the blanks drawn on it, to scale; mm. ``taken`` are strips that go to other batches, ``free_mm`` the
    width that is still whole at its edge.
    """

    board: StoredBoard
    blanks: list[CutBlank]
    taken: list[Rect]
    free_mm: float


@dataclass(frozen=True)
class Share:
    """How many pieces of each treatment (by letter) a board carries."""

    board: str
    counts: dict[str, int]


@dataclass(frozen=True)
class CutLayout:
    """The plan at the saw. ``worst`` is 0 where boards carry the treatments as evenly as can be; ``placeless`` are
    pieces that came after it.
    """

    maps: list[BoardMap]
    shares: list[Share]
    worst: int
    confounded: bool
    spare: int
    lower_bound: int
    fences_mm: list[float]
    stops_mm: list[float]
    short: list[Short]
    sentences: list[str]
    saw: Saw
    share: str
    seed: int
    stale: bool
    placeless: list[str]


def _check(b: StoredBoard) -> None:
    p = Problems()
    p.check(1 <= len(b.label) <= 60, "label", "the board has no label, or a long one", "Write what stands on it.")
    p.check(bool(b.species.strip()), "species", "the species is missing", "Choose one.")
    for name, value, low, high in (
        ("length_mm", b.length_mm, 50, 8000), ("width_mm", b.width_mm, 10, 1500),
        ("thickness_mm", b.thickness_mm, 3, 200),
    ):  # fmt: skip
        p.check(low <= value <= high, name, f"{value:g} mm is outside {low} to {high} mm", "Check number and unit.")
    if b.moisture_pct is not None:
        p.check(0 <= b.moisture_pct <= 200, "moisture_pct", "must be 0 to 200 %", "Check the number.")
    if b.density_kg_m3 is not None:
        p.check(50 <= b.density_kg_m3 <= 1500, "density_kg_m3", "must be 50 to 1500 kg/m³", "Check the number.")
    for i, d in enumerate(b.defects):
        inside = d.x >= 0 and d.y >= 0 and d.x + d.length <= b.length_mm and d.y + d.width <= b.width_mm
        p.check(inside and d.length > 0 and d.width > 0, f"defects.{i}", "lies outside of the board",
                "Measure from its left lower corner.")  # fmt: skip
    p.raise_if_any()


def add_board(w: AppContext, b: StoredBoard, key: str | None) -> dict[str, Any]:
    """A new board; its label must be new."""
    clean = replace(b, label=b.label.strip())
    _check(clean)

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        if any(o.label == clean.label for o in store.boards(conn)):
            raise refuse("label", f"there is already a board {clean.label!r}", "Number the boards.")
        return {"id": store.add(conn, clean, action_id)}

    return w.perform(Act("shop", "board", f"Added the board {clean.label}", key=key, request=repr(clean)), body)


def retire_board(w: AppContext, board_id: int, key: str | None) -> dict[str, Any]:
    """Take a board out of use."""

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        if not any(b.id == board_id for b in store.boards(conn)):
            raise NotFound(f"There is no board {board_id}.")
        store.retire(conn, board_id, action_id)
        return {"id": board_id}

    return w.perform(Act("shop", "retire", "Took a board out of use", key=key, request=f"retire {board_id}"), body)


def known_of_wood(b: StoredBoard) -> str:
    """What is known of a board's wood: its moisture and density, as far as they were stated."""
    known = [f"{b.moisture_pct:g} %" if b.moisture_pct is not None else "",
             f"{b.density_kg_m3:g} kg/m³" if b.density_kg_m3 is not None else ""]  # fmt: skip
    return ", ".join(x for x in known if x)


def blanks_of(record: BatchRecord, s: Specimen) -> tuple[Blank, ...]:
    """The blanks that a piece is cut from, by its nominal sizes; none for the section of a panel, which is cut as a
    whole.
    """
    sizes, form, loaded = record.nominal(s.id), record.form(s).key, record.loaded(s)
    parent = record.parent(s)
    if parent is None:
        return blanks(record.plan.method, s.role, sizes, form, loaded, record.plan.blank_sizes)
    return () if KINDS[parent.kind].sawn else block_blanks(record.plan.method, sizes, form, loaded)


def blanks_of_parent(record: BatchRecord, parent: Parent) -> tuple[Blank, ...]:
    """The blanks of what is made as one, by the nominal sizes of its first piece."""
    own, p = record.pieces_of[parent.id], record.plan.parents
    if p is None or not own:
        return ()
    first = own[0]
    sizes, form = record.nominal(first.id), record.form(first).key
    return parent_blanks(p, len(own), record.plan.method, sizes, form, record.loaded(first))


def _wanted(record: BatchRecord, saw: Saw) -> list[Wanted]:
    order = {t: i for i, t in enumerate(record.treatments)}
    groups: dict[frozenset[int], int] = {}
    found = []
    for parent in record.parents.values():
        own = record.pieces_of[parent.id]
        if own:
            # Parents with the same treatments in them are replicates of each other.
            made = frozenset(order[s.treatment_id] for s in own)
            group = next(iter(made)) if len(made) == 1 else len(order) + groups.setdefault(made, len(groups))
            need = Need(blanks_of_parent(record, parent), saw)
            found.append(Wanted(parent.code, group, own[0].species_a, need))
    for s in record.pieces:
        if cut := blanks_of(record, s):
            # On a backing board the block is the other half.
            species = s.species_a if s.parent_id is None else s.species_b
            found.append(Wanted(s.code, order[s.treatment_id], species, Need(cut, saw)))
    return found


def _stock(conn: sqlite3.Connection, batch_id: int, saw: Saw) -> list[Board]:
    """The boards of the shop without what other batches take from them."""
    others = store.taken_by_others(conn, batch_id)
    return [recutting.without(b, others.get(b.id, ()), saw.kerf) for b in store.boards(conn)]


def _document(found: Cutting, saw: Saw, share: str) -> dict[str, Any]:
    return {
        "saw": asdict(saw), "share": share, "boards": found.boards,
        "blanks": [asdict(b) for b in found.blanks], "balance": asdict(found.balance),
        "spare": found.spare, "lower_bound": found.lower_bound, "short": [asdict(s) for s in found.short],
    }  # fmt: skip


def _cutting(d: dict[str, Any]) -> Cutting:
    blanks = [CutBlank(**{**b, "rect": Rect(**b["rect"])}) for b in d["blanks"]]
    short = [Short(**s) for s in d["short"]]
    return Cutting(blanks, d["boards"], {}, Balance(**d["balance"]), d["spare"], d["lower_bound"], short)


def lay_out(
    w: AppContext, batch_id: int, saw: Saw, chosen: Sequence[int] | None, share: str, person: str, key: str | None
) -> dict[str, Any]:
    """Lay out all pieces of a batch on boards of the shop (all, or the ``chosen`` ones). Replaces an older layout."""
    p = Problems()
    for name, value, high in (
        ("kerf", saw.kerf, 10), ("end_trim", saw.end_trim, 300), ("edge_trim", saw.edge_trim, 100),
        ("planing", saw.planing, 20), ("jointing", saw.jointing, 20),
    ):  # fmt: skip
        p.check(0 <= value <= high, name, f"{value:g} mm is outside 0 to {high} mm", "Check the number and its unit.")
    p.raise_if_any()
    seed = w.new_seed()

    def prepare(conn: sqlite3.Connection) -> Cutting:
        record = load(w, conn, batch_id)
        stock = [b for b in _stock(conn, batch_id, saw) if chosen is None or b.id in chosen]
        wanted = _wanted(record, saw)
        if not stock:
            raise refuse("boards", "there is no board to cut from", "Add boards under Shop.")
        return cutlist.cutting(wanted, stock, seed, share=share)

    def write(conn: sqlite3.Connection, action_id: int, found: Cutting) -> dict[str, Any]:
        store.add_cut_plan(conn, batch_id, _document(found, saw, share), seed, w.stamp(), action_id)
        return {"pieces": len({b.code for b in found.blanks if b.code})}

    request = f"{saw}{chosen}{share}"
    act = Act("cut", "layout", "Laid the blanks out", batch_id, person, key=key, request=request)
    return w.perform_prepared(act, prepare, write)


def recut(w: AppContext, batch_id: int, code: str, person: str, key: str | None) -> dict[str, Any]:
    """Give a spoiled piece a place that was left over: on its own board if there is one. The old place is lost."""

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record = load(w, conn, batch_id, action_id)
        cut_as, plan = _cut_as(conn, record, code), store.cut_plan(conn, batch_id)
        if plan is None:
            raise refuse("code", "nothing is laid out yet", "Lay the blanks out first.")
        cut = _cutting(plan.document)
        own = [b for b in cut.blanks if b.code == cut_as]
        if not own:
            raise refuse("code", f"{cut_as} has no place on a board", "Find places for the new pieces first.")
        runs = recutting.left_over(cut.blanks, [(b.side, b.rect.length, b.rect.width) for b in own])
        runs.sort(key=lambda run: run[0].board_id != own[0].board_id)
        if not runs:
            raise refuse("code", "no place is left over for it on these boards", "Add a board and lay out again.")
        blanks = recutting.given(recutting.given(cut.blanks, own, SPOILED), runs[0], cut_as)
        document = {**plan.document, "blanks": [asdict(b) for b in blanks], "spare": cut.spare - 1}
        store.add_cut_plan(conn, batch_id, document, plan.seed, w.stamp(), action_id)
        return {"pieces": 1}

    return w.perform(Act("cut", "recut", f"Recut {code}", batch_id, person, key=key, request=f"recut {code}"), body)


def _cut_as(conn: sqlite3.Connection, record: BatchRecord, code: str) -> str:
    """The code under which something is cut: a parent's own, that of a section's panel, or a piece's."""
    clean = code.strip().upper()
    if any(clean == p.code for p in record.parents.values()):
        return clean
    return record.unit_code(find_piece(conn, record, code))


def place_more(w: AppContext, batch_id: int, person: str, key: str | None) -> dict[str, Any]:
    """Find places for pieces that have none yet (made by an amendment); what is laid out stays where it is."""

    def prepare(conn: sqlite3.Connection) -> tuple[dict[str, Any], int, int]:
        record = load(w, conn, batch_id)
        plan = store.cut_plan(conn, batch_id)
        if plan is None:
            raise refuse("code", "nothing is laid out yet", "Lay the blanks out first.")
        saw, cut = Saw(**plan.document["saw"]), _cutting(plan.document)
        every = _wanted(record, saw)
        placed = {b.code for b in cut.blanks}
        missing = [x for x in every if x.code not in placed]
        more = recutting.with_more(cut, missing, every, _stock(conn, batch_id, saw), saw, w.new_seed())
        found = len({b.code for b in more.blanks} - placed)
        return _document(more, saw, plan.document["share"]), plan.seed, found

    def write(conn: sqlite3.Connection, action_id: int, made: tuple[dict[str, Any], int, int]) -> dict[str, Any]:
        document, seed, found = made
        store.add_cut_plan(conn, batch_id, document, seed, w.stamp(), action_id)
        return {"pieces": found}

    act = Act("cut", "layout", "Found places for new pieces", batch_id, person, key=key)
    return w.perform_prepared(act, prepare, write)


def layout(w: AppContext, conn: sqlite3.Connection, record: BatchRecord) -> CutLayout | None:
    """The plan at the saw that stands, as it is shown; ``None`` before there is one."""
    plan = store.cut_plan(conn, record.batch.id)
    if plan is None:
        return None
    d = plan.document
    saw, cut = Saw(**d["saw"]), _cutting(plan.document)
    stock = {b.id: b for b in store.boards(conn)}
    others = store.taken_by_others(conn, record.batch.id)
    known = [stock[b] for b in d["boards"] if b in stock]
    letter = {record.unit_code(s): record.treatments[s.treatment_id].letter for s in record.pieces}
    wanted = _wanted(record, saw)
    needs = list({x.need.blanks: x.need for x in wanted}.values())
    maps = [_map(b, [x for x in cut.blanks if x.board_id == b.id], others.get(b.id, ()), saw) for b in known]
    solid = {i for i, t in enumerate(record.treatments.values()) if t.role == "solid"}
    home = {b.code: b.board_id for b in reversed(cut.blanks) if b.code not in ("", SPOILED)}
    placed = set(home)
    even, short = cutlist.balance_on(home, wanted), cutlist.still_short(cut.short, home, wanted)
    clashes = [m.board.label for m in maps if any(t.overlaps(b.rect) for t in m.taken for b in m.blanks)]
    return CutLayout(
        maps=maps,
        shares=[_share(m, letter) for m in maps],
        worst=even.worst,
        confounded=even.confounded,
        spare=cut.spare,
        lower_bound=cut.lower_bound,
        fences_mm=cutlist.fences(needs, known),
        stops_mm=cutlist.stops(needs),
        short=short,
        sentences=[
            *_sentences(short, even, clashes, record.units),
            *_damp(record, maps),
            *_solids(record, cutlist.uneven(home, wanted, solid), list(record.treatments.values())),
            *cutlist.cautions(needs, known, record.units, safe_length_mm(conn)),
        ],
        saw=saw,
        share=d["share"],
        seed=plan.seed,
        stale=len(known) < len(d["boards"]) or placed - {x.code for x in wanted} != set(),
        placeless=[x.code for x in wanted if x.code not in placed],
    )


def _map(b: StoredBoard, blanks: list[CutBlank], others: Sequence[Rect], saw: Saw) -> BoardMap:
    last = max((r.y + r.width + saw.kerf for r in (*others, *(x.rect for x in blanks))), default=saw.edge_trim)
    return BoardMap(b, blanks, list(recutting.bands(others, b, 0.0)), max(0.0, b.width_mm - saw.edge_trim - last))


def _share(m: BoardMap, letter: dict[str, str]) -> Share:
    counts: dict[str, int] = {}
    for code in dict.fromkeys(b.code for b in m.blanks):
        if code in letter:
            counts[letter[code]] = counts.get(letter[code], 0) + 1
    return Share(m.board.label, dict(sorted(counts.items())))


def _why(s: Short, units: Units) -> str:
    """By what the boards of that wood fail, with what a piece would take."""
    takes = {
        TOO_THIN: f"{units.typed(s.thickness_mm, Dimension.LENGTH)} finished thickness",
        TOO_NARROW: f"a strip of {units.typed(s.strip_mm, Dimension.LENGTH)}",
        TOO_SHORT: f"{units.typed(s.place_mm, Dimension.LENGTH)} of length",
        TAKEN: "room beside defects and other pieces",
    }
    said = [f"{n} {'board is' if n == 1 else 'boards are'} {why} (a piece takes {takes[why]})" for why, n in
            s.why.items() if why in takes]  # fmt: skip
    return f" {'; '.join(said)}." if said else ""


def _solids(record: BatchRecord, uneven: list[tuple[int, int, int]], all_: list[StoredTreatment]) -> list[str]:
    return [
        f"{all_[t].label} comes from {own} of the {of} boards that the joints come from: "
        "what the others bear is not known. Share all boards, or make more solid pieces."
        for t, own, of in uneven
    ]


def _damp(record: BatchRecord, maps: Sequence[BoardMap]) -> list[str]:
    """Boards that are wetter or drier than the plan holds the wood of the pieces that lie on them."""
    width = record.plan.tolerances.get("moisture_pct", MOISTURE_SLACK_PCT)
    found = []
    for m in maps:
        pieces = [s for b in m.blanks for s in record.of_code(b.code)]
        levels = {level.value for s in pieces if (level := record.level(s, "moisture_pct")) is not None}
        real = m.board.moisture_pct
        off = [v for v in levels if real is not None and isinstance(v, float | int) and abs(real - v) > width]
        if off:
            found.append(
                f"{m.board.label} is at {real:g} % moisture; the plan holds the wood at {off[0]:g} % (within "
                f"{width:g}). Let the board dry or take up moisture first, or choose another one."
            )
    return found


def safe_length_mm(conn: sqlite3.Connection) -> float:
    """The shop's own length under which no piece goes over a machine by hand, else the usual one."""
    return float(shop.settings(conn).get("safe_length_mm", cutlist.SAFE_LENGTH_MM))


def _sentences(short: list[Short], even: Balance, clashes: list[str], units: Units) -> list[str]:
    found = [f"{label} is laid out for another batch too: lay out again." for label in clashes]
    for s in short:
        wide, wood = units.text(s.strip_mm, Dimension.LENGTH), value_name("species", s.species).lower()
        left = "1 piece has" if s.pieces == 1 else f"{s.pieces} pieces have"
        far = (
            f"{s.length_mm / FOOT_MM:.1f} ft"
            if units.symbol(Dimension.LENGTH) == "in"
            else f"{s.length_mm / 1000:.1f} m"
        )
        found.append(f"You are short by {far} of {wood}, ripped {wide} wide: {left} no place.{_why(s, units)}")
    if even.confounded:
        found.append("Every treatment comes from boards of its own: board and treatment cannot be told apart.")
    return found
