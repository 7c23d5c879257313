"""Planned blocks: days, sessions, makers, rig set-ups and testers over which every treatment is spread alike."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from adhaero.core.plan.caveat import Caveat
from adhaero.core.plan.document import Blocks, Plan
from adhaero.core.plan.parents import units_of
from adhaero.core.refusal import Problems

AT_GLUING: Mapping[str, str] = {"day": "day", "session": "session", "maker": "maker"}
AT_BREAK: Mapping[str, str] = {"set-up": "rig set-up", "tester": "person at the rig"}
KINDS: Mapping[str, str] = {**AT_GLUING, **AT_BREAK}
"""Kind of a block -> its name. Those at gluing are glued one after the other, those at the break broken so."""
MOST = 20


def block_of(b: Blocks | None, replicate: int, each: int = 1) -> int | None:
    """The block of a replicate (from 1), where ``each`` of a treatment share a parent: in turn, one after the other."""
    return None if b is None else (replicate - 1) // each % b.count + 1


def check_blocks(plan: Plan, p: Problems) -> None:
    """What keeps a plan with blocks from being locked."""
    b = plan.blocks
    if b is None:
        return
    p.check(
        b.kind in KINDS, "blocks.kind", f"{b.kind[:20]!r} is no kind of block", "Use one of: " + ", ".join(KINDS) + "."
    )
    p.check(2 <= b.count <= MOST, "blocks.count", f"blocks must be 2 to {MOST}", "Type how many there are.")


def block_caveats(plan: Plan) -> Iterator[Caveat]:
    """Blocks that cannot hold every treatment alike."""
    b = plan.blocks
    if b is None:
        return
    n, name = units_of(plan, plan.replicates), KINDS.get(b.kind, b.kind)
    if n < b.count:
        yield Caveat("blocks", f"{n} of each do not reach all {b.count} {name}s: some of them lack treatments.")
    elif n % b.count:
        yield Caveat("blocks", f"{n} of each do not come out even over {b.count} {name}s: some hold one more.")
