"""Guesses of several people before the first break: sealed until then, each with its time."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from adhaero.core.compare.guesses import HOW, LOAD, OUTCOME, RANK, scored
from adhaero.core.refusal import Problems, refuse
from adhaero.store import guesses
from adhaero.store.guesses import Guess
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import Act, AppContext
from adhaero.workflow.record_loading import load


@dataclass(frozen=True)
class GuessView:
    """A guess of somebody: how it was put, when, and its words once it is no longer sealed."""

    person: str
    how: str
    at: str
    words: str


@dataclass(frozen=True)
class NewGuess:
    """A guess: loads in N or shares in % by treatment letter, an order of letters (the highest first), or words."""

    how: str
    values: Mapping[str, float]
    order: Sequence[str]
    words: str


def guess(w: AppContext, batch_id: int, new: NewGuess, person: str, key: str | None) -> dict[str, Any]:
    """Keep somebody's guess; a later one of the same kind takes its place, and the earlier stays in the file."""
    if not person.strip():
        raise refuse("person", "nobody is named who guesses", "Choose who is at the bench, at the top of the page.")

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record = load(w, conn, batch_id, action_id)
        if record.observed:
            raise refuse("how", "the first piece is broken: guesses are closed", "Guess at the next batch.")
        value = _value(record, new)
        return {"id": guesses.add(conn, batch_id, Guess(person, new.how, value, w.stamp()), action_id)}

    act = Act("plan", "guess", f"{person} guessed {HOW.get(new.how, new.how[:20])}", batch_id, person, key=key,
              request=repr(new))  # fmt: skip
    return w.perform(act, body)


def _value(record: BatchRecord, new: NewGuess) -> dict[str, float] | list[str] | str:
    letters = [t.letter for t in record.treatments.values() if t.role != "solid"]
    p = Problems()
    p.check(new.how in HOW, "how", "is no way to guess", "Use one of: " + ", ".join(HOW) + ".")
    p.raise_if_any()
    if new.how == OUTCOME:
        words = " ".join(new.words.split())
        p.check(2 <= len(words) <= 500, "words", "the guess has no words", "Say what will come out.")
        p.raise_if_any()
        return words
    if new.how == RANK:
        p.check(len(new.order) >= 2, "order", "an order takes two treatments or more", "Name the highest first.")
        p.check(len(set(new.order)) == len(new.order), "order", "a treatment stands twice", "Take one of the two out.")
        for letter in new.order:
            p.check(letter in letters, "order", f"there is no treatment {letter[:10]!r}", "Use the plan's letters.")
        p.raise_if_any()
        return list(new.order)
    p.check(bool(new.values), "values", "nothing is guessed", "Guess one treatment at least.")
    high = 1e6 if new.how == LOAD else 1000.0
    for letter, value in new.values.items():
        p.check(letter in letters, f"values.{letter[:10]}", "is no treatment of the plan", "Use the plan's letters.")
        p.check(0 <= value <= high, f"values.{letter[:10]}", f"must be 0 to {high:g}", "Check the unit.")
    p.raise_if_any()
    return dict(new.values)


def views(conn: sqlite3.Connection, batch_id: int, *, opened: bool) -> list[GuessView]:
    """What was guessed, the last of each person and kind; its words only when it is ``opened``."""
    return [GuessView(g.person, g.how, g.at, _words(g) if opened else "") for g in guesses.standing(conn, batch_id)]


def _words(g: Guess) -> str:
    if g.how == OUTCOME:
        return str(g.value)
    if g.how == RANK:
        return " > ".join(g.value)
    unit = "N" if g.how == LOAD else "%"
    return ", ".join(f"{letter} {v:g} {unit}" for letter, v in g.value.items())


def scores(said: Sequence[Guess], means: Mapping[str, float], control: str, scale: Mapping[str, float]) -> list[str]:
    """How everybody's guess came out. ``means`` are of the figure that is compared, by letter; ``scale`` turns a load
    of a treatment into it.
    """
    found = []
    for g in said:
        value = g.value
        if g.how == LOAD:
            value = {k: v * scale[k] for k, v in value.items() if k in scale}
        words = scored(g.how, value, means, control)
        if words:
            found.append(f"{g.person} {words}.")
    return found
