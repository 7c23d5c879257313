"""What a schedule puts on a visit of its own: whatever is special about that visit then looks like an effect of it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from adhaero.core.compare.data import listed
from adhaero.core.plan.document import level_name
from adhaero.workflow.batch_record import BatchRecord

TOLD = 3
"""At most this many levels are named; with more, every level has a visit of its own."""


def glued_alone(record: BatchRecord, mixed_s: Mapping[str, int], hours: Sequence[tuple[int, int]]) -> list[str]:
    """Return a sentence for each factor of which a level shares no visit with any other level.

    ``mixed_s`` is when each joint's glue is mixed (code -> s since the start), ``hours`` are the visits in s.
    """
    visit = {code: next((n for n, (a, b) in enumerate(hours) if a <= s < b), -1) for code, s in mixed_s.items()}
    found = []
    for f in record.plan.factors:
        own: dict[str, set[int]] = {}
        for s in record.pieces:
            level = record.level(s, f.key)
            if level is not None and (code := record.unit_code(s)) in visit:
                own.setdefault(level_name(f.key, level), set()).add(visit[code])
        alone = [
            name for name, at in own.items() if not any(at & other for level, other in own.items() if level != name)
        ]
        if len(own) > 1 and alone and len(set().union(*own.values())) > 1:
            many = "each on a visit" if len(alone) > 1 else "on a visit"
            found.append(
                f"{f.name}: {listed(alone, TOLD)} {'are' if len(alone) > 1 else 'is'} glued {many} of "
                f"{'their' if len(alone) > 1 else 'its'} own. If that day is damper or colder, it will look like an "
                "effect of what you compare. Glue some of each on every visit where you can."
            )
    return found
