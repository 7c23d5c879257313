"""The planned comparisons judged, and what weakens them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from itertools import combinations

from adhaero.core.compare import limitations, outlying
from adhaero.core.compare.analysis import Analysis
from adhaero.core.compare.as_study import Shared
from adhaero.core.compare.axis import Axis, Levels, along
from adhaero.core.compare.case import OF_STRENGTH, Case, Words
from adhaero.core.compare.caveat import Caveat
from adhaero.core.compare.planned import FamilyResult, Setting, judge_families
from adhaero.core.compare.saying import begun
from adhaero.core.plan.comparisons import Contrast, Family, Within, primary


@dataclass(frozen=True)
class Verdict:
    """What weakens the comparisons, and the ``case`` that this is about (none where there are no figures).
    ``reference`` is the row that others are drawn against: the control or, without one, the highest mean.
    """

    reference: int | None
    caveats: list[Caveat]
    case: Case | None = None

    @property
    def results(self) -> list[FamilyResult]:
        """The families as they were judged."""
        return self.case.results if self.case else []

    @property
    def axes(self) -> list[Axis]:
        """What is found along numeric factors."""
        return self.case.axes if self.case else []


def reference_row(analysis: Analysis) -> int | None:
    """The control if it can be tested (the standard one first), else the highest mean; ``None`` if nothing can."""
    rows = analysis.rows
    controls = [i for i in analysis.tested if rows[i].group.is_control]
    if controls:
        return min(controls, key=lambda i: rows[i].group.control != "standard")
    return max(analysis.tested, key=lambda i: rows[i].summary.mean or 0.0, default=None)


def usual_families(analysis: Analysis) -> list[Family]:
    """What is compared where no plan says it: all with the control, without one each with every other."""
    joints = [r.group for r in analysis.rows if r.group.role != "solid"]
    control = next((g for g in joints if g.control == "standard"), next((g for g in joints if g.is_control), None))
    pairs = [(g, control) for g in joints if g is not control] if control else [
        (b, a) for a, b in combinations(joints, 2)
    ]  # fmt: skip
    contrasts = [Contrast(f"{a.label} against {b.label}", a.label, b.label, (Within(a.letter, b.letter),))
                 for a, b in pairs]  # fmt: skip
    return [Family("all", "factor", "", tuple(contrasts), every_pair=control is None)] if contrasts else []


def judge(
    analysis: Analysis, show: Callable[[float], str], *, families: Sequence[Family] | None = None,
    levels: Sequence[Levels] = (), matters: float = 0.10, alpha: float = 0.05, wanted_power: float = 0.8,
    fallen_as_zero: bool = True, single_figure: str = "strength", words: Words = OF_STRENGTH,
    shared: Shared | None = None,
) -> Verdict:  # fmt: skip
    """The verdict of an analysis. ``families`` are the comparisons of the plan, ``levels`` its numeric factors;
    ``show`` writes a figure with its unit; ``matters`` is a share; ``words`` say what more of the figure is;
    ``shared`` is what treatments share.
    """
    wanted = usual_families(analysis) if families is None else families
    setting = Setting({r.group.letter: r for r in analysis.rows}, alpha, matters, fallen_as_zero, shared)
    results = judge_families(wanted, setting)
    first = primary([r.family for r in results])
    main = next((r for r in results if r.family is first), None)
    by_key = {x.key: x for x in levels}
    axes = [along(r.family, by_key[r.family.of], setting) for r in results if r.family.of in by_key]
    case = Case(analysis, setting, results, main, axes, reference_row(analysis), show, wanted_power, single_figure,
                words)  # fmt: skip
    found = [*outlying.find(case), *limitations.find(case)]
    return Verdict(case.reference, [replace(c, text=begun(c.text)) for c in found], case)
