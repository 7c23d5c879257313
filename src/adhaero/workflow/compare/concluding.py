"""What the user concludes, held against the figures, and comments on what limits a conclusion.

Nothing here changes a figure. A conclusion can be taken back, which stays in the history; what limits it can only be
commented on.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from adhaero.core.compare.analysis import Row
from adhaero.core.compare.conclusion import ALIKE, KINDS, hold, text_of
from adhaero.core.compare.planned import Judged, Setting
from adhaero.core.plan.claim_kinds import SHARE
from adhaero.core.refusal import Problems, refuse
from adhaero.store import actions, remarks
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import Act, AppContext, need_locked
from adhaero.workflow.record_loading import load

STATEMENT, COMMENT = "statement", "comment"


@dataclass(frozen=True)
class Said:
    """A conclusion as it was said: treatments by letter, ``says`` of conclusion.KINDS, ``against`` a letter."""

    id: str
    treatments: tuple[str, ...]
    says: str
    against: str
    share: float
    note: str
    person: str


@dataclass(frozen=True)
class ConclusionView:
    """A conclusion in words, with how it stands by the figures and why; ``scope`` is what it holds for."""

    id: str
    text: str
    note: str
    person: str
    state: str
    why: str
    scope: str


@dataclass(frozen=True)
class CommentView:
    """What somebody said of a sentence of the page; ``about`` is that sentence as it stood then."""

    about: str
    text: str
    person: str
    at: str


def conclude(
    w: AppContext, batch_id: int, treatments: Sequence[str], says: str, against: str, share: float, note: str,
    person: str, key: str | None,
) -> dict[str, Any]:  # fmt: skip
    """Say something of treatments (by letter). Returns the id of the conclusion."""

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record = load(w, conn, batch_id, action_id)
        labels = {t.letter: t.label for t in record.treatments.values()}
        p = Problems()
        p.check(says in KINDS, "says", f"{says[:20]!r} is nothing that can be held against figures",
                "Use one of: " + ", ".join(KINDS) + ".")  # fmt: skip
        p.check(bool(treatments) and all(t in labels for t in treatments), "treatments", "are not all of this batch",
                "Choose at least one from the list.")  # fmt: skip
        p.check(says == ALIKE or (against in labels and against not in treatments), "against",
                "is no other treatment of this batch", "Choose what they are set against.")  # fmt: skip
        p.check(says != SHARE or 0 < share <= 10, "share", "is no share", "Type a share in percent, like 60.")
        p.check(len(note) <= 1000, "note", "is longer than 1000 characters", "Shorten it.")
        p.raise_if_any()
        text = text_of(says, share, [labels[t] for t in treatments], labels.get(against, ""))
        actions.say(conn, action_id, f"Concluded: {text[:80]}")
        said = {"id": f"s{action_id}", "treatments": list(treatments), "says": says, "against": against,
                "share": share, "note": note.strip(), "person": person}  # fmt: skip
        remarks.add(conn, batch_id, STATEMENT, said, w.stamp(), action_id)
        return {"id": action_id}

    request = f"{treatments}{says}{against}{share}{note}"
    return w.perform(Act("compare", "conclude", "Concluded", batch_id, person, key=key, request=request), body)


def take_back(w: AppContext, batch_id: int, conclusion: int, person: str, key: str | None) -> dict[str, Any]:
    """Take a conclusion back; it stays in the history."""

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        need_locked(conn, batch_id)
        if f"s{conclusion}" not in {s.id for s in standing(conn, batch_id)}:
            raise refuse("id", "stands no longer, or never stood", "Load the page again.")
        gone = {"id": f"s{conclusion}", "gone": True, "person": person}
        remarks.add(conn, batch_id, STATEMENT, gone, w.stamp(), action_id)
        return {"id": conclusion}

    act = Act("compare", "unsay", "Took a conclusion back", batch_id, person, key=key, request=f"unsay {conclusion}")
    return w.perform(act, body)


def comment(w: AppContext, batch_id: int, about: str, text: str, person: str, key: str | None) -> dict[str, Any]:
    """Say something of a sentence of the page, which stays as it is."""

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        need_locked(conn, batch_id)
        p = Problems()
        p.check(0 < len(text.strip()) <= 1000, "text", "is empty, or longer than 1000 characters",
                "Say in a few words what is to be known about it.")  # fmt: skip
        p.check(0 < len(about.strip()) <= 1000, "about", "names no sentence", "Comment on one of the page.")
        p.raise_if_any()
        said = {"about": about.strip(), "text": text.strip(), "person": person, "at": w.stamp()}
        return {"id": remarks.add(conn, batch_id, COMMENT, said, w.stamp(), action_id)}

    request = f"{about}{text}"
    return w.perform(Act("compare", "comment", "Commented", batch_id, person, key=key, request=request), body)


def standing(conn: sqlite3.Connection, batch_id: int) -> list[Said]:
    """The conclusions that stand, oldest first."""
    by_id: dict[str, dict[str, Any]] = {}
    for r in remarks.standing(conn, batch_id, STATEMENT):
        by_id[r["id"]] = r
    return [
        Said(r["id"], tuple(r["treatments"]), r["says"], r["against"], float(r["share"]), r["note"], r["person"])
        for r in by_id.values()
        if not r.get("gone")
    ]


def comments(conn: sqlite3.Connection, batch_id: int) -> list[CommentView]:
    """What was said of sentences, oldest first."""
    return [CommentView(r["about"], r["text"], r["person"], r["at"])
            for r in remarks.standing(conn, batch_id, COMMENT)]  # fmt: skip


def held(
    record: BatchRecord, said: Iterable[Said], rows: Iterable[Row], scope: str, s: Setting, planned: Sequence[Judged]
) -> list[ConclusionView]:
    """The conclusions with how each stands by the figures of ``rows`` in the setting, where the ``planned`` comparisons
    are judged already.
    """
    by_letter, found = {r.group.letter: r for r in rows}, []
    labels = {t.letter: t.label for t in record.treatments.values()}
    for x in said:
        own = [r for t in x.treatments if (r := by_letter.get(t)) is not None]
        end = hold(x.says, x.share, own, by_letter.get(x.against), s, planned)
        text = text_of(x.says, x.share, [labels.get(t, t) for t in x.treatments], labels.get(x.against, x.against))
        found.append(ConclusionView(x.id, text, x.note, x.person, end.state, end.why, scope))
    return found
