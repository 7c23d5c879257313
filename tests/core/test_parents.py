"""Which pieces share a parent, how long it is, and what it is cut from: cases worked out by hand."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from adhaero.core.cut.blanks import blanks, step_mm
from adhaero.core.parents import BACKING, BEAM, PANEL, Parents, block_blanks, line_sizes, needed_mm, parent_blanks
from adhaero.core.plan.checks import problems
from adhaero.core.plan.cost import cost
from adhaero.core.plan.design import specimens
from adhaero.core.plan.document import Extra, Factor, Level, Plan, first_plan
from adhaero.core.plan.formats import plan_from_json
from adhaero.core.plan.parents import together
from adhaero.core.plan.reach import reach
from adhaero.core.plan.records import completed
from adhaero.core.plan.treatments import treatments

FOLDING = {"width": 120.0, "depth": 19.0, "span": 180.0}
SHEAR = {"width": 40.0, "overlap": 30.0, "thickness": 20.0}
ALONG, ACROSS = ("along", "along"), ("across", "across")


def test_a_panel_is_as_long_as_its_sections_and_the_cuts_around_them() -> None:
    p = Parents(PANEL, each=3, between_mm=3.0)
    assert needed_mm(p, 3, "edge-fold", FOLDING) == 3 * 120 + 4 * 3
    strips = parent_blanks(p, 3, "edge-fold", FOLDING, "edge", ACROSS)
    alone = blanks("edge-fold", "joint", FOLDING, "edge", ACROSS)
    # Along the line it is the panel's length; across it, what the fixture takes, as for a single section.
    assert [(b.length_mm, b.width_mm) for b in strips] == [(372.0, b.width_mm) for b in alone]
    assert line_sizes(replace(p, length_mm=400.0), 3, "edge-fold", FOLDING)["width"] == 400.0


def test_a_beam_has_the_steps_of_its_shear_blocks_in_it() -> None:
    p = Parents(BEAM, each=5, between_mm=3.0)
    long = 5 * (30 + 2 * step_mm(30.0)) + 6 * 3
    assert needed_mm(p, 5, "compression-shear", SHEAR) == long
    strips = parent_blanks(p, 5, "compression-shear", SHEAR, "lap", ALONG)
    assert [(b.length_mm, b.width_mm, b.thickness_mm) for b in strips] == [(long, 40.0, 20.0)] * 2
    assert line_sizes(p, 5, "compression-shear", SHEAR)["overlap"] == long


def test_a_backing_board_is_one_board_and_a_block_is_its_overlap() -> None:
    p = Parents(BACKING, each=1, between_mm=10.0)
    (board,) = parent_blanks(p, 32, "compression-shear", SHEAR, "lap", ALONG)
    assert (board.length_mm, board.width_mm) == (32 * 30 + 33 * 10, 40.0)
    (block,) = block_blanks("compression-shear", SHEAR, "lap", ALONG)
    assert (block.side, block.length_mm, block.width_mm) == ("b", 30.0, 40.0)
    # Each block is glued and pressed by itself.
    assert line_sizes(p, 32, "compression-shear", SHEAR) == SHEAR


def planned(parents: Parents, levels: int = 3, ages: int = 2, replicates: int = 6, **changes: object) -> Plan:
    glue = Factor("glue", "Glue", tuple(Level(g) for g in ("pva-damp", "casein", "polyurethane")[:levels]))
    age = Factor("cure_s", "Age", tuple(Level(86400.0 * (2 + n)) for n in range(ages)))
    base = first_plan()
    held = {k: v for k, v in base.constants.items() if k not in ("glue", "cure_s")}
    plan = replace(base, question="?", factors=(glue, age), constants=held, replicates=replicates, parents=parents,
                   solid_reference=2, **changes)  # type: ignore[arg-type]  # fmt: skip
    return completed(plan)


kinds = st.sampled_from(
    [(BACKING, ("glue",)), (BACKING, ("glue", "cure_s")), (PANEL, ()), (PANEL, ("cure_s",)), (BEAM, ())]
)


@settings(deadline=None, max_examples=60)
@given(
    kind=kinds, each=st.integers(1, 4), replicates=st.integers(1, 7), spares=st.integers(0, 2), seed=st.integers(0, 99)
)
def test_parents_hold_what_they_are_planned_to(
    kind: tuple[str, tuple[str, ...]], each: int, replicates: int, spares: int, seed: int
) -> None:
    plan = planned(Parents(kind[0], each, kind[1]), replicates=replicates, spares=spares)
    assert problems(plan) == []
    made, pieces = treatments(plan), specimens(plan, seed, ())
    own: dict[int, list[int]] = {}
    for s in pieces:
        assert (s.parent is None) == (made[s.treatment].role == "solid")
        if s.parent is not None:
            own.setdefault(s.parent, []).append(s.treatment)
    most = together(plan, made)
    varied = {f.key for f in plan.factors} - set(kind[1])
    for inside in own.values():
        assert max(Counter(inside).values()) <= each
        assert len(inside) <= most[made[inside[0]].id]
        # What does not vary within a parent is one and the same in it.
        assert all(len({made[t].record[k].value for t in inside}) == 1 for k in varied)
    assert sorted(own) == list(range(1, len(own) + 1))
    groups = 1 if len(kind[1]) == 2 else 2 if kind[1] == ("glue",) else 3 if kind[1] else 6
    assert len(own) == groups * -(-(replicates + spares) // each)
    # What is made as one is glued in one go: its places in the order follow each other.
    for number in own:
        places = sorted(s.glue_order for s in pieces if s.parent == number)
        assert places == list(range(places[0], places[0] + len(places)))
    for order in (sorted(s.glue_order for s in pieces), sorted(s.break_order for s in pieces)):
        assert order == list(range(1, len(pieces) + 1))


def test_a_panel_is_one_unit_whatever_is_sawn_from_it() -> None:
    three = planned(Parents(PANEL, 3), replicates=15)
    assert reach(three).n == 5
    assert reach(three).planned == reach(planned(Parents(PANEL, 1), replicates=5)).planned
    assert reach(planned(Parents(BACKING, 1, ("glue",)), replicates=5)).n == 5


def test_what_is_glued_at_once_takes_one_closing() -> None:
    alone = planned(None, replicates=6)  # type: ignore[arg-type]
    panels = planned(Parents(PANEL, 3), replicates=6)
    one, three = (cost(p, treatments(p)) for p in (alone, panels))
    assert three.glue_h == pytest.approx(one.glue_h / 3)
    assert three.break_h == one.break_h
    # Two strips for every three pieces instead of two blanks for every piece; solid pieces as before.
    assert one.blanks - three.blanks == 36 * 2 - 12 * 2


def test_a_single_treatment_joins_the_boards_of_what_it_is_like() -> None:
    like = Extra("epoxy", {"glue": Level("epoxy-slow")}, 6, id="x1")
    other = Extra("wet wood", {"moisture_pct": Level(18.0)}, 6, id="x2")
    plan = planned(Parents(BACKING, 1, ("glue",)), extras=(like, other))
    made, pieces = treatments(plan), specimens(plan, 1, ())
    labels = {t.id: n for n, t in enumerate(made)}
    homes = {name: {s.parent for s in pieces if s.treatment == labels[name]} for name in ("x1", "x2")}
    glues = {s.parent for s in pieces if made[s.treatment].id not in ("x1", "x2") and s.parent}
    assert homes["x1"] <= glues
    assert not homes["x2"] & glues


def test_parents_are_kept_in_the_document() -> None:
    plan = planned(Parents(PANEL, 3, ("cure_s",), 900.0, 4.0), blank_sizes={"length": 120.0})
    assert plan_from_json(plan.to_json()).parents == plan.parents
    older = {k: v for k, v in plan.to_json().items() if k not in ("parents", "blank_sizes")} | {"format": 6}
    assert plan_from_json(older).parents is None


def test_halves_are_cut_as_the_user_wants_them() -> None:
    square = {"length": 120.0, "width": 60.0}
    for loaded in (ALONG, ACROSS):
        cut = blanks("bend-three-point", "joint", {"width": 60, "depth": 18, "span": 180}, "butt", loaded, square)
        assert [(b.length_mm, b.width_mm, b.thickness_mm) for b in cut] == [(120.0, 60.0, 18.0)] * 2
    solid = blanks("bend-three-point", "solid", {"width": 60, "depth": 18, "span": 180}, "butt", ALONG[:1], square)
    assert solid[0].length_mm == 180 + 40
