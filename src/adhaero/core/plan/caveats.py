"""What the user should know before locking: what will happen, at which field, and a remedy to press.

Everything here is advice. A plan with caveats may be locked; the report repeats those that still hold.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from math import prod

from adhaero.core.cut.blanks import blanks
from adhaero.core.glue.clamping import crushes
from adhaero.core.joint_forms import FREE, Sizes
from adhaero.core.materials.wood import moisture_at, movement_mm
from adhaero.core.parents import KINDS, counted_pieces
from adhaero.core.plan.blocks import block_caveats
from adhaero.core.plan.caveat import Caveat
from adhaero.core.plan.document import Level, Plan, level_name, level_text, method_of
from adhaero.core.plan.forecast import TOO_STRONG, Expected, Range
from adhaero.core.plan.fraction import mixed_up
from adhaero.core.plan.glues import family_of, is_glued
from adhaero.core.plan.label_caveats import label_caveats
from adhaero.core.plan.parents import units_of
from adhaero.core.plan.power import smallest_difference
from adhaero.core.plan.reach import reach
from adhaero.core.plan.records import (
    cell_ids,
    cells,
    form_of,
    forms_of,
    is_fraction,
    judged_over_all,
    least_at_a_level,
    records,
    sizes_of,
    whole_factors,
)
from adhaero.core.plan.treatments import SOLID, treatments
from adhaero.core.plan.woods import wood_of
from adhaero.core.quantity import Dimension
from adhaero.core.units import Units, half_up

MOST_MADE = 60
"""Pieces of each treatment beyond which nobody goes."""
TENONED = ("mortise-tenon", "loose-tenon-along", "loose-tenon-across")
"""Forms whose tenons lie across the grain of the piece that they go into."""
CROSS_GRAIN_MM = 0.5
"""Movement across a crossed line above which the line is worked loose over the seasons: a bench rule of thumb."""


def caveats(plan: Plan, units: Units) -> list[Caveat]:
    """What the plan cannot find out, or does against the usual. Assumes that it could be locked."""
    found = [
        *_sizes(plan),
        *_blanks(plan, units),
        *_numbers(plan),
        *_controls(plan),
        *label_caveats(plan, units),
        *_runs_along(plan),
        *_fraction(plan),
        *_whole(plan),
        *block_caveats(plan),
        *_movement(plan, units),
        *_crush(plan, units),
        *_woods(plan),
        *_forms(plan),
    ]
    return list({c.text: c for c in found}.values())


def _sizes(plan: Plan) -> Iterator[Caveat]:
    """What the method's rules of thumb say: of all pieces, or of those treatments that they are about."""
    method, about = method_of(plan), dict[str, list[str]]()
    made = [t for t in treatments(plan) if t.role != SOLID]
    for t in made:
        for text in [*method.warnings(t.sizes, plan.overlap_most), *_off_the_middle(plan, t.sizes)]:
            about.setdefault(text, []).append(t.letter)
    for text, letters in about.items():
        whose = "" if len(letters) == len(made) else f"Treatment {', '.join(letters)}: "
        yield Caveat("sizes", whose + text)


def _off_the_middle(plan: Plan, sizes: Sizes) -> Iterator[str]:
    """Where the line of a bent joint lies against the load: in four-point bending the moment is the same between the
    load points, in three-point bending it falls in a straight line from the middle.
    """
    off, span = plan.joint_off_mm, sizes.get("span")
    inner = sizes.get("load_span") if "load_span" in method_of(plan).setup_sizes else None
    if not off or span is None:
        return
    if inner is not None and off > inner / 2:
        yield "The joint lies outside of the load points: it bears less than the middle does. Move them apart."
    elif inner is None:
        share = max(0.0, 1 - 2 * off / span)
        yield (
            f"The joint lies off the middle of the span: it bears {half_up(100 * share, 0):.0f} % of the moment that "
            "its figure is worked out from. Load it over the line, or take four-point bending."
        )


def _blanks(plan: Plan, units: Units) -> Iterator[Caveat]:
    """Halves of the user's own size from which the joint, or what the fixture holds beside it, cannot come."""
    method = method_of(plan)
    for t in treatments(plan) if plan.blank_sizes and plan.parents is None else ():
        if t.role == SOLID:
            continue
        loaded = method.loading(t.form, str(t.record["orientation"].value)) or ()
        for b in blanks(plan.method, t.role, t.sizes, t.form, loaded):
            needed = {"length": b.length_mm, "width": b.width_mm, "thickness": b.thickness_mm}
            for key, own in plan.blank_sizes.items():
                if own < needed[key] - 0.05:
                    said, takes = (units.text(x, Dimension.LENGTH) for x in (own, needed[key]))
                    text = f"Blanks with a {key} of {said} are too small for {t.label}: it takes {takes}."
                    yield Caveat(f"blank_sizes.{key}", text)


def _numbers(plan: Plan) -> Iterator[Caveat]:
    n, each, unit = units_of(plan, plan.replicates), 1, "piece"
    whose = ""
    if plan.parents is not None and plan.parents.each > 1:
        each, unit = plan.parents.each, KINDS[plan.parents.kind].name.lower()
        whose = f" {counted_pieces(plan.parents.kind, each).capitalize()} of one {unit} are one {unit}, not {each}."

    def make(count: int) -> tuple[str, dict[str, int]]:
        of = f"{count} {unit}s of each" if each > 1 else f"{count} of each"
        return f"Make {of}", {"replicates": count * each}

    if is_fraction(plan) and judged_over_all(plan):
        return
    if n == 1:
        text = f"One {unit} shows that it can happen, not how often: no scatter, no test.{whose}"
        yield Caveat("replicates", text, *make(5))
    elif n == 2:
        text = f"Two {unit}s give hardly a scatter: only very large differences show.{whose}"
        yield Caveat("replicates", text, *make(5))
    else:
        r = reach(plan)
        if r.planned is not None and r.planned > plan.assumptions.matters * 1.05 and r.needed:
            text = (
                f"{n}{f' {unit}s' if each > 1 else ''} of each show differences of "
                f"{half_up(100 * r.planned, 0):.0f} %; "
                f"{half_up(100 * plan.assumptions.matters, 0):.0f} % matters to you and takes {r.needed}.{whose}"
            )
            if r.needed <= MOST_MADE:
                yield Caveat("replicates", text, *make(r.needed))
            elif each == 1:
                yield from _too_many(plan, text)
            else:
                yield Caveat("replicates", text)


def _too_many(plan: Plan, text: str) -> Iterator[Caveat]:
    """More pieces than anybody makes: what a larger number shows, and that fewer treatments show more."""
    more = min(20, 2 * plan.replicates)
    shown = reach(replace(plan, replicates=more))
    made = shown.at_once
    if made > 2:
        text += f" Fewer than {made} comparisons at once (fewer levels, or one control) show more with the same work."
    if more > plan.replicates and shown.planned is not None:
        remedy = f"Make {more} of each ({half_up(100 * shown.planned, 0):.0f} %)"
        yield Caveat("replicates", text, remedy, {"replicates": more})
    else:
        yield Caveat("replicates", text)


def _controls(plan: Plan) -> Iterator[Caveat]:
    if plan.factors and not any(plan.control.values()) and not any(e.control for e in plan.extras):
        first = cell_ids(plan, cells(plan)[0]) if cells(plan) else None
        text = "No control: nothing to measure 'better' against."
        yield Caveat("control", text, "Take the first treatment", {"control": first} if first else None)
    if method_of(plan).solid and plan.solid_reference < 3:
        text = (
            "Fewer than three solid pieces: joint efficiency gets no interval worth having."
            if plan.solid_reference
            else "No solid reference: joint efficiency stays unknown."
        )
        yield Caveat("solid_reference", text, "Add 4 solid pieces", {"solid_reference": 4})


def _number(level: Level | None) -> float | None:
    return level.value if level is not None and isinstance(level.value, float | int) else None


def _runs_along(plan: Plan) -> Iterator[Caveat]:
    """A covariate that runs along with a factor, so that the two cannot be told apart."""
    grid = cells(plan)
    for i, a in enumerate(plan.factors):
        for j, b in enumerate(plan.factors):
            if i < j and len(grid) > 1:
                pairs = {(c[i], c[j]) for c in grid}
                if len(pairs) == len({p[0] for p in pairs}) == len({p[1] for p in pairs}) > 1:
                    text = (
                        f"{a.name} and {b.name.lower()} change together in every treatment: they cannot be told apart."
                    )
                    yield Caveat("dropped", text, "Make every combination", {"dropped": []})
    if plan.policy == "by-label" and any(f.key == "glue" for f in plan.factors):
        text = (
            "Each glue by its label: clamp time and pressure run along with the glue. The answer is about the glue as "
            "its label wants it, not about the glue alone."
        )
        yield Caveat("policy", text, "Same for all", {"policy": "same-for-all"})


MOST_MIXED = 4
"""Mixed-up effects that are told one by one."""


def _fraction(plan: Plan) -> Iterator[Caveat]:
    """What a fraction of the grid can show, and the effects it can't tell from what two others do together."""
    if not is_fraction(plan):
        return
    grid, levels = cells(plan), [len(f.levels) for f in plan.factors]
    names, a, n = [f.name.lower() for f in plan.factors], plan.assumptions, least_at_a_level(plan)
    yield Caveat(
        "dropped", f"{len(grid)} of {prod(levels)} combinations are made. Each factor is judged over all of them, as "
        "if the effects of the factors multiply; what two factors do together counts as scatter.",
    )  # fmt: skip
    if judged_over_all(plan) and (shown := smallest_difference(n, a.cv, a.alpha, a.power)) is not None:
        yield Caveat("dropped", f"Every level has {n} pieces or more in all, which is enough to detect a difference of "
                     f"{half_up(100 * shown, 0):.0f} %.")  # fmt: skip
    mixed = mixed_up(grid, levels)
    told = [f"{names[f]} from {names[a]} with {names[b]}" for f, (a, b) in mixed[:MOST_MIXED]]
    if told:
        more = f", and {len(mixed) - len(told)} more" if len(mixed) > len(told) else ""
        yield Caveat("dropped", "This fraction can't tell the effect of one factor from what two others do together: "
                     f"{'; '.join(told)}{more}. If two factors may act together, make more combinations.")  # fmt: skip


def _whole(plan: Plan) -> Iterator[Caveat]:
    """What is one for a whole glue-up counts once a glue-up."""
    for f in whole_factors(plan):
        text = (
            f"{f.name} is one for a whole glue-up, and no two of its levels are glued together. A glue-up counts once: "
            "glue each level on two days or more, or the day and the level cannot be told apart."
        )
        yield Caveat("factors", text)


def _movement(plan: Plan, units: Units) -> Iterator[Caveat]:
    """Crossed grain: how far the seasons move one piece against the other."""
    a = plan.assumptions
    for record in records(plan):
        tenoned = level_text(record.get("form")) in TENONED
        crossed = record["orientation"].value in ("long-crossed", "long-end") or record.get("form") == Level("half-lap")
        wood = wood_of(plan, str(record["species"].value))
        if not (crossed or tenoned) or wood is None:
            continue
        sizes = sizes_of(plan, form_of(plan, record), record)
        across = ("tenon_width",) if tenoned else ("width", "overlap", "other_width")
        width = max(sizes.get(k, 0.0) for k in across)
        swing = moisture_at(a.humidity_high_pct) - moisture_at(a.humidity_low_pct)
        moved = movement_mm(width, wood.shrink_tangential_pct, swing)
        if moved > CROSS_GRAIN_MM:
            most = width * CROSS_GRAIN_MM / moved
            text = (
                f"Crossed grain: {units.text(width, Dimension.LENGTH)} of {wood.name.lower()} move "
                f"{units.text(moved, Dimension.LENGTH, 0.1)} between "
                f"{a.humidity_low_pct:g} and {a.humidity_high_pct:g} % humidity; "
                f"up to about {units.text(most, Dimension.LENGTH)} wide a line bears that. "
                f"{'Split the tenon in two' if tenoned else 'Divide the line'}, or glue its middle and let the ends "
                "float."
            )
            yield Caveat("sizes.width_mm", text)


def _crush(plan: Plan, units: Units) -> Iterator[Caveat]:
    for record in records(plan):
        wood, pressure = wood_of(plan, str(record["species"].value)), _number(record.get("pressure_mpa"))
        if wood and pressure and crushes(pressure, wood.crush_across_mpa):
            text = (
                f"{level_name('pressure_mpa', record['pressure_mpa'])} comes near crushing {wood.name.lower()} "
                f"({units.text(wood.crush_across_mpa, Dimension.STRESS)} across the grain)."
            )
            yield Caveat("constants.pressure_mpa", text)


def rig_caveats(
    plan: Plan, forecast: Sequence[Expected], rig: Range | None, fits: Sequence[Mapping[str, float]], units: Units
) -> list[Caveat]:
    """What the forecast says about the rig; ``fits`` are sizes with which it breaks 19 of 20 pieces."""
    if rig is None:
        return [Caveat("rig", "No rig is set up in the shop: whether it can break these pieces is not known.")]
    strong = [e for e in forecast if (e.beyond or 0.0) > TOO_STRONG]
    weak = [e for e in forecast if (e.unreadable or 0.0) > 0.5]
    found = []
    if strong:
        worst = max(strong, key=lambda e: e.beyond or 0.0)
        limit = units.text(rig.limit_n, Dimension.FORCE)
        load, share = units.text(worst.load_n, Dimension.FORCE), 100 * (worst.beyond or 0)
        text = (
            f"Too strong for the rig: treatment {worst.letter} is expected near {load}, the rig is used up to {limit}. "
            f"About {half_up(share, 0):.0f} % of its pieces would not break."
        )
        if not fits:
            found.append(Caveat("sizes", text + " No sane size fits: choose another method, or a stronger rig."))
        for i, sizes in enumerate(fits):
            said = text if i == 0 else f"{worst.letter} at the rig, another way:"
            found.append(Caveat("sizes", said, _made_so(plan, sizes, units), {"sizes": dict(sizes)}))
    if weak:
        letters = ", ".join(e.letter for e in weak)
        text = (
            f"Too weak to read well: treatment {letters} breaks within fifty steps of the rig "
            f"({units.text(rig.resolution_n, Dimension.FORCE)} each). Make the joint larger or read it finer."
        )
        found.append(Caveat("sizes", text))
    return found


def _made_so(plan: Plan, sizes: Mapping[str, float], units: Units) -> str:
    """A remedy's sizes in words: one size, or the side of a square section."""
    key, value = next(iter(sizes.items()))
    length = units.text(value, Dimension.LENGTH)
    if len(sizes) > 1:
        return f"Make it {length} square"
    size = next(s for s in method_of(plan).sizes_for() if s.key == key)
    return f"Make the {size.name.lower()} {length}"


def _woods(plan: Plan) -> Iterator[Caveat]:
    """A wood that the program knows nothing of: no other stands in for it."""
    for record in records(plan):
        species = str(record["species"].value)
        if wood_of(plan, species) is None:
            text = (
                f"{species.capitalize()} is no wood of the list: its load can't be forecast. State what it bears, "
                "or break a trial piece first."
            )
            yield Caveat("constants.species", text)
        glue = record["glue"].value
        if is_glued(glue) and not family_of(plan, glue):
            text = (
                f"{glue} is of no known family: its load can't be forecast. Choose its family, or break a trial piece."
            )
            yield Caveat("constants.glue", text)


def _forms(plan: Plan) -> Iterator[Caveat]:
    if FREE in forms_of(plan):
        text = "Nothing is known of a form of your own: its load can't be forecast. Break a trial piece first."
        yield Caveat("constants.form", text)
