"""What stands beside strength: own properties, real age, price and weight of the glue, the wood.

Each is an axis to set the treatments on, a covariate within them, a filter of pieces, and a part of the user's own
weighing; none of them is part of any figure unless the user says so.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from math import fsum, inf

from adhaero.core.compare.analysis import Analysis
from adhaero.core.compare.data import p_in_words
from adhaero.core.piece_record import PieceRecord
from adhaero.core.properties import OwnValue
from adhaero.core.quantity import Dimension
from adhaero.core.refusal import refuse
from adhaero.core.statistics.covariate import common_slope
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.compare.background import Background
from adhaero.workflow.compare.glue_costs import of_joint
from adhaero.workflow.compare.wood import wood_of_piece
from adhaero.workflow.piece_records import piece_record

DAY_S = 86400.0
Figure = Callable[[Specimen], float | None]


@dataclass(frozen=True)
class Quantity:
    """A quantity of pieces: its mean and number by treatment (letter), and what it does ``within`` treatments.
    Grades are told by their places, the lowest 1.
    """

    key: str
    name: str
    unit: str
    grades: list[str]
    means: dict[str, float]
    counts: dict[str, int]
    within: str


@dataclass(frozen=True)
class _Source:
    key: str
    name: str
    unit: str
    grades: list[str]
    of: Callable[[Specimen], float | None]


def _sources(record: BatchRecord, background: Background) -> Iterator[_Source]:
    def days(of: Callable[[PieceRecord], float | None]) -> Callable[[Specimen], float | None]:
        def found(s: Specimen) -> float | None:
            seconds = of(piece_record(record, s))
            return None if seconds is None else seconds / DAY_S

        return found

    def glue(place: int) -> Callable[[Specimen], float | None]:
        return lambda s: c[place] if s.id in record.members and (c := of_joint(record, s)) is not None else None

    def wood(name: str) -> Callable[[Specimen], float | None]:
        return lambda s: getattr(wood_of_piece(record, s, background.boards.get(s.code)), name)

    def judged(own: Mapping[str, OwnValue]) -> Callable[[Specimen], float | None]:
        return lambda s: v.number if (v := own.get(s.code)) is not None else None

    for p in record.plan.properties:
        own = background.own.get(p.id, {})
        yield _Source(p.id, p.name, p.unit, list(p.grades), judged(own))
    yield _Source("age", "Age at the break", "d", [], days(lambda p: p.age_s))
    yield _Source("cured", "Time before its conditioning", "d", [], days(lambda p: p.cured_s if p.stay else None))
    yield _Source("stayed", "Time in its conditioning", "d", [], days(lambda p: p.stayed_s))
    yield _Source("rested", "Time after its conditioning", "d", [], days(lambda p: p.rested_s))
    yield _Source("glue-cost", "Glue of a joint", "money", [], glue(1))
    yield _Source("glue-g", "Glue of a joint", "g", [], glue(0))
    yield _Source("density", "Density of the wood", "kg/m³", [], wood("density"))
    yield _Source("moisture", "Moisture of the wood", "%", [], wood("moisture"))


def quantities(
    record: BatchRecord, background: Background, a: Analysis, figure: Figure, dimension: Dimension
) -> list[Quantity]:
    """Those that are known of more than one treatment and are not the same for all pieces."""
    letters = {r.group.letter for r in a.rows if r.group.role != "solid"}
    pieces = [s for s in record.counting if record.treatments[s.treatment_id].letter in letters]
    found = []
    for source in _sources(record, background):
        values = [(s, v) for s in pieces if (v := source.of(s)) is not None]
        own: dict[str, list[float]] = {}
        for s, v in values:
            own.setdefault(record.treatments[s.treatment_id].letter, []).append(v)
        if len(own) > 1 and max(v for _, v in values) - min(v for _, v in values) > 1e-9:
            means = {x: fsum(v) / len(v) for x, v in own.items()}
            counts = {x: len(v) for x, v in own.items()}
            within = _within(record, source, values, figure, dimension)
            found.append(Quantity(source.key, source.name, source.unit, source.grades, means, counts, within))
    return found


def _within(
    record: BatchRecord, source: _Source, values: Sequence[tuple[Specimen, float]], figure: Figure, dimension: Dimension
) -> str:
    """Whether the figure goes along with it among pieces of one treatment: one slope for all of them."""
    both = [(y, s.treatment_id, x) for s, x in values if (y := figure(s)) is not None]
    place = {t: n for n, t in enumerate(dict.fromkeys(t for _, t, _ in both))}
    s = common_slope([y for y, _, _ in both], [place[t] for _, t, _ in both], [x for _, _, x in both])
    if s is None:
        return ""
    name, p = source.name.lower(), p_in_words(s.p)
    if s.p >= record.plan.assumptions.alpha:
        return f"Within treatments the figure shows no tie to {name} ({len(both)} pieces, {p})."
    way = "rises" if s.slope > 0 else "falls"
    step = record.units.text(abs(s.slope), dimension)
    return f"Within treatments the figure {way} with {name}: by {step} for 1 {source.unit}".strip() + f" ({p})."


def left_out(record: BatchRecord, background: Background, only: Sequence[str]) -> set[str]:
    """The codes of pieces outside of the ranges ``only`` (key:from:to, either end may be empty), or of which the
    quantity is not known. ``Refusal`` for what is no such range.
    """
    if not only:
        return set()
    sources = {s.key: s for s in _sources(record, background)}
    return {s.code for text in only for s in record.counting if not _is_in(s, *_range(text, sources))}


def _range(text: str, sources: Mapping[str, _Source]) -> tuple[_Source, float, float]:
    key, _, ends = text.partition(":")
    low, colon, high = ends.partition(":")
    try:
        return sources[key], float(low) if low else -inf, float(high) if colon and high else inf
    except (KeyError, ValueError) as error:
        raise refuse("only", f"{text[:40]!r} is no range", "Write the quantity, from and to, like age:3:10.") from error


def _is_in(s: Specimen, source: _Source, low: float, high: float) -> bool:
    v = source.of(s)
    return s.role == "solid" or (v is not None and low <= v <= high)
