"""Dummies: what fills the empty places of weights that press several joints side by side."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from adhaero.core.glue.schedule.problem import Clamps, Joint
from adhaero.core.plan.caveat import Caveat
from adhaero.core.plan.document import Plan


def at_once(joint: Joint, count: int, kinds: Sequence[Clamps]) -> tuple[Clamps, int] | None:
    """The clamps that ``count`` such joints go to, and the dummies that lie beside them if all are glued at once;
    ``None`` where no clamp that can press them asks for any. A weight is filled before the next one is taken.
    """
    able = [k for k in kinds if k.dummies(joint) is not None]
    if not able or any(k.dummies(joint) == 0 for k in able):
        return None
    kind = max(able, key=lambda k: (k.count * k.places, k.key))
    full = next(j for j in range(kind.places, 0, -1) if kind.dummies(joint, j) is not None)
    loads = [full] * (count // full) + ([count % full] if count % full else [])
    used = sorted((kind.dummies(joint, n) or 0 for n in loads), reverse=True)[: kind.count]
    return (kind, sum(used)) if any(used) else None


def dummy_caveats(plan: Plan, joints: Sequence[tuple[Joint, int]], kinds: Sequence[Clamps]) -> Iterator[Caveat]:
    """That dummies are short: ``joints`` are one of every treatment with how many are made. Treatments take turns at
    the weights, so that no more are needed than all weights can hold at once.
    """
    needed: dict[str, int] = {}
    known = {k.key: k for k in kinds}
    for joint, count in joints:
        found = at_once(joint, count, kinds)
        if found is not None:
            needed[found[0].key] = needed.get(found[0].key, 0) + found[1]
    total = sum(min(n, known[key].count * (known[key].places - 1)) for key, n in needed.items())
    if total > plan.dummies:
        names = " and ".join(known[key].label for key in needed)
        what = "dummy fills the place" if total == 1 else "dummies fill the places"
        text = f"{names}: several joints lie side by side, and {total} {what} that stay empty, so that each is " \
               f"pressed as hard as planned. {plan.dummies or 'None'} planned."  # fmt: skip
        yield Caveat("dummies", text, f"Make {total} {'dummy' if total == 1 else 'dummies'}", {"dummies": total})
