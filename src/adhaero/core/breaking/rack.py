"""A rack of weights: what hangs, what is left, which totals can still be reached, and what a break says.

Masses are whole grams, so that sums are exact.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from adhaero.core.observation import Kind, Observation
from adhaero.core.quantity import Dimension, unit
from adhaero.core.refusal import Problems, refuse

NEWTONS_PER_G = float(unit("kgf", Dimension.FORCE).factor) / 1000
"""Weight of a gram, N."""
MOST_SUMS = 200_000
SHOWN = 8


@dataclass(frozen=True)
class Rack:
    """The weights at hand: mass in g -> how many, what hangs there with them (hanger, platform), and what a vessel
    holds that is filled instead of hanging weights; 0 without one.
    """

    weights: tuple[tuple[int, int], ...] = ()
    hanger_g: int = 0
    vessel_g: int = 0

    @property
    def largest_g(self) -> int:
        """Everything hung, the hanger included."""
        return self.hanger_g + sum(m * n for m, n in self.weights)


@dataclass(frozen=True)
class Step:
    """A weight hung (positive) or taken off (negative), g, and when."""

    mass_g: int
    at: datetime


@dataclass(frozen=True)
class Hanging:
    """What hangs now: the total with the hanger, the most that was borne for sure (before the last step: whoever hangs
    a weight on, or takes one off, finds the piece whole), what is left on the rack, the totals that one more weight or
    several of them reach, and since when it hangs so.
    """

    total_g: int
    borne_g: int
    left: tuple[tuple[int, int], ...]
    next_g: tuple[int, ...]
    largest_g: int
    since: datetime | None

    @property
    def runs_out(self) -> bool:
        """Whether everything hangs."""
        return not any(n for _, n in self.left)


def checked(rack: Rack) -> Rack:
    """``rack`` itself if it makes sense; otherwise ``Refusal`` naming every wrong field."""
    p = Problems()
    p.check(len(rack.weights) <= 30, "weights", "are more than thirty kinds", "Leave out what you never hang.")
    for i, (mass, n) in enumerate(rack.weights):
        p.check(1 <= mass <= 1_000_000, f"weights.{i}", f"a weight of {mass:g} g is not possible", "Type its mass.")
        p.check(0 < n <= 100, f"weights.{i}", f"{n} of one kind is not possible", "Type how many there are.")
    masses = [m for m, _ in rack.weights]
    p.check(len(set(masses)) == len(masses), "weights", "one mass stands twice", "Add up how many there are of it.")
    for field, mass in (("hanger_g", rack.hanger_g), ("vessel_g", rack.vessel_g)):
        p.check(0 <= mass <= 1_000_000, field, f"{mass:g} g is not possible", "Weigh it.")
    p.raise_if_any()
    return rack


def hanging(rack: Rack, steps: Sequence[Step]) -> Hanging:
    """What hangs after these steps, oldest first: also weights that the rack no longer has, for they do hang."""
    on: dict[int, int] = {}
    borne = total = 0
    for step in steps:
        mass, change = abs(step.mass_g), 1 if step.mass_g > 0 else -1
        on[mass] = on.get(mass, 0) + change
        borne = max(borne, total)
        total = rack.hanger_g + sum(m * n for m, n in on.items())
    left = tuple((m, max(0, n - on.get(m, 0))) for m, n in rack.weights)
    return Hanging(
        total_g=total,
        borne_g=borne,
        left=left,
        next_g=tuple(sorted(total_of for total_of in reachable(left, total or rack.hanger_g))[:SHOWN]),
        largest_g=max(rack.largest_g, total),
        since=steps[-1].at if steps else None,
    )


def check_step(rack: Rack, steps: Sequence[Step], mass_g: int) -> None:
    """Raise ``Refusal`` for a weight that is not there to be hung, or not on it to be taken off (negative)."""
    mass = abs(mass_g)
    on = sum((1 if s.mass_g > 0 else -1) for s in steps if abs(s.mass_g) == mass)
    if mass_g < 0 and on <= 0:
        raise refuse("mass", f"no {mass / 1000:g} kg hangs there", "Take off what does.")
    if mass_g >= 0 and on >= dict(rack.weights).get(mass, 0):
        raise refuse("mass", f"no {mass / 1000:g} kg is left", "Hang another one, or add to the rack.")


def reachable(left: Sequence[tuple[int, int]], base_g: int = 0) -> set[int]:
    """Every total above ``base_g`` that weights on the rack make."""
    sums = {0}
    for mass, n in left:
        sums = {s + mass * k for s in sums for k in range(n + 1)}
        if len(sums) > MOST_SUMS:
            raise refuse("weights", "are too many to go through", "Leave out the smallest ones.")
    return {base_g + s for s in sums if s > 0}


ENDS: Mapping[str, str] = {
    "adding": "It broke as the last weight was hung: between the total before and the one with it.",
    "hanging": "It broke while everything hung: that was borne, for so long.",
    "holds": "It holds: at least that.",
    "filled": "A vessel was filled until it broke, and weighed then: that is its load.",
}


def ended(
    h: Hanging, how: str, at: datetime, newtons_per_g: float, tare_n: float, gross_g: float | None = None
) -> Observation:
    """What the end of a hanging says; ``gross_g`` is what a filled vessel weighed. Raises ``Refusal`` where nothing
    hangs.
    """
    if how == "filled":
        if not gross_g or gross_g <= 0:
            raise refuse(
                "low", "the vessel has no weight", "Weigh it after the break with what is in it: like 17.3 kg."
            )
        load = gross_g * newtons_per_g + tare_n
        return Observation(Kind.EXACT, load, load)
    if h.since is None or h.total_g <= 0:
        raise refuse("weights", "nothing hangs", "Hang a weight first; for one that came apart choose 'fell apart'.")
    total, borne = (m * newtons_per_g + tare_n if m else 0.0 for m in (h.total_g, h.borne_g))
    most = max(total, borne)
    match how:
        case "adding" if borne < total:
            return Observation(Kind.BETWEEN, borne, total)
        case "adding" | "hanging":
            # It had borne as much or more before: that it broke under less is a break in the holding.
            return Observation(Kind.HELD, most, held_s=max(0.0, (at - h.since).total_seconds()))
        case "holds":
            return Observation(Kind.AT_LEAST, most)
    raise refuse("how", f"{how!r} is no end of a hanging", "Choose one of: " + ", ".join(ENDS) + ".")
