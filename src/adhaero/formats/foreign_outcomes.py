"""How a piece ended, in the words of whoever wrote the table."""

from __future__ import annotations

from enum import StrEnum


class Ended(StrEnum):
    """What a cell of outcomes says of a piece."""

    BROKE = "broke"
    HELD = "did not break"
    APART = "fell apart"
    UNTESTED = "not tested"


_WORDS: dict[Ended, tuple[str, ...]] = {
    Ended.BROKE: ("broke", "broken", "breaks", "failed", "fail", "failure", "snapped", "gave way", "ok", "yes", "x",
                  "tested", "done"),
    Ended.HELD: ("did not break", "didn't break", "not broken", "no break", "no failure", "did not fail", "held",
                 "survived", "unbroken", "intact", "runout", "run out", "still holding", "rig limit", "off scale"),
    Ended.APART: ("fell apart", "apart", "came apart", "fell off", "delaminated", "failed before test",
                  "broke before test", "broke in handling", "fell to pieces", "no bond", "nothing left"),
    Ended.UNTESTED: ("not tested", "untested", "skipped", "lost", "missing", "void", "not run"),
}  # fmt: skip
_KNOWN = {word: ended for ended, words in _WORDS.items() for word in words}


def ended(text: str) -> Ended | None:
    """Return what a cell says of how its piece ended; ``None`` where it is not understood. Empty means broken."""
    word = " ".join(text.lower().replace("’", "'").strip(" .!").split())
    return Ended.BROKE if not word else _KNOWN.get(word)


def able() -> str:
    """The words to use, for a person who has used others."""
    return ", ".join(e.value for e in Ended)
