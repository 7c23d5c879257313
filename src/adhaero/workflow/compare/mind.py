"""What was not alike between treatments though nobody planned it: ages, mixes, fasteners, minutes out of the bath; and
what was seen of the pieces on their way.
"""

from __future__ import annotations

from collections.abc import Iterator

from adhaero.core.compare.ages import age_gap
from adhaero.core.compare.survival import survival
from adhaero.core.glue.told import LEFT_IN
from adhaero.store.specimens import Specimen
from adhaero.workflow.facts import Facts
from adhaero.workflow.workshop import moment

OUT_OF_BATH_S = 20 * 60
"""How long a wet, hot or frozen piece may wait for its break: afterwards it is on its way to another state."""


def to_mind(facts: Facts) -> list[str]:
    """In words, each naming the treatments that it is about."""
    joints = [s for s in facts.counting if s.id in facts.members]
    return [*_ages(facts, joints), *_mixes(facts, joints), *_fasteners(facts, joints), *_dripping(facts, joints)]


def inspected(facts: Facts) -> list[str]:
    """What looks at the pieces on their way to the break said, a treatment a line."""
    own: dict[int, dict[str, list[tuple[float, bool]]]] = {}
    for s in facts.counting:
        looks = [e for e in facts.told.get(s.id, ()) if e.kind == "inspected" and "whole" in e.value]
        if looks:
            days = [((moment(e.at) - facts.pressed_at(s)).total_seconds() / 86400, e) for e in looks]
            own.setdefault(s.treatment_id, {})[s.code] = [
                (round(day, 2), e.value["whole"] != "apart") for day, e in days
            ]
    return [f"{facts.treatments[t].label}: {survival(pieces).in_words()}" for t, pieces in sorted(own.items())]


def _ages(facts: Facts, joints: list[Specimen]) -> Iterator[str]:
    """Treatments with the same planned age and conditioning are held against each other."""
    alike: dict[tuple[object, ...], dict[str, list[float]]] = {}
    for s in joints:
        seen = facts.observed.get(s.id)
        if seen is not None:
            age = (moment(seen.at) - facts.pressed_at(s)).total_seconds()
            label = facts.treatments[s.treatment_id].label
            alike.setdefault((s.cure_s, facts.conditioning(s)), {}).setdefault(label, []).append(age)
    for own in alike.values():
        gap = age_gap(own)
        if gap is not None:
            yield f"{gap.in_words()}. Part of a difference may be the age."


def _mixes(facts: Facts, joints: list[Specimen]) -> Iterator[str]:
    odd: dict[str, dict[str, int]] = {}
    for s in joints:
        mix = facts.mixes.get(facts.members[s.id].glueup_id)
        if mix is not None and mix.deviation:
            own = odd.setdefault(mix.deviation, {})
            label = facts.treatments[s.treatment_id].label
            own[label] = own.get(label, 0) + 1
    for deviation, own in odd.items():
        yield f"The glue was not as its label has it ({deviation}): {_counted(own)}."


def _fasteners(facts: Facts, joints: list[Specimen]) -> Iterator[str]:
    left: dict[str, int] = {}
    for s in joints:
        told = facts.last(s.id, "fastener")
        if told is not None and told.value.get("left") == LEFT_IN:
            label = facts.treatments[s.treatment_id].label
            left[label] = left.get(label, 0) + 1
    if left:
        yield f"Fasteners were left in: {_counted(left)}. These are not held by the glue alone."


def _dripping(facts: Facts, joints: list[Specimen]) -> Iterator[str]:
    """Pieces to be broken wet that stood too long between bath and break."""
    late = []
    for s in joints:
        out, seen = facts.conditioned.get((s.id, "out")), facts.observed.get(s.id)
        if out is not None and seen is not None and not facts.conditioning(s)[1]:
            waited = (moment(seen.at) - moment(out.at)).total_seconds()
            if waited > OUT_OF_BATH_S:
                late.append(f"{s.code} {waited / 60:.0f} min")
    if late:
        yield f"Broken more than {OUT_OF_BATH_S // 60} min after leaving the conditioning: {', '.join(late)}."


def _counted(own: dict[str, int]) -> str:
    return ", ".join(f"{label} ({n} {'joint' if n == 1 else 'joints'})" for label, n in own.items())
