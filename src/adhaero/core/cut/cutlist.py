"""The cutting of a batch: boards chosen, places found, pieces given to places; and what is short."""

from __future__ import annotations

import random
from collections import Counter
from collections.abc import Callable, Container, Mapping, Sequence
from dataclasses import dataclass, field, replace

from adhaero.core.cut.layout import Board, Need, Place, Rect, fewest_boards, places, unfit
from adhaero.core.plan.allocation import Balance, balance, counts, deal, loads
from adhaero.core.quantity import Dimension
from adhaero.core.units import METRIC, Units

FEWEST, ALL, BY_TREATMENT = "fewest", "all", "treatment"
SAFE_LENGTH_MM = 150.0
"""Shorter than this no piece goes over saw, jointer or planer by hand: the usual rule of the shop."""


@dataclass(frozen=True)
class Wanted:
    """A piece to be cut: its code, treatment, species and the kind of blanks that it needs."""

    code: str
    treatment: int
    species: str
    need: Need


@dataclass(frozen=True)
class CutBlank:
    """A blank on a board; ``code`` is empty for a place left over."""

    code: str
    side: str
    board_id: int
    strip: int
    rect: Rect


@dataclass(frozen=True)
class Short:
    """What is missing: pieces without a place, and the length of strip that they take.

    ``why`` counts the boards of that wood from which not one such piece comes, by the reason; ``place_mm`` is the
    length and ``thickness_mm`` the finished thickness that a piece takes. Plans at the saw of older programs say none.
    """

    species: str
    pieces: int
    strip_mm: float
    length_mm: float
    place_mm: float = 0.0
    thickness_mm: float = 0.0
    why: Mapping[str, int] = field(default_factory=dict)


@dataclass(frozen=True)
class Cutting:
    """The whole plan at the saw. ``table`` counts pieces by treatment and board; ``spare`` are places left over."""

    blanks: list[CutBlank]
    boards: list[int]
    table: dict[int, dict[int, int]]
    balance: Balance
    spare: int
    lower_bound: int
    short: list[Short] = field(default_factory=list)


def cutting(
    wanted: Sequence[Wanted], boards: Sequence[Board], seed: int, *, share: str = FEWEST,
    progress: Callable[[float], None] = lambda _: None,
) -> Cutting:  # fmt: skip
    """Lay out all pieces on the boards that are there. Same input and seed, same plan.

    ``share``: the fewest boards; all of them, for more and evener blocks; or boards of its own for every treatment,
    which makes board and treatment one and the same: it is there because people do it, and it is called by its name.
    """
    rng = random.Random(f"cut {seed}")
    kinds: dict[tuple[str, tuple[object, ...]], list[Wanted]] = {}
    for w in wanted:
        kinds.setdefault((w.species, w.need.blanks), []).append(w)
    blanks: list[CutBlank] = []
    table: dict[int, dict[int, int]] = {}
    short: list[Short] = []
    free: dict[int, tuple[float, int]] = {}
    spare = bound = 0
    used: set[int] = set()
    # The many small pieces first: they decide the rip lines.
    ordered = sorted(kinds.values(), key=lambda own: (-len(own), own[0].code))
    for done, own in enumerate(ordered):
        progress(done / len(ordered))
        need = own[0].need
        fit = [b for b in boards if b.species == own[0].species]
        room = {b.id: places(b, need, *free.get(b.id, (None, 0))) for b in fit}
        chosen = _choose([b.id for b in fit], {b: len(p) for b, p in room.items()}, len(own), used, share)
        bound += 0 if used & set(room) else (fewest_boards([len(p) for p in room.values()], len(own)) or len(room))
        got, missing = _allocate(own, chosen, room, rng, share)
        for w, place in got:
            blanks += [CutBlank(w.code, b.side, place.board_id, place.strip, r) for b, r in place.blanks(need)]
            table.setdefault(w.treatment, {}).setdefault(place.board_id, 0)
            table[w.treatment][place.board_id] += 1
        taken = {id(place) for _, place in got}
        for board_id in {place.board_id for _, place in got}:
            used.add(board_id)
            last = max(place.strip for _, place in got if place.board_id == board_id)
            # Strips that were begun are ripped whole; those beyond stay in the board for other kinds of pieces.
            ripped = [p for p in room[board_id] if p.strip <= last]
            for place in ripped:
                if id(place) not in taken:
                    spare += 1
                    blanks += [CutBlank("", b.side, board_id, place.strip, r) for b, r in place.blanks(need)]
            free[board_id] = max(p.rect.y + p.rect.width for p in ripped) + need.saw.kerf, last + 1
        if missing:
            strip = max(b.width_mm for b in need.blanks) + need.saw.jointing
            why = Counter(cause for b in fit if (cause := unfit(b, need)) is not None)
            thick = max(b.thickness_mm for b in need.blanks)
            short.append(
                Short(own[0].species, missing, strip, missing * need.length_mm, need.length_mm - need.saw.kerf, thick,
                      dict(why))
            )  # fmt: skip
    progress(1.0)
    return Cutting(blanks, sorted(used), table, balance_of(table, used, wanted), spare, bound, short)


def _choose(ids: Sequence[int], capacity: dict[int, int], needed: int, used: set[int], share: str) -> list[int]:
    """The fewest boards that hold all, or all. Boards already begun are all taken: solid pieces that stand for joints
    come from the boards of those joints.
    """
    ranked = sorted((b for b in ids if capacity[b]), key=lambda b: (b not in used, -capacity[b], b))
    chosen: list[int] = []
    for b in ranked:
        if share == FEWEST and b not in used and sum(capacity[c] for c in chosen) >= needed:
            break
        chosen.append(b)
    return chosen


def _allocate(
    own: list[Wanted], chosen: list[int], room: dict[int, list[Place]], rng: random.Random, share: str
) -> tuple[list[tuple[Wanted, Place]], int]:
    capacity = [len(room[b]) for b in chosen]
    missing = max(0, len(own) - sum(capacity))
    # Where wood is short the last replicates go without, so that treatments stay even.
    kept = (
        sorted(own, key=lambda w: sum(o.treatment == w.treatment and o.code < w.code for o in own)) if missing else own
    )
    kept = kept[: len(own) - missing]
    treatments = list(dict.fromkeys(w.treatment for w in kept))
    queue = {t: [w for w in kept if w.treatment == t] for t in treatments}
    if share == BY_TREATMENT:
        return _by_treatment(queue, [room[b] for b in chosen]), missing
    table = counts([len(queue[t]) for t in treatments], loads(capacity, len(kept)), rng)
    dealt = deal(table, rng)
    return [
        (queue[treatments[t]].pop(0), place)
        for b, own_treatments in zip(chosen, dealt, strict=True)
        for t, place in zip(own_treatments, room[b], strict=False)
    ], missing


def _by_treatment(queue: dict[int, list[Wanted]], rooms: list[list[Place]]) -> list[tuple[Wanted, Place]]:
    """Every treatment from boards of its own while there are any; after that from what is left of the others."""
    left = [list(r) for r in rooms]
    begun: list[list[Place]] = []
    got: list[tuple[Wanted, Place]] = []
    for own in queue.values():
        waiting = list(own)
        while waiting and (left or begun):
            places_here = left.pop(0) if left else begun.pop(0)
            n = min(len(waiting), len(places_here))
            got += list(zip(waiting[:n], places_here[:n], strict=True))
            del waiting[:n], places_here[:n]
            if places_here:
                begun.append(places_here)
    return got


def balance_of(table: dict[int, dict[int, int]], used: set[int], wanted: Sequence[Wanted]) -> Balance:
    """The worst balance among the kinds of pieces: only pieces of one kind compete for the same places."""
    kinds: dict[tuple[str, tuple[object, ...]], set[int]] = {}
    for w in wanted:
        kinds.setdefault((w.species, w.need.blanks), set()).add(w.treatment)
    boards = sorted(used)
    found = [
        balance([[table.get(t, {}).get(b, 0) for b in boards] for t in sorted(own)]) for own in kinds.values() if own
    ]
    worst = max((f.worst for f in found), default=0)
    return Balance(worst, any(f.confounded for f in found))


def balance_on(home: Mapping[str, int], wanted: Sequence[Wanted]) -> Balance:
    """The balance of the pieces that have a place now: ``home`` is the board of each, by its code."""
    table: dict[int, dict[int, int]] = {}
    for w in wanted:
        if w.code in home:
            own = table.setdefault(w.treatment, {})
            own[home[w.code]] = own.get(home[w.code], 0) + 1
    return balance_of(table, set(home.values()), [w for w in wanted if w.code in home])


def still_short(short: Sequence[Short], home: Mapping[str, int], wanted: Sequence[Wanted]) -> list[Short]:
    """What was short and still is: places that were found since, or pieces that left, count no more."""
    found = []
    for s in short:
        alike = [w for w in wanted if w.species == s.species and w.code not in home]
        left = min(s.pieces, len(alike))
        if left:
            found.append(replace(s, pieces=left, length_mm=s.length_mm * left / s.pieces))
    return found


def uneven(home: Mapping[str, int], wanted: Sequence[Wanted], solid: Container[int]) -> list[tuple[int, int, int]]:
    """Solid pieces that do not come from as many boards as they could: (treatment, its boards, those of the joints of
    its wood).
    """
    found = []
    for t in dict.fromkeys(w.treatment for w in wanted if w.treatment in solid):
        own = [w for w in wanted if w.treatment == t and w.code in home]
        alike = [w for w in wanted if w.treatment not in solid and w.code in home and own]
        of_joints = {home[w.code] for w in alike if w.species == own[0].species}
        boards = {home[w.code] for w in own}
        if len(boards & of_joints) < min(len(own), len(of_joints)):
            found.append((t, len(boards), len(of_joints)))
    return found


def cautions(
    needs: Sequence[Need], boards: Sequence[Board], units: Units = METRIC, safe_mm: float = SAFE_LENGTH_MM
) -> list[str]:
    """What to mind at the machines, made specific by the lengths that come up; ``safe_mm`` is the shop's own length
    under which no piece goes over a machine by hand.
    """
    shortest = min((b.length_mm for n in needs for b in n.blanks), default=safe_mm)
    found = []
    if shortest < safe_mm:
        found.append(
            f"Blanks of {units.typed(shortest, Dimension.LENGTH)} are too short to hold: plane and joint the long "
            "strips first, crosscut last, with a hold-down and the stop clear of the off-cut."
        )
    if any(b.length_mm < 2 * safe_mm for b in boards):
        least = units.text(2 * safe_mm, Dimension.LENGTH)
        found.append(f"A board under {least} is too short for jointer and planer: fix it to a longer carrier.")
    return found


def stops(needs: Sequence[Need]) -> list[float]:
    """Stop settings for the crosscuts, mm, each once."""
    return sorted({b.length_mm for n in needs for b in n.blanks})


def fences(needs: Sequence[Need], boards: Sequence[Board]) -> list[float]:
    """Fence settings for the rip cuts, mm, each once."""
    return sorted({w for n in needs for b in boards if (w := n.strip_mm(b)) is not None})
