"""Finding what is on record, in all batches and in the shop, by words or by a code."""

from __future__ import annotations

import contextlib
import json
from collections.abc import Mapping
from dataclasses import dataclass

from adhaero.core.glue.joint_records import KINDS
from adhaero.core.glue.pressing import PRESSED
from adhaero.core.parents import KINDS as KINDS_OF_PARENTS
from adhaero.core.plan.fields import value_name
from adhaero.core.refusal import refuse
from adhaero.store import batches, search, worked_out
from adhaero.store.search import Indexed, Line
from adhaero.workflow.by_batch import code_version
from adhaero.workflow.context import AppContext

MOST = 200
MOST_LINES = 3000
"""How many lines one search reads at most. A word found in more lines than this is too common to help."""
INDEX, AT_ONCE = "search", 25
"""Name under which the progress of the index is saved, and how many batches are indexed at a time."""
_KINDS: Mapping[str, str] = {
    "code": "code", "parent": "made as one", "treatment": "treatment", "reading": "reading",
    "gluing": "gluing", "wood": "wood", "photo": "photo",
    "batch": "batch", "reason": "reason", "board": "board", "bottle": "bottle", "claim": "claim",
    **{k: kind.name.lower() for k, kind in KINDS.items()},
}  # fmt: skip


@dataclass(frozen=True)
class Hit:
    """Something found: the words about it, the batch (none for the shop) and the piece (none for a whole batch)."""

    batch_id: int | None
    batch: str
    code: str
    what: str
    text: str


@dataclass(frozen=True)
class Found:
    """What was found for a text; ``more`` tells that there is more than is shown."""

    text: str
    hits: list[Hit]
    more: bool


def find(w: AppContext, text: str) -> Found:
    """Everything whose words hold every word of the text, whatever their case; a code on top. One hit a piece and kind
    of words, at most ``MOST``.
    """
    words = text.casefold().split()
    if not words or len(text.strip()) < 2:
        raise refuse("text", "is too short to look for", "Type two letters or more.")
    _index(w)
    found: dict[tuple[int | None, str, str, str], Hit] = {}
    with w.db.read() as conn:
        names = dict(batches.names(conn))
        lines = search.matching(conn, words, MOST_LINES)
    for number, code, what, told in lines:
        home = number or None
        hit = Hit(home, names.get(number, ""), code, _KINDS.get(what, what), told)
        found.setdefault((home, code, what, told if not code else ""), hit)
    wanted = text.strip().upper()
    ranked = sorted(found.values(), key=lambda h: (h.code != wanted, h.batch_id is None, h.batch, h.code))
    return Found(text.strip(), ranked[:MOST], len(ranked) > MOST or len(lines) >= MOST_LINES)


def _index(w: AppContext) -> None:
    """Bring the index up to date: only batches with an action since the last search are read again."""
    rule = code_version()
    with w.db.read() as conn:
        stands = {**batches.last_actions(conn), search.SHOP: search.last_of_shop(conn)}
        have = {b: last for b, (last, _) in worked_out.kept(conn, INDEX, rule).items()}
        gone = [b for b in worked_out.batches_of(conn, INDEX) if b not in stands]
    old = [b for b, last in stands.items() if have.get(b) != last]
    for some in [old[i : i + AT_ONCE] for i in range(0, len(old), AT_ONCE)] or ([[]] if gone else []):
        with w.db.write() as conn:
            for b in gone:
                search.index(conn, b, ())
            worked_out.drop(conn, INDEX, gone)
            for b in some:
                search.index(conn, b, [_indexed(line) for line in search.lines(conn, b)])
            worked_out.keep(conn, INDEX, rule, {b: (stands[b], None) for b in some})


def _indexed(line: Line) -> Indexed:
    told, kind = _in_words(line), _KINDS.get(line.what, line.what)
    return Indexed(line.code, line.what, told, f"{told} {kind} {line.what}".casefold())


def _in_words(line: Line) -> str:
    """The words of a line as a person would say them."""
    text = line.text
    if line.what == "gluing":
        # The means of pressing stands between marks, so that its key is no word of a note.
        for key, said in {**PRESSED, "": ""}.items():
            text = text.replace(f"@{key}@", said, 1)
    elif line.what == "wood":
        material, _, board = text.partition(" ")
        text = f"{value_name('species', material)} {board}"
    elif line.what == "parent":
        kind, _, rest = text.partition(" ")
        text = f"{KINDS_OF_PARENTS[kind].name.lower()} {rest}"
    elif text.startswith("{"):
        # A joint's record and a remark are kept as JSON, with a note behind it. A name may begin with a bracket, too.
        with contextlib.suppress(ValueError, AttributeError):
            value, end = json.JSONDecoder().raw_decode(text)
            text = "; ".join([*(str(v) for v in value.values() if v not in (None, "")), text[end:]]) or text
    return "; ".join(part for x in text.split(";") if (part := " ".join(x.split())))
