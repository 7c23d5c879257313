"""What a conclusion holds for, its scope; and where load and strength tell different orders."""

from __future__ import annotations

from collections.abc import Iterable
from math import fsum

from adhaero.core.compare.data import listed
from adhaero.core.piece_record import datum
from adhaero.core.plan.document import level_name
from adhaero.core.quantity import Dimension
from adhaero.core.times import span
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.compare.sections import scale_of_solid
from adhaero.workflow.piece_records import piece_record

SECTIONS_DIFFER = 0.02
"""Share by which the figure of one newton may differ before two sections are not the same."""


def scope(record: BatchRecord) -> str:
    """Form, kind of load, wood, age and state of what was tested, as one line that goes with every conclusion."""
    joints = [s for s in record.counting if s.role != "solid"]
    forms = sorted({record.form(s).name.lower() for s in joints})
    woods = sorted({level_name("species", level) for s in joints if (level := record.level(s, "species"))})
    states = sorted({level_name("conditioning", level).lower() for s in joints
                     if (level := record.level(s, "conditioning")) and level.value})  # fmt: skip
    parts = [record.plan.method_name or record.method.name, listed(forms, 4) if forms else "",
             listed(woods, 4) if woods else "", _ages(record, joints), listed(states, 4) if states else ""]  # fmt: skip
    return "Holds for: " + "; ".join(x for x in parts if x) + "."


def _ages(record: BatchRecord, joints: Iterable[Specimen]) -> str:
    known = sorted(a for s in joints if (a := piece_record(record, s).age_s) is not None and a >= 0)
    if not known:
        return "age not known"
    low, high = span(known[0]), span(known[-1])
    return f"{low} old" if low == high else f"{low} to {high} old"


def by_load_and_by_strength(record: BatchRecord) -> list[str]:
    """Where the order of the treatments by load is another than by strength: area alone does not explain it."""
    if record.method.loadless or record.method.figure_dimension is Dimension.FORCE:
        return []
    loads: dict[int, list[float]] = {}
    strengths: dict[int, list[float]] = {}
    for s in record.counting:
        if s.role == "solid":
            continue
        both = record.row("both figures", s, _both)
        if both is not None:
            loads.setdefault(s.treatment_id, []).append(both[0])
            strengths.setdefault(s.treatment_id, []).append(both[1])
    if len(loads) < 2:
        return []
    means = [{t: fsum(v) / len(v) for t, v in of.items()} for of in (loads, strengths)]
    first = [max(own, key=own.__getitem__) for own in means]
    if first[0] == first[1]:
        return []
    names = [record.treatments[t].label for t in first]
    return [f"By load {names[0]} holds most, by strength {names[1]}: joints differ in size, and area alone does not "
            "explain a joint"]  # fmt: skip


def _both(record: BatchRecord, s: Specimen) -> tuple[float, float] | None:
    """Load and strength of a piece, where both are exact."""
    p = piece_record(record, s)
    by_load, by_strength = (datum(p, record.plan.target, load=x) for x in (True, False))
    return (by_load.low, by_strength.low) if by_load.is_exact and by_strength.is_exact else None


def other_sections(record: BatchRecord) -> list[str]:
    """Solid pieces of another section than the joints: their loads do not compare as they are, but by a rule."""
    rule = record.plan.judging.section
    if rule is not None:
        joints, solids = ([s for s in record.counting if (s.role == "solid") == x] for x in (False, True))
        scale = scale_of_solid(record, joints, solids)
        if abs(scale - 1) <= SECTIONS_DIFFER:
            return []
        source = f" ({rule.source})" if rule.source else ""
        return [f"Loads of solid wood count at {scale:.3g} of themselves: {rule.size} of the joints over that of the "
                f"solid pieces, to the power {rule.power:g}{source}"] if solids and joints else []  # fmt: skip
    per: dict[bool, list[float]] = {True: [], False: []}
    for s in record.counting:
        per[s.role == "solid"].append(piece_record(record, s).per_newton)
    if not per[True] or not per[False]:
        return []
    solid, joint = (fsum(per[x]) / len(per[x]) for x in (True, False))
    ratio = solid / joint
    if abs(ratio - 1) <= SECTIONS_DIFFER or record.method.figure_dimension is Dimension.FORCE:
        return []
    return [f"Solid pieces have another section than the joints: the same load is {ratio:.3g} times the strength in "
            "them. Shares of solid wood are right by strength, not by load"]  # fmt: skip
