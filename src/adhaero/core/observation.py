"""What a break can give, and how a bound stays a bound on the way to a strength."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from enum import StrEnum

from adhaero.core.breaking import details, shares
from adhaero.core.breaking.details import FAILED, NOTHING, Details
from adhaero.core.breaking.shares import Shares
from adhaero.core.method import FAILURE_NAMES
from adhaero.core.refusal import Problems

MAX_LOAD_N = 1_000_000.0
"""No bench rig reaches 1 MN; a larger number is a slip of the unit."""

ROUNDING_PCT = 5.0
"""Wood failure is judged in steps of 5 %: as far may it be from its shares."""
WOOD_MODES = frozenset({"wood-at-line", "wood-deep"})


class Kind(StrEnum):
    """The kinds of observation of one piece."""

    EXACT = "exact"
    BETWEEN = "between"
    AT_LEAST = "at_least"
    FELL_APART = "fell_apart"
    HELD = "held"
    SEEN = "seen"
    PROOF = "proof"
    VOID = "void"


@dataclass(frozen=True)
class Observation:
    """How one piece ended.

    ``low_n`` is the load it is known to have borne, ``high_n`` the load it is known not to have borne (``None``:
    unknown). Exact: both equal. Between: ``low < high``. At least: no ``high``. Fell apart: both 0. Held: broke under
    ``low_n`` after ``held_s``. Seen: opened by hand, only how it gave way is known. Proof: loaded to ``low_n`` (or a
    load nobody knows) for ``held_s`` and looked at, apart from all strengths. Void: kept with its load and its
    reason, outside all statistics.
    """

    kind: Kind
    low_n: float | None = None
    high_n: float | None = None
    held_s: float | None = None
    failure_mode: str | None = None
    shares: tuple[tuple[str, float], ...] = ()
    wood_failure_pct: float | None = None
    reason: str = ""
    note: str = ""
    details: Details = NOTHING

    @property
    def most_n(self) -> float | None:
        """The load in N that it did not bear for good, where that is known."""
        known = {Kind.EXACT: self.high_n, Kind.BETWEEN: self.high_n, Kind.HELD: self.low_n}
        return known.get(self.kind)

    @property
    def broke(self) -> bool:
        """Whether the piece gave way."""
        if self.kind is Kind.PROOF:
            return self.details.ended == FAILED
        return self.kind not in (Kind.AT_LEAST, Kind.VOID)


def exact(load_n: float, **more: object) -> Observation:
    """An observation of an exact load, in N."""
    return replace(Observation(Kind.EXACT, load_n, load_n), **more)  # type: ignore[arg-type]


def checked(o: Observation) -> Observation:
    """``o`` itself if it is consistent; otherwise ``Refusal`` naming every wrong field."""
    p = Problems()
    for field, load in (("low_n", o.low_n), ("high_n", o.high_n)):
        if load is not None:
            p.check(
                math.isfinite(load) and 0 <= load <= MAX_LOAD_N,
                field,
                f"a load of {load:g} N is not possible" if math.isfinite(load) else "is not a number",
                "Type the load that the rig showed, between 0 and 1 000 000 N, and check its unit.",
            )
    if not p.found:
        _check_kind(o, p)
    if o.failure_mode is not None:
        p.check(
            o.failure_mode in FAILURE_NAMES,
            "failure_mode",
            f"{o.failure_mode!r} is not a failure mode",
            "Choose one of: " + ", ".join(FAILURE_NAMES) + ".",
        )
    shares.check(o.shares, p)
    details.check(o.details, p)
    in_wood = wood_of_shares(o.shares)
    if in_wood is not None and o.wood_failure_pct is not None:
        p.check(
            abs(in_wood - o.wood_failure_pct) <= ROUNDING_PCT,
            "wood_failure_pct",
            f"the shares make {in_wood:g} % wood failure, not {o.wood_failure_pct:g} %",
            "Change one of the two, or leave the wood failure to the shares.",
        )
    if o.wood_failure_pct is not None:
        p.check(
            0 <= o.wood_failure_pct <= 100,
            "wood_failure_pct",
            f"wood failure of {o.wood_failure_pct:g} % is not possible",
            "Type a share from 0 to 100 %.",
        )
    p.raise_if_any()
    return o


def _check_kind(o: Observation, p: Problems) -> None:
    low, high = o.low_n, o.high_n
    match o.kind:
        case Kind.EXACT:
            p.check(
                low is not None and low == high and low > 0,
                "low_n",
                "an exact load is one number above 0",
                "Type the peak load; for a piece that came apart by itself choose 'fell apart'.",
            )
        case Kind.BETWEEN:
            p.check(
                low is not None and high is not None and low < high,
                "high_n",
                "the load that broke it must be above the load that it held",
                "Type the last load held, then the load at which it broke.",
            )
        case Kind.AT_LEAST:
            p.check(
                low is not None and low > 0 and high is None,
                "low_n",
                "'at least' needs the highest load that it held",
                "Type that load; leave the upper one empty.",
            )
        case Kind.FELL_APART:
            p.check(
                (low or 0) == 0 and (high or 0) == 0,
                "low_n",
                "a piece that fell apart carried no load",
                "Leave the load empty, or choose another kind.",
            )
        case Kind.HELD:
            p.check(
                low is not None and low > 0,
                "low_n",
                "the load it held is missing",
                "Type that load.",
            )
            p.check(
                o.held_s is not None and 0 <= o.held_s < 1e9,
                "held_s",
                "the time under load is missing",
                "Type how long it held, for example 75 s.",
            )
        case Kind.SEEN:
            p.check(low is None and high is None, "low_n", "a piece opened by hand has no load", "Leave it empty.")
            p.check(
                o.failure_mode is not None,
                "failure_mode",
                "how it gave way is all there is to see",
                "Choose how it gave way.",
            )
        case Kind.PROOF:
            p.check(high is None, "high_n", "a proof load is one load", "Leave the upper one empty.")
            p.check(bool(o.details.ended), "details.ended", "a proof load is held, or fails", "Say which.")
        case Kind.VOID:
            if low is not None and high is not None:
                p.check(low <= high, "high_n", "lies below the lower load", "Swap the two.")
            p.check(
                bool(o.reason.strip()),
                "reason",
                "a void piece needs its reason",
                "Say what went wrong.",
            )


def wood_failure(o: Observation) -> float | None:
    """Wood failure in %: as judged, else from the shares of the failure modes, else unknown."""
    if o.wood_failure_pct is not None:
        return o.wood_failure_pct
    return wood_of_shares(o.shares)


def wood_of_shares(own: Shares) -> float | None:
    """The part of shares that is in the wood, %; ``None`` without any."""
    return sum(v for k, v in own if shares.mode_of(k) in WOOD_MODES) if own else None
