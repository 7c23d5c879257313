"""What a comparison says of its batch as a whole: guesses, digits, rigs, curves."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from adhaero.core.compare.analysis import Analysis
from adhaero.core.compare.caveat import Caveat
from adhaero.core.compare.prediction import in_words, score
from adhaero.core.observation import WOOD_MODES
from adhaero.core.plan.glues import policy_in_words
from adhaero.core.quantity import supported_digits
from adhaero.store.guesses import Guess
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.piece_records import piece_record
from adhaero.workflow.plan.guessing import scores


def guess(record: BatchRecord, a: Analysis, reference: int | None, said: Sequence[Guess], *, load: bool) -> list[str]:
    """How the guess of the plan and those of others came out; loads become the figure by the nominal sizes."""
    planned = {t.id: t for t in record.planned.values()}
    scale = {i: 1.0 if load else record.method.per_newton(t.sizes) for i, t in planned.items()}
    guessed = {planned[k].letter: v * scale[k] for k, v in record.plan.guesses.items() if k in planned}
    found = {r.group.letter: r.summary.mean for r in a.rows if r.summary.mean is not None}
    control = a.rows[reference].group.letter if reference is not None else ""
    by_letter = {t.letter: scale[i] for i, t in planned.items()}
    others = list(scores(said, found, control, by_letter))
    scored = score(guessed, found)
    if scored is None:
        return others
    return [in_words(scored), *others]


def policy(record: BatchRecord) -> list[Caveat]:
    """That each glue was used by its own label, where that is so: it runs along with the glue."""
    said = policy_in_words(record.plan, record.units)
    return [Caveat(said)] if said else []


def decimals(record: BatchRecord, *, load: bool) -> int:
    """Decimals that the typical reading supports, and one more for a mean."""
    known = []
    for s in record.counting:
        p = piece_record(record, s)
        if p.reading and p.reading.observation.low_n:
            known.append((p.reading.observation.low_n, p))
    if not known:
        return 0 if load else 2
    load_n, piece = sorted(known, key=lambda k: k[0])[len(known) // 2]
    step = piece.reading.resolution_n if piece.reading and piece.reading.resolution_n else 1.0
    doubt = max(step, 0.1) if load else piece.uncertainty(load_n)
    return max(0, min(3, supported_digits(load_n, doubt)))


def limits(record: BatchRecord, *, load: bool) -> list[float]:
    """Where the rigs end under which the pieces were broken, as they were then; nowhere for pieces of several sizes,
    whose figures end at different places.
    """
    scales = {1.0 if load else record.method.per_newton(t.sizes) for t in record.planned.values()}
    if len(scales) != 1:
        return []
    scale = scales.pop()
    used = {o.setup_id for o in record.observed.values() if o.setup_id is not None}
    return sorted({record.set_ups[i].capacity_n * scale for i in used if i in record.set_ups})


def broke_in_wood(a: Analysis) -> bool:
    """Whether joint and bond are two views: some joint gave way in its wood, partly or wholly, or elsewhere."""
    modes = {m for r in a.rows if r.group.role != "solid" for m in r.modes}
    return bool(modes & {*WOOD_MODES, "elsewhere", "mixed"})


def any_curve(record: BatchRecord) -> bool:
    """Whether a reading that counts has a curve with marks, here or in the file that it came from."""
    return any((r := piece_record(record, s).reading) is not None and r.marks for s in record.counting)


def times_to_peak(record: BatchRecord) -> Iterator[float]:
    """How long it took to the peak, s, of every piece whose curve shows it."""
    for s in record.counting:
        r = piece_record(record, s).reading
        if r is not None and r.figures is not None and r.figures.to_failure_s is not None:
            yield r.figures.to_failure_s
