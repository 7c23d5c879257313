"""The wood of the pieces as a covariate: its density and moisture, between treatments and within them."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from math import fsum

from adhaero.core.compare.analysis import Analysis
from adhaero.core.compare.data import p_in_words
from adhaero.core.quantity import Dimension
from adhaero.core.statistics.covariate import common_slope
from adhaero.store.boards import StoredBoard
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord

APART = {"density": 0.05, "moisture": 0.10}
"""Share by which the wood of two treatments may differ before it is told: a twentieth of density, a tenth of moisture
(twelve percent against thirteen and a half).
"""


@dataclass(frozen=True)
class BoardCount:
    """A board, what is known of its wood, and the pieces that come from it."""

    label: str
    density_kg_m3: float | None
    moisture_pct: float | None
    codes: list[str]


def board_counts(record: BatchRecord, boards: Mapping[str, StoredBoard]) -> list[BoardCount]:
    """The boards of the pieces that count, by label; ``boards`` by the code of a piece."""
    found: dict[str, BoardCount] = {}
    for s in record.counting:
        if (b := boards.get(s.code)) is not None:
            own = found.setdefault(b.label, BoardCount(b.label, b.density_kg_m3, b.moisture_pct, []))
            own.codes.append(s.code)
    return sorted(found.values(), key=lambda b: b.label)


@dataclass(frozen=True)
class Wood:
    """Density in kg/m3 and moisture in % of a piece, as far as they are known."""

    density: float | None
    moisture: float | None


def wood_of_piece(record: BatchRecord, s: Specimen, board: StoredBoard | None) -> Wood:
    """What is known of the wood of a piece: its own moisture before that of its board."""
    own = record.measured.get(s.id, {}).get("moisture")
    moisture = own.value if own is not None else board.moisture_pct if board else None
    return Wood(board.density_kg_m3 if board else None, moisture)


def along(
    record: BatchRecord, analysis: Analysis, boards: Mapping[str, StoredBoard],
    figure: Callable[[Specimen], float | None], unit: str,
) -> list[str]:  # fmt: skip
    """Where the wood differs between the tested treatments, and where the figure goes along with it within them.
    ``boards`` are those of the pieces, by code.
    """
    place = {analysis.rows[i].group.letter: n for n, i in enumerate(analysis.tested)}
    found = []
    for name, per, of in (("density", 100.0, "kg/m³"), ("moisture", 1.0, "%")):
        rows = [
            (v, place[letter], float(x))
            for s in record.counting
            if (letter := record.treatments[s.treatment_id].letter) in place
            and (x := getattr(wood_of_piece(record, s, boards.get(s.code)), name)) is not None
            and (v := figure(s)) is not None
        ]
        used = sorted({t for _, t, _ in rows})
        if len(used) < 2:
            continue
        numbered = [used.index(t) for _, t, _ in rows]
        xs = [x for _, _, x in rows]
        of_each: dict[int, list[float]] = {}
        for _, t, x in rows:
            of_each.setdefault(t, []).append(x)
        means = {t: fsum(of_each[t]) / len(of_each[t]) for t in used}
        low, high = min(means, key=means.__getitem__), max(means, key=means.__getitem__)
        labels = [analysis.rows[i].group.label for i in analysis.tested]
        if means[high] - means[low] > APART[name] * means[low]:
            found.append(
                f"The wood of {labels[high]} has a {name} of {means[high]:.3g} {of} on average, that of {labels[low]} "
                f"{means[low]:.3g} {of}: part of a difference may be the wood"
            )
        s = common_slope([v for v, _, _ in rows], numbered, xs)
        if s is not None and s.p < 0.05:
            way = "rises" if s.slope > 0 else "falls"
            step = record.units.text(abs(s.slope) * per, Dimension(unit))
            found.append(
                f"Within treatments the figure {way} with {name}: by {step} for {per:g} {of} ({p_in_words(s.p)})"
            )
    return found
