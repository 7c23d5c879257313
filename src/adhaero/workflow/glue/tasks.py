"""What glued joints wait for: clamps off, conditioning, the break; those that are due together as one task."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta

from adhaero.core.plan.design import COUNTS, TRIAL
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import iso, moment

UNCLAMP, CLEAN, IN, CHANGE, OUT, BREAK = "unclamp", "clean", "in", "change", "out", "break"
FORGOTTEN = timedelta(hours=12)
"""After this, glue that was mixed and not used up was thrown away without a word: the bench begins anew."""
ORDER = (UNCLAMP, CLEAN, IN, CHANGE, OUT, BREAK)
"""The order of the hands where things are due at once."""
CLEAN_FOR = timedelta(hours=12)
"""How long after unclamping the bench asks what became of the squeeze-out."""


@dataclass(frozen=True)
class Task:
    """Something that joints of one glue-up wait for, at ``at`` (which may lie in the past)."""

    kind: str
    at: str
    codes: tuple[str, ...]
    glueup: int
    what: str


def tasks(record: BatchRecord, now: datetime | None = None) -> list[Task]:
    """All of them, the earliest first. With ``now``, also squeeze-out of which nobody has said what became of it, and
    the next change of phase inside a conditioning.
    """
    together: dict[tuple[str, int, object], list[tuple[datetime, Specimen]]] = {}
    for s in record.pieces:
        member = record.members.get(s.id)
        if member is not None and not record.finished(s):
            for kind, at, alike in _of_joint(record, s, now):
                together.setdefault((kind, member.glueup_id, alike), []).append((at, s))
    found = []
    for (kind, glueup, alike), own in together.items():
        # Joints of one glue-up go together; the first of them says when.
        pieces = [s for _, s in own]
        what = _what(record, kind, glueup, pieces, alike)
        at = min(at for at, _ in own)
        codes = [s.code for s in pieces] if kind == BREAK else record.in_short(pieces)
        found.append(Task(kind, iso(at), tuple(codes), record.glueups[glueup].number, what))
    return sorted(found, key=lambda t: (t.at, ORDER.index(t.kind)))


def _of_joint(record: BatchRecord, s: Specimen, now: datetime | None) -> Iterator[tuple[str, datetime, object]]:
    """What a joint waits for: (kind, when, what joints that go together have in common)."""
    pressed, out = record.pressed_at(s), record.unclamped.get(s.id)
    if record.is_held(s) and record.clamped_until_broken(s):
        yield BREAK, record.due_at(s), (s.cure_s, 0, 0, "")
        return
    if record.is_held(s):
        yield UNCLAMP, pressed + timedelta(seconds=s.clamp_s or 0), s.clamp_s
        return
    wet, dry = record.conditioning(s)
    begun, ended = (record.conditioned.get((s.id, way)) for way in (IN, OUT))
    free = moment(out.at) if out else pressed
    if now is not None and record.last(s.id, "squeeze-out") is None and now - free < CLEAN_FOR:
        yield CLEAN, free, None
    if record.part(s) not in (COUNTS, TRIAL):
        return
    path = record.exposure(s)
    if now is not None and path is not None and begun is not None and ended is None:
        coming = ((moment(begun.at) + timedelta(seconds=at), kind) for at, kind in path.changes)
        following = next(((at, kind) for at, kind in coming if at > now), None)
        if following is not None and following[0] < moment(begun.at) + timedelta(seconds=wet):
            yield CHANGE, following[0], (begun.at, following[1])
    if wet and begun is None:
        yield IN, pressed + timedelta(seconds=s.cure_s or 0), (s.cure_s, wet)
    elif wet and dry and ended is None and begun is not None:
        yield OUT, moment(begun.at) + timedelta(seconds=wet), begun.at
    else:
        last = ended or begun
        yield BREAK, record.due_at(s), (s.cure_s, wet, dry, last.at if last else "")


def _what(record: BatchRecord, kind: str, glueup_id: int, own: list[Specimen], alike: object) -> str:
    if kind == UNCLAMP:
        return f"Take glue-up {record.glueups[glueup_id].number} out of its clamps"
    if kind == BREAK:
        names = list(dict.fromkeys(record.treatments[s.treatment_id].label for s in own))
        more = f" and {len(names) - 1} more" if len(names) > 1 else ""
        return f"Break: cure time reached ({names[0]}{more})"
    if kind == CHANGE and isinstance(alike, tuple):
        return f"The next phase begins: {alike[1]}"
    return {CLEAN: "Squeeze-out", IN: "Into conditioning", OUT: "Out of conditioning, to dry"}[kind]
