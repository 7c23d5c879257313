"""Joints -> glue runs, before anything is placed in time: one mix, joints that share their times.

*Blocks*: a run holds one joint of every treatment that shares glue and times, so that a bad run hits all alike.
*Loads*: a run holds all replicates of one treatment: fewer, fuller clamps, but its pieces are no longer independent.
"""

from __future__ import annotations

import random
from collections.abc import Sequence
from dataclasses import dataclass

from adhaero.core.glue.schedule.problem import Clamps, Joint, Problem

BLOCKS, LOADS = "blocks", "loads"


@dataclass(frozen=True)
class Load:
    """The joints in one clamp (or the one joint under several): indices into the problem's joints, in the order of
    gluing. ``dummies`` lie beside them, so that a weight's force is shared as it is wanted.
    """

    kind: str
    joints: tuple[int, ...]
    clamps: int = 1
    dummies: int = 0


@dataclass(frozen=True)
class Run:
    """One mix and what is glued with it, clamp by clamp. All joints of a run share glue and times."""

    index: int
    loads: tuple[Load, ...]

    @property
    def joints(self) -> tuple[int, ...]:
        """All joints in the order of gluing."""
        return tuple(j for load in self.loads for j in load.joints)


def most_joints(problem: Problem, joint: Joint) -> int:
    """How many joints one run may hold: by open time, pot life, and the longest stretch at the bench."""
    limits, pace = problem.limits(joint.glue), problem.pace
    longest = max((b - a for a, b in problem.hours), default=0)
    by_open = limits.open_s // pace.joint_s
    by_pot = (limits.pot_s - pace.mix_s) // pace.joint_s if limits.pot_s else by_open
    by_hours = (longest - pace.mix_s) // pace.joint_s
    # Releases and breaks follow each other within the tolerances: the last of a block must keep its own.
    clamp_gap, break_gap = abs(pace.joint_s - pace.unclamp_s), abs(pace.joint_s - pace.at_rig_s(joint))
    by_clamp = 1 + 2 * joint.clamp_tol_s // clamp_gap if clamp_gap else by_open
    apart = (joint.sections - 1) * pace.break_s
    by_break = 1 + (2 * joint.cure_tol_s - apart) // break_gap if break_gap else by_open
    return max(1, min(by_open, by_pot, by_hours, by_clamp, by_break))


def compose(problem: Problem, style: str = BLOCKS, seed: int = 0) -> list[Run]:
    """Runs for all joints that some clamp can press. Same input and seed, same runs."""
    rng = random.Random(f"runs {seed}")
    alike: dict[tuple[object, ...], list[int]] = {}
    for i, j in enumerate(problem.joints):
        times = (j.glue, j.clamp_s, j.cure_s, j.wet_s, j.dry_s, j.clamp_tol_s, j.cure_tol_s, j.clampless,
                 j.sections, j.apart)  # fmt: skip
        alike.setdefault((*times, j.treatment if style == LOADS else ""), []).append(i)
    runs: list[Run] = []
    wave = _Wave(problem)
    for own in alike.values():
        by_treatment: dict[str, list[int]] = {}
        for i in sorted(own, key=lambda i: problem.joints[i].replicate):
            by_treatment.setdefault(problem.joints[i].treatment, []).append(i)
        for part in _portions(problem, by_treatment):
            todo = list(part)
            rng.shuffle(todo)
            while todo:
                loads, todo = _loads(problem, todo, wave)
                if not loads:
                    break
                runs.append(Run(len(runs), tuple(loads)))
    return runs


def _portions(problem: Problem, by_treatment: dict[str, list[int]]) -> list[list[int]]:
    """Joints of one kind of run, dealt in blocks: whole blocks where a run can hold them, evenly where not."""
    first = problem.joints[next(iter(by_treatment.values()))[0]]
    dealt = [i for row in _rows(list(by_treatment.values())) for i in row]
    most = min(most_joints(problem, first), _room(problem, [problem.joints[i] for i in dealt]))
    if most < 1:
        return []
    block = len(by_treatment)
    size = most - most % block if most >= block else most
    count = -(-len(dealt) // size)
    if size == most and block > most:
        # A block that does not fit in one run is spread over several of even size.
        size = -(-len(dealt) // count)
    return [dealt[i : i + size] for i in range(0, len(dealt), size)]


def _rows(columns: list[list[int]]) -> list[list[int]]:
    longest = max(len(c) for c in columns)
    return [[c[r] for c in columns if r < len(c)] for r in range(longest)]


def fitting(problem: Problem, joint: Joint) -> list[Clamps]:
    """The clamps that can press a joint, those that fit it most closely first."""
    able = [c for c in problem.clamps if c.count >= joint.clamps and c.dummies(joint) is not None]
    return sorted(able, key=lambda c: (c.least_n == 0, c.most_n if c.most_n is not None else 1e12, c.key))


def _room(problem: Problem, joints: Sequence[Joint]) -> int:
    """How many of these joints all fitting clamps hold together."""
    kinds = {c.key: c for j in joints for c in fitting(problem, j)}
    most = max(j.clamps for j in joints)
    return sum(c.count * c.places if most == 1 else c.count // most for c in kinds.values())


class _Wave:
    """The clamps that runs glued side by side would leave free: the next run takes those, so that it need not wait."""

    def __init__(self, problem: Problem) -> None:
        self._full = {c.key: c.count for c in problem.clamps}
        self._left = dict(self._full)

    def order(self, kinds: Sequence[Clamps], need: int) -> list[Clamps]:
        """The kinds for a run of ``need`` clamps: those with room for all of it first. What only a weight presses
        closely stays with weights.
        """
        if kinds and kinds[0].least_n > 0:
            kinds = [c for c in kinds if c.least_n > 0]
        if all(self._left[c.key] < min(need, c.count) for c in kinds):
            for c in kinds:
                self._left[c.key] = self._full[c.key]
        return sorted(kinds, key=lambda c: self._left[c.key] < min(need, c.count))

    def take(self, key: str, clamps: int) -> None:
        """Clamps of that kind are on a run of this wave."""
        self._left[key] = max(0, self._left[key] - clamps)


def _loads(problem: Problem, joints: Sequence[int], wave: _Wave) -> tuple[list[Load], list[int]]:
    """Clamps for joints that are glued together, and the joints for which none is left.

    A clamp is shared only at one pressure.
    """
    left = {c.key: c.count for c in problem.clamps}
    orders: dict[tuple[float, int, str], list[Clamps]] = {}
    found: list[Load] = []
    over: list[int] = []
    todo = list(joints)
    while todo:
        joint = problem.joints[todo[0]]
        alike_key = joint.force_n, joint.clamps, joint.means
        if alike_key not in orders:
            need = sum(problem.joints[i].clamps for i in todo)
            orders[alike_key] = wave.order(fitting(problem, joint), need)
        # A run keeps to one kind of clamp where it can: another would be one more thing that differs.
        able = [c for c in orders[alike_key] if left[c.key] >= joint.clamps]
        kind = next((c for c in able if any(x.kind == c.key for x in found)), able[0] if able else None)
        if kind is None:
            over.append(todo.pop(0))
            continue
        together = [todo[0]]
        for other in todo[1:]:
            alone = joint.clamps > 1 or problem.joints[other].clamps > 1
            beside = problem.joints[other]
            alike = beside.means == joint.means and abs(beside.force_n - joint.force_n) <= 0.02 * joint.force_n
            if alike and not alone and _beside(problem, kind, [*together, other]) is not None:
                together.append(other)
        left[kind.key] -= joint.clamps
        wave.take(kind.key, joint.clamps)
        found.append(Load(kind.key, tuple(together), joint.clamps, _beside(problem, kind, together) or 0))
        todo = [x for x in todo if x not in together]
    return found, over


def _beside(problem: Problem, kind: Clamps, together: Sequence[int]) -> int | None:
    """With how many dummies a clamp presses these joints by what each of them wants; ``None`` if it cannot."""
    own = [problem.joints[i] for i in together]
    if len(own) > kind.places:
        return None
    return kind.dummies(own[0], len(own), sum(j.force_n for j in own) / len(own))
