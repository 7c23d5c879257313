"""What the statistics are given: pieces with what each gives, and treatments with their pieces."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from math import fsum, inf

from adhaero.core.observation import WOOD_MODES, Kind
from adhaero.core.piece_record import Datum, Known
from adhaero.core.piece_standing import Stands, stands

WEAK_N = 3
"""Below this number of pieces nothing is claimed that rests on scatter."""


@dataclass(frozen=True)
class Piece:
    """One specimen's part in the analysis. ``flags`` are the kinds of what is worth minding about it, ``parent``
    is what it was made as one with.
    """

    code: str
    datum: Datum
    kind: Kind | None = None
    failure_mode: str | None = None
    wood_failure_pct: float | None = None
    set_up: int | None = None
    flags: tuple[str, ...] = ()
    parent: str = ""

    @property
    def stands(self) -> Stands:
        """How far it is."""
        return stands(self.kind, apart=self.datum.known is Known.BELOW)

    @property
    def in_wood(self) -> bool:
        """Whether the wood gave way, not the glue."""
        return self.failure_mode in WOOD_MODES

    @property
    def opened(self) -> bool:
        """Whether it was broken or opened, so that its faces say something."""
        return self.datum.counts or self.kind is Kind.SEEN


@dataclass(frozen=True)
class Group:
    """A treatment with its pieces.

    ``control`` is what it serves as (standard, plain, untreated, dry, time-zero), ``solid`` the key that finds the
    solid reference that is loaded the same way; empty with the reason in ``no_solid``. ``left_out`` are the reasons of
    pieces that are not run. ``unit`` is what is counted: a piece, or the panel that pieces were sawn from.
    ``solid_scale`` is by what figures of the solid reference are multiplied before this treatment is set against it.
    """

    letter: str
    label: str
    role: str
    control: str | None
    pieces: Sequence[Piece]
    solid: str = ""
    no_solid: str = ""
    left_out: tuple[str, ...] = ()
    unit: str = "piece"
    solid_scale: float = 1.0
    _given: dict[bool, list[Datum]] = field(default_factory=dict, init=False, compare=False, repr=False)

    def data(self, *, fallen_as_zero: bool) -> list[Datum]:
        """What its units give: of each piece that counts, or of each parent."""
        if fallen_as_zero not in self._given:
            self._given[fallen_as_zero] = self._data(fallen_as_zero=fallen_as_zero)
        return self._given[fallen_as_zero]

    def _data(self, *, fallen_as_zero: bool) -> list[Datum]:
        if self.unit == "piece":
            return [p.datum for p in self.pieces if p.datum.counts]
        return unit_data(self.pieces, fallen_as_zero=fallen_as_zero)

    def units(self, *, fallen_as_zero: bool) -> list[tuple[Datum, list[str]]]:
        """The same, each with the codes of its pieces."""
        if self.unit == "piece":
            return [(p.datum, [p.code]) for p in self.pieces if p.datum.counts]
        own = by_parent(self.pieces)
        return [(_mean([p.datum for p in x], fallen_as_zero=fallen_as_zero), [p.code for p in x]) for x in own]

    @property
    def is_control(self) -> bool:
        """Whether it serves as a control of any kind beside solid wood."""
        return self.role != "solid" and self.control is not None


def unit_data(pieces: Sequence[Piece], *, fallen_as_zero: bool) -> list[Datum]:
    """One datum for every parent: the mean of its pieces, known as well as the least known of them. A piece without a
    parent is a unit of its own.
    """
    return [_mean([p.datum for p in own], fallen_as_zero=fallen_as_zero) for own in by_parent(pieces)]


def by_parent(pieces: Sequence[Piece]) -> list[list[Piece]]:
    """The pieces that count, those of one parent together."""
    own: dict[str, list[Piece]] = {}
    for n, p in enumerate(pieces):
        if p.datum.counts:
            own.setdefault(p.parent or f"alone {n}", []).append(p)
    return list(own.values())


def _mean(data: Sequence[Datum], *, fallen_as_zero: bool) -> Datum:
    standing = [d for d in data if d.known is not Known.BELOW]
    if not standing:
        return data[0]
    used = data if fallen_as_zero else standing
    low, high = (fsum(x) / len(used) for x in ([d.low for d in used], [d.high for d in used]))
    kinds = {d.known for d in used}
    if Known.AT_LEAST in kinds:
        reason = next(d.reason for d in used if d.known is Known.AT_LEAST)
        return Datum(Known.AT_LEAST, low, inf, reason)
    return Datum(Known.BETWEEN if Known.BETWEEN in kinds else Known.EXACT, low, high)


def too_few(n: int, unit: str, of: str = "") -> str:
    """Why nothing is claimed of one or two units, ``of`` a treatment."""
    named = f" of {of}" if of else ""
    if n == 1:
        return f"one {unit}{named} shows that it can happen, not how often"
    return f"{n} {unit}s{named} are too few for any claim about scatter"


def counted(n: int, what: str) -> str:
    """A number with its noun: 1 joint, 2 joints."""
    return f"{n} {what}" if n == 1 else f"{n} {what}s"


def p_in_words(p: float) -> str:
    """A p value as it is said."""
    return "p < 0.001" if p < 0.001 else f"p = {p:.2g}"


def listed(names: Sequence[str], most: int = 6) -> str:
    """Names in a row: A, B and C; of many the first, and how many more."""
    if len(names) > most:
        names = [*names[: most - 1], f"{len(names) - most + 1} more"]
    return names[0] if len(names) == 1 else ", ".join(names[:-1]) + " and " + names[-1]
