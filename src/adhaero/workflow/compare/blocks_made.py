"""The blocks of a plan as they were made: two planned days on which everything was glued at once are one day."""

from __future__ import annotations

from collections.abc import Callable
from datetime import timedelta

from adhaero.core.compare.caveat import Caveat, Weight
from adhaero.core.compare.data import counted
from adhaero.core.plan.blocks import KINDS
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import moment

APART = {"day": timedelta(hours=8), "session": timedelta(hours=2)}
"""Kind of a block -> the pause without a glue-up after which the next one begins."""


def blocks_made(record: BatchRecord) -> dict[int, str]:
    """Return the block in which each piece was really made or broken, by specimen id.

    Days and sessions are told apart by when their glue-ups began, makers, testers and set-ups by what is on record;
    where nobody is named, by the plan. Pieces of which nothing is on record yet have none. A study from a file has the
    blocks that its file names.
    """
    b = record.plan.blocks
    if b is None:
        return {}
    told: dict[str, Callable[[Specimen], str]] = {
        "maker": lambda s: record.glueups[record.members[s.id].glueup_id].person if s.id in record.members else "",
        "tester": lambda s: record.observed[s.id].person if s.id in record.observed else "",
        "set-up": lambda s: str(record.observed[s.id].setup_id or "") if s.id in record.observed else "",
    }
    runs = _runs(record, APART[b.kind]) if b.kind in APART else {}
    found: dict[int, str] = {}
    for s in record.counting:
        seen, member = record.observed.get(s.id), record.members.get(s.id)
        if not s.block:
            continue
        if member is None and (seen is None or (record.glued_in_blocks and seen.source != "file")):
            continue
        own = str(runs[member.glueup_id]) if runs and member else told[b.kind](s) if b.kind in told else ""
        found[s.id] = own or f"planned {s.block}"
    return found


def _runs(record: BatchRecord, apart: timedelta) -> dict[int, int]:
    """Glue-up -> the run of glue-ups without a longer pause that it belongs to."""
    found: dict[int, int] = {}
    last = None
    for g in sorted(record.glueups.values(), key=lambda g: g.started_at):
        at = moment(g.started_at)
        found[g.id] = max(found.values(), default=0) + (last is None or at - last >= apart)
        last = at
    return found


def not_as_planned(record: BatchRecord) -> list[Caveat]:
    """What a reader must know where pieces were made in fewer blocks than planned."""
    b, made = record.plan.blocks, blocks_made(record)
    if b is None or not made:
        return []
    planned = len({s.block for s in record.counting if s.id in made})
    real = len(set(made.values()))
    if real >= planned:
        return []
    how = "glued" if record.glued_in_blocks else "broken"
    text = f"The plan spreads the pieces over {counted(planned, KINDS[b.kind])}; they were {how} in {real}."
    return [Caveat(text, Weight.OVERTURNS)]
