"""Decide how far along a piece is. The bench, the rig, the start page and the results all ask here."""

from __future__ import annotations

from enum import StrEnum

from adhaero.core.observation import Kind


class Stands(StrEnum):
    """How far a piece has come. The first three are still to break; nothing more happens to the others."""

    TO_MAKE = "to make"
    MADE = "made"
    DUE = "due"
    BROKEN = "broken"
    FELL_APART = "fell apart"
    HELD = "held"
    EXCLUDED = "excluded"
    LEFT_OUT = "left out"

    @property
    def ended(self) -> bool:
        """Whether nothing more happens to the piece."""
        return self not in (Stands.TO_MAKE, Stands.MADE, Stands.DUE)


def stands(
    kind: Kind | None,
    *,
    not_run: bool = False,
    apart: bool = False,
    made: bool = True,
    due: bool = False,
    proof_failed: bool = False,
) -> Stands:
    """Return how far a piece is.

    ``kind`` is that of its reading, ``not_run`` says that it was left out of the plan, ``apart`` that it was found
    apart on its way to the rig, ``made`` that it is glued (solid wood always is), ``due`` that it may be broken now,
    ``proof_failed`` that it did not hold its proof load. What broke while a load stood on it (``Kind.HELD``) is broken.
    What was tested before it was left out of the plan counts as left out.
    """
    if not_run:
        return Stands.LEFT_OUT
    match kind:
        case Kind.VOID:
            return Stands.EXCLUDED
        case Kind.FELL_APART:
            return Stands.FELL_APART
        case Kind.AT_LEAST:
            return Stands.HELD
        case Kind.PROOF if not proof_failed:
            return Stands.HELD
        case None if apart:
            return Stands.FELL_APART
        case None:
            return Stands.TO_MAKE if not made else Stands.DUE if due else Stands.MADE
    return Stands.BROKEN
