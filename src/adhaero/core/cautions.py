"""Cautions: short, of the method, glue and material at hand, where the act is. Those of high risk are confirmed once a
session.

They are the usual ones of the trade; they replace neither the maker's data sheet nor the rules of the place.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from adhaero.core.joint import METALS
from adhaero.core.materials.glue import GLUES
from adhaero.core.method import Method
from adhaero.core.units import half_up

LONG_DAY = 30
"""Pieces to break from which on a pause is recommended."""


@dataclass(frozen=True)
class Caution:
    """A caution; ``key`` names it for good, ``high`` ones are confirmed once a session."""

    key: str
    text: str
    high: bool = False


@dataclass(frozen=True)
class AtHand:
    """What a batch brings to the bench: the facts that cautions follow from. Levels by their keys."""

    method: Method
    families: frozenset[str] = frozenset()
    preps: frozenset[str] = frozenset()
    means: frozenset[str] = frozenset()
    additives: frozenset[str] = frozenset()
    conditionings: frozenset[str] = frozenset()
    materials: frozenset[str] = frozenset()
    reinforcements: frozenset[str] = frozenset()
    shortest_mm: float | None = None
    safe_mm: float = 150.0
    left_in: bool = False
    frozen_bottle: bool = False
    by_weights: bool = False
    working_share: float | None = None
    held: bool = False
    to_break: int = 0


def of_stage(stage: str, a: AtHand) -> list[Caution]:
    """The cautions of a stage (cut, glue, break), those of high risk first."""
    by_stage = {"cut": _cut, "glue": _glue, "break": _break}
    return sorted(by_stage[stage](a), key=lambda c: not c.high)


def _cut(a: AtHand) -> Iterator[Caution]:
    short = a.shortest_mm is not None and a.shortest_mm < a.safe_mm
    yield Caution(
        "saw",
        "At the saw: stop block clear of the off-cut, hold-down, let the blade stop before you lift it; the longest "
        "first.",
        high=short,
    )
    yield Caution("planer", "Plane and joint long strips first, crosscut last; push blocks for thin stock, guards on.")
    if any("treated" in m.lower() for m in a.materials):
        yield Caution("treated wood", "Treated wood: mask and extraction; never burn its dust or off-cuts.")
    if a.materials & set(METALS):
        yield Caution("metal edges", "Edges of metal and glass cut: deburr, gloves; eyes covered when scuffing.")
        yield Caution(
            "metal dust", "Grinding, drilling or welding metal: mask; keep sparks away from shavings and wood dust."
        )
    if any(p.startswith("sanded") for p in a.preps):
        yield Caution("sanding dust", "Fine dust: mask and extraction when sanding.")


_SOLVENT = ("contact",)
_POWDER = ("urea-resin", "resorcinol", "casein")
_RESINS = ("epoxy-slow", "epoxy-fast", "urea-resin", "resorcinol", "polyurethane", "cyanoacrylate")


def _glue(a: AtHand) -> Iterator[Caution]:
    for f in sorted(a.families & GLUES.keys()):
        yield Caution(f"glue {f}", f"{GLUES[f].name}: {GLUES[f].caution}", high=f == "cyanoacrylate")
    if "solvent-wiped" in a.preps or a.families & set(_SOLVENT):
        yield Caution("solvent", "Solvent: no flame, fresh air; rags spread out or in a closed metal bin.", high=True)
    if "pigment" in a.additives or "sawdust" in a.additives or a.families & set(_POWDER):
        yield Caution("powder", "Powder and pigment: mask while they are stirred in.")
    if a.families & set(_RESINS):
        yield Caution("resin dust", "Cured resin: mask and extraction when you sand or saw it; wash the dust off.")
    if "cyanoacrylate" in a.families:
        yield Caution("activator", "Activator spray: fresh air, no flame, away from the face; the joint gets hot.")
    if "weight" in a.means:
        yield Caution("weights", "Weights on joints: stack them so that they cannot slide; feet and fingers clear.")
    if a.means & {"screw", "spring", "vacuum", ""}:
        yield Caution(
            "clamps", "Clamps: hands clear of the line, no more than their rating; watch for crushed wood and slipping."
        )
    if a.reinforcements & {"screws", "brads"} or a.left_in:
        yield Caution("left in", "Screws or brads left in: mark the piece; no saw goes through it afterwards.")
    if a.frozen_bottle or any("freez" in c or "frost" in c for c in a.conditionings):
        yield Caution("freezer", "In the freezer: a closed box with a label, never beside food; a full bottle bursts.")
    if any("boil" in c or "hot" in c for c in a.conditionings):
        yield Caution("hot bath", "Boiling and heat: lid, tongs, face away; let it cool before you reach in.")
    if any("outdoor" in c or "weather" in c for c in a.conditionings):
        yield Caution("outdoors", "Outdoors: samples fastened against wind, no ladder or roof in bad weather.")


def _break(a: AtHand) -> Iterator[Caution]:
    for i, text in enumerate(a.method.cautions):
        yield Caution(f"method {a.method.key} {i}", text, high=not a.method.loadless)
    if a.by_weights:
        yield Caution(
            "dead weights",
            "Hung weights and filled vessels: a soft catch close below, feet and hands never under the load; rated "
            "hook and chain, looked at before each set; no water near mains leads.",
            high=True,
        )
        yield Caution("stack", "Stop adding when the stack leans; look with a camera, not with your face.", high=True)
    if a.working_share is not None:
        yield Caution(
            "working share",
            f"At {half_up(100 * a.working_share, 0):.0f} % of the rig stop and think: beyond its range it is the rig "
            "that breaks. Look it over after an overload.",
            high=True,
        )
    if a.left_in:
        yield Caution("fastener", "A fastener was left in: it can be torn out and thrown. Guard closed.")
    if a.held:
        yield Caution("long holds", "A joint that holds for a minute may fail later: leave no load hanging unwatched.")
    if a.to_break >= LONG_DAY:
        yield Caution("pauses", "Many breaks: ears covered, a pause every half hour; tired hands seat pieces wrongly.")
    if a.materials & set(METALS):
        yield Caution("metal edges", "Edges of metal and glass cut when a joint lets go: gloves.")
