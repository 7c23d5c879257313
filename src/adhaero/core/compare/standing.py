"""How far a treatment is: the one place that says why it has no figure."""

from __future__ import annotations

from enum import StrEnum

from adhaero.core.compare.data import Group
from adhaero.core.observation import Kind
from adhaero.core.statistics.descriptive import TreatmentSummary


class Standing(StrEnum):
    """What there is of a treatment, as the end of a sentence that begins with its name."""

    COUNTS = ""
    STILL_TO_BREAK = "is not broken yet"
    LEFT_OUT = "was left out"
    EXCLUDED = "has only excluded readings"
    NOTHING_LEFT = "fell apart"
    PROOF_LOADED = "was only loaded to a proof load"
    NO_LOAD = "has no load on record"


def standing(group: Group, summary: TreatmentSummary) -> Standing:
    """Return how far a treatment is. Left out, not broken, fallen apart and excluded are four things."""
    if summary.n:
        return Standing.COUNTS
    if summary.n_fell_apart:
        return Standing.NOTHING_LEFT
    if any(not p.stands.ended for p in group.pieces):
        return Standing.STILL_TO_BREAK
    kinds = {p.kind for p in group.pieces if p.kind is not None}
    if not kinds:
        return Standing.LEFT_OUT if group.left_out else Standing.STILL_TO_BREAK
    if kinds == {Kind.VOID}:
        return Standing.EXCLUDED
    return Standing.PROOF_LOADED if kinds <= {Kind.PROOF, Kind.VOID} else Standing.NO_LOAD


def several(names: list[str], s: Standing) -> str:
    """Return the standing as the end of a sentence, in the singular or the plural as ``names`` needs."""
    text = s.value
    if len(names) > 1:
        for one, many in (("is ", "are "), ("was ", "were "), ("has ", "have ")):
            text = many + text.removeprefix(one) if text.startswith(one) else text
    return text
