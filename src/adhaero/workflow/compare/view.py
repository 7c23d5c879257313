"""The comparison as it is shown."""

from __future__ import annotations

from dataclasses import dataclass

from adhaero.core.breaking.pace import Pace
from adhaero.core.compare.axis import Axis
from adhaero.core.compare.caveat import Caveat
from adhaero.core.compare.lasting import Lasting
from adhaero.core.compare.reaching import Reached
from adhaero.core.compare.schools import Schools
from adhaero.workflow.compare.answers import AnswerView
from adhaero.workflow.compare.claims import ClaimView
from adhaero.workflow.compare.concluding import CommentView, ConclusionView
from adhaero.workflow.compare.counting import Units, Within
from adhaero.workflow.compare.departures import Departed
from adhaero.workflow.compare.glue_costs import GlueCost
from adhaero.workflow.compare.good_enough import GoodEnough
from adhaero.workflow.compare.groups import FlagCount
from adhaero.workflow.compare.own_properties import OwnResult
from adhaero.workflow.compare.planned_view import FactorView, FamilyView
from adhaero.workflow.compare.quantities import Quantity
from adhaero.workflow.compare.results import PairResult, TreatmentResult
from adhaero.workflow.compare.wood import BoardCount


@dataclass(frozen=True)
class SideAnswer:
    """A side question with the treatments that answer it, apart from the main comparison."""

    question: str
    treatments: list[TreatmentResult]
    answer: AnswerView


@dataclass(frozen=True)
class Beside:
    """The answer with the doubtful pieces (``codes``) and without them, and what leaving them out changes."""

    codes: list[str]
    with_them: str
    without_them: str
    changed: list[str]


@dataclass(frozen=True)
class CompareView:
    """The comparison. ``unit`` is the base unit of every figure here; ``decimals`` what the readings support in it.

    ``flags`` are all kinds that pieces carry, ``without`` those left out now, as ``boards`` and ``without_boards``;
    ``limits`` where the rigs that were used end; ``along`` says what runs along with the treatments, ``adherence`` how
    far off the schedule was, ``swaps`` are (rejected piece, spare, reason), ``figureless`` (piece, treatment, why) of
    those that have a reading, but no figure that can be compared here; ``families`` are what the plan compares,
    ``axes`` its numeric factors, ``cells`` the levels (ids) of each treatment; ``times_to_peak`` in s of those with a
    curve; ``changed`` says what this way of looking changes against that of the plan, ``beside`` what doubtful pieces
    do, ``bounded_by_wood`` whether the bond is another view than the joint; ``strengths`` are the marks that may be
    taken for the ``strength``, where there are curves.
    """

    batch_id: int
    name: str
    question: str
    guess: str
    figure: str
    figure_name: str
    unit: str
    dimension: str
    strength_dimension: str
    decimals: int
    answers: list[AnswerView]
    target: str
    fallen_as_zero: bool
    matters_pct: float
    loadless: bool
    treatments: list[TreatmentResult]
    pairs: list[PairResult]
    pairs_in_all: int
    families: list[FamilyView]
    axes: list[Axis]
    reached: list[Reached]
    factors: list[FactorView]
    cells: dict[str, dict[str, str]]
    caveats: list[Caveat]
    guesses: list[str]
    good_enough: GoodEnough
    flags: list[FlagCount]
    without: list[str]
    boards: list[BoardCount]
    without_boards: list[str]
    units: list[str]
    counted: Units
    within: list[Within]
    own: list[OwnResult]
    sides: list[SideAnswer]
    scope: str
    departed: list[Departed]
    not_noted: list[str]
    adherence: list[str]
    inspected: list[str]
    lasting: list[Lasting]
    forms: list[str]
    claims: list[ClaimView]
    conclusions: list[ConclusionView]
    comments: list[CommentView]
    trials: list[str]
    glue_costs: list[GlueCost]
    swaps: list[tuple[str, str, str]]
    figureless: list[tuple[str, str, str]]
    changed: list[str]
    beside: Beside | None
    planned_target: str
    bounded_by_wood: bool
    school: str
    schools: Schools | None
    quantities: list[Quantity]
    only: list[str]
    strength: str
    planned_strength: str
    strengths: dict[str, str]
    times_to_peak: list[float]
    pace: Pace | None
    limits: list[float]
    welch: dict[str, float] | None
