"""Questions to start from: each fills in method, factors, levels, control and what must be held constant.

Everything stays editable; a question is a starting point, not a form. Levels are the usual ones of the trade.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from adhaero.core.method import nominal_sizes
from adhaero.core.method_catalogue import METHODS
from adhaero.core.plan.document import Extra, Factor, Level, Plan, first_plan, usual_level
from adhaero.core.plan.fields import FIELDS

_H, _DAY, _YEAR = 3600.0, 86400.0, 365.25 * 86400.0


@dataclass(frozen=True)
class Question:
    """A question with what it fills in. ``hint`` says what to watch; ``constants`` are fields beyond the usual ones."""

    key: str
    name: str
    question: str
    hint: str
    factors: tuple[Factor, ...]
    method: str = "compression-shear"
    control: tuple[int, ...] | None = None
    constants: tuple[tuple[str, Level], ...] = ()
    sizes: tuple[tuple[str, float], ...] = ()
    replicates: int = 6
    extras: tuple[Extra, ...] = ()
    policy: str = "same-for-all"
    target: str = "joint"


def _f(key: str, *values: str | float | None, unit: str = "") -> Factor:
    return Factor(key, FIELDS[key].name, tuple(Level(v, unit) for v in values))


def _times(key: str, *values: float, unit: str = "h") -> Factor:
    return Factor(key, FIELDS[key].name, tuple(Level(v, unit) for v in values))


_AGES = (*(Level(n * _YEAR / 12, "mo") for n in (1, 6)), *(Level(n * _YEAR, "y") for n in (1, 2, 5)))
_COMMON = ("pva-indoor", "pva-damp", "polyurethane", "epoxy-slow")

QUESTIONS: dict[str, Question] = {
    q.key: q
    for q in (
        Question("which-glue", "Which glue?", "Which glue holds best?",
                 "Same wood, same pressure and times for all, or each by its label: say which.",
                 (_f("glue", *_COMMON),), control=(0,)),
        Question("which-prep", "Which surface prep?", "Which surface prep holds best?",
                 "Prepare all faces on one day; hours between planing and gluing count.",
                 (_f("prep", "planed", "sawn", "sanded-80", "sanded-150"),), control=(0,)),
        Question("how-long", "How long in the clamp?", "When can the clamps come off?",
                 "Break all at the same age, or right at release: two different questions.",
                 (_times("clamp_s", 0.25 * _H, 0.5 * _H, 1 * _H, 3 * _H, 24 * _H),), control=(4,),
                 constants=(("cure_s", Level(2 * _DAY, "d")),)),
        Question("how-hard", "How hard to clamp?", "How much clamp pressure does it take?",
                 "Weights or a gauge under the clamp: pressure by feel is no factor.",
                 (_f("pressure_mpa", 0.05, 0.2, 0.6, 1.2, unit="MPa"),), control=(2,)),
        Question("what-gap", "What does a gap cost?", "How much strength does a gap cost?",
                 "Make the gap with shims that stay out of the glued area; a joint that can close up closes.",
                 (_f("gap_mm", 0.0, 0.1, 0.3, 0.6, unit="mm"), _f("glue", "pva-indoor", "epoxy-slow")), control=(0, 0)),
        Question("stands-it", "Does it stand water, frost or heat?", "Which glue keeps its strength in the wet?",
                 "Dry pieces of every glue are the reference; break soon after the bath, at one and the same delay.",
                 (_f("glue", "pva-indoor", "pva-wet", "polyurethane"),
                  _f("conditioning", "dry", "soak-24h", "soak-24h-dried")),
                 control=(0, 0)),
        Question("how-ages", "How does it age?", "How does the bond age over the years?",
                 "Pulls over five years: keep spares, store all in one place, glue all on one day.",
                 (_f("glue", "pva-indoor", "polyurethane", "epoxy-slow"),
                  Factor("cure_s", "Age at the break", _AGES)), control=(0, 0)),
        Question("which-form", "Which joint form?", "Which corner joint is strongest?",
                 "Same member size for all; note the glued area of each: area alone does not explain.",
                 (_f("form", "mortise-tenon", "dowelled", "loose-tenon-along", "mitre"),), method="racking",
                 control=(0,)),
        Question("grain", "Grain orientation and reinforcement?", "What does the grain orientation do to the joint?",
                 "End grain drinks glue: size it first, or make that a factor of its own.",
                 (_f("orientation", "long-parallel", "long-crossed", "long-end", "end-end"),), control=(0,)),
        Question("old-glue", "Frozen, old or thinned glue?", "Is the frozen, old or thinned glue still good?",
                 "One family, several bottles: the bottle is the factor, so nothing else may differ.",
                 (_f("glue_state", "fresh", "frozen-thawed", "opened-1y", "thinned-10"),), control=(0,)),
        Question("additives", "Do additives help?", "What does an additive do to the joint?",
                 "Dose by weight; include the same open time without any additive.",
                 (_f("additive", "none", "salt", "sand", "sawdust"),), control=(0,)),
        Question("pressure-by-age", "Pressure by age?", "How does clamp pressure act over the first day?",
                 "A 3 x 5 grid of pressures and ages: the time plan decides whether it can be done.",
                 (_f("pressure_mpa", 0.1, 0.5, 1.0, unit="MPa"),
                  _times("cure_s", 1 * _H, 3 * _H, 6 * _H, 12 * _H, 24 * _H)), control=(1, 4),
                 constants=(("clamp_s", Level(1 * _H, "h")),), replicates=3),
        Question("friction", "How much is only friction?", "How much of the load is only the fit?",
                 "The unglued pieces are pressed dry, just as hard.",
                 (_f("glue", "pva-indoor", "epoxy-slow"),), method="withdrawal", control=(0,),
                 extras=(Extra("Unglued, pressed dry", {"glue": Level(None)}, 4, "untreated"),)),
        Question("own", "A question of my own", "", "", (Factor("glue", "Glue", ()),)),
    )
}  # fmt: skip


def plan_for(key: str) -> Plan:
    """The plan that a question starts from. ``KeyError`` for an unknown one."""
    q, base = QUESTIONS[key], first_plan()
    varied = {f.key for f in q.factors}
    method = METHODS[q.method]
    forms = _forms(q.factors)
    constants = {**base.constants, "glue": usual_level("glue"), **dict(q.constants)}
    return replace(
        base,
        question=q.question,
        method=q.method,
        sizes={**nominal_sizes(method, forms), **dict(q.sizes)},
        factors=q.factors,
        constants={k: v for k, v in constants.items() if k not in varied},
        replicates=q.replicates,
        control={f.key: f.levels[i].id for f, i in zip(q.factors, q.control or (), strict=False)},
        solid_reference=4 if method.solid else 0,
        extras=q.extras,
        policy=q.policy,
        target=q.target,
        start=q.key,
    )


def _forms(factors: Sequence[Factor]) -> tuple[str, ...]:
    return tuple(str(level.value) for f in factors if f.key == "form" for level in f.levels)
