"""What keeps a plan from being locked, each with its field and remedy."""

from __future__ import annotations

from collections.abc import Iterator
from math import prod

from adhaero.core.breaking.pace import PACES
from adhaero.core.breaking.trace import STRENGTHS
from adhaero.core.formula import as_name
from adhaero.core.glue.exposure import path_of
from adhaero.core.glue.limits import check_label
from adhaero.core.joint import ANGLED
from adhaero.core.joint_forms import FORMS
from adhaero.core.materials.glue import GLUES
from adhaero.core.materials.sheet import MOST_PLIES
from adhaero.core.method import FAILURE_NAMES
from adhaero.core.plan import comparisons
from adhaero.core.plan.blocks import check_blocks
from adhaero.core.plan.claim_kinds import SAYS
from adhaero.core.plan.document import MAX_SPECIMENS, Factor, Level, Plan, level_name, level_text, method_of
from adhaero.core.plan.fields import FIELDS
from adhaero.core.plan.glues import BY_LABEL, as_label_says, is_glued, label_of
from adhaero.core.plan.judging import check_judging
from adhaero.core.plan.parents import check_parents
from adhaero.core.plan.records import cells, control_cell, pieces_in_all, records, wanted_forms
from adhaero.core.plan.size_checks import check_sizes
from adhaero.core.plan.treatments import treatments
from adhaero.core.properties import OF, WHEN
from adhaero.core.quantity import BASE, UNITS
from adhaero.core.refusal import Problem, Problems, Refusal
from adhaero.core.tolerances import WATCHED
from adhaero.core.units import METRIC, Units, as_typed

MOST_LEVELS, MOST_FACTORS, MOST_CELLS = 64, 8, 1024
CONTROLS = ("plain", "untreated", "dry", "time-zero", "standard")


def problems(plan: Plan, units: Units = METRIC) -> list[Problem]:
    """Everything that keeps the plan from being locked, each with its field and remedy."""
    p = Problems()
    p.check(
        bool(plan.question.strip()),
        "question",
        "the question is empty",
        "Say what you want to find out.",
    )
    p.check(len(plan.question) <= 500, "question", "the question is longer than 500 characters", "Shorten it.")
    p.check(len(plan.guess) <= 2000, "guess", "the guess is longer than 2000 characters", "Shorten it.")
    try:
        _check_forms(plan, p)
        if not p.found:
            check_sizes(plan, p, units)
    except Refusal as refusal:
        p.take(refusal)
    p.check(len(plan.factors) <= MOST_FACTORS, "factors", f"there are more than {MOST_FACTORS} factors",
            "Keep some of them the same for all pieces, or plan two batches.")  # fmt: skip
    p.check(bool(plan.factors) or len(plan.extras) >= 2, "extras", "fewer than two treatments are listed",
            "List at least two treatments, or choose a factor to vary.")  # fmt: skip
    grid = prod(max(1, len(f.levels)) for f in plan.factors)
    p.check(grid <= MOST_CELLS, "factors", f"{grid} combinations are more than {MOST_CELLS}",
            "Take fewer levels or factors.")  # fmt: skip
    keys = [f.key for f in plan.factors]
    p.check(len(set(keys)) == len(keys), "factors", "a factor stands twice", "Take one of them out.")
    for i, factor in enumerate(plan.factors):
        _check_factor(i, factor, p)
    for key, known in FIELDS.items():
        level = plan.constants.get(key)
        if key in keys or (level is None and not known.needed):
            continue
        if p.check(level is not None, f"constants.{key}", f"{known.name} is not stated", "Say what it is for all."):
            assert level is not None
            _check_value(f"constants.{key}", key, level, p)
    _check_extras(plan, p)
    p.check(
        1 <= plan.replicates <= 500,
        "replicates",
        f"{plan.replicates} pieces of each is not possible",
        "Take 1 to 500.",
    )
    p.check(
        0 <= plan.solid_reference <= 500,
        "solid_reference",
        "solid pieces must be 0 to 500",
        "Take 4 or more, or none.",
    )
    p.check(0 <= plan.spares <= 50, "spares", "spares must be 0 to 50 of each treatment", "One of each is usual.")
    p.check(0 <= plan.dummies <= 500, "dummies", "dummies must be 0 to 500",
            "Take as many as clamps have empty places.")  # fmt: skip
    _check_asked(plan, p)
    _check_products(plan, p)
    _check_woods(plan, p)
    check_blocks(plan, p)
    _check_rig(plan, p)
    _check_protocol(plan, p)
    _check_properties(plan, p)
    for key, width in plan.tolerances.items():
        fits, name = key in WATCHED and width > 0, FIELDS[key].name.lower() if key in FIELDS else key[:40]
        p.check(fits, f"tolerances.{key}", f"the tolerance of {name} is none",
                "State one above zero, of a time, a pressure or the air.")  # fmt: skip
    for key, value in plan.blank_sizes.items():
        able = key in ("length", "width", "thickness") and 1 <= value <= 3000
        p.check(able, f"blank_sizes.{key}", f"a {key} of {value:g} mm is none of a blank", "Check the unit.")
    p.check(0 < plan.tolerance_mm <= 20, "tolerance_mm", "the tolerance of sizes must be above 0 and up to 20 mm",
            "1 mm is usual.")  # fmt: skip
    p.check(all(0 <= v <= 1e6 for v in plan.guesses.values()), "guesses", "a guess is no load", "Type 0 to 1 000 kN.")
    a = plan.assumptions
    p.check(
        0 < a.cv <= 1.5,
        "assumptions.cv",
        "a scatter outside 0 to 150 % is not possible",
        "15 % is usual for glued wood.",
    )
    p.check(0 < a.matters < 1, "assumptions.matters", "the difference that matters must be between 0 and 100 %",
            "10 % is usual.")  # fmt: skip
    p.check(0 < a.alpha < 0.5, "assumptions.alpha", "the risk must be between 0 and 50 %", "5 % is usual.")
    p.check(
        a.alpha < a.power < 1,
        "assumptions.power",
        "the power must lie between the risk and 100 %",
        "80 % is usual.",
    )
    by_key = {f.key: f for f in plan.factors}
    for key, chosen in plan.control.items():
        fits = key in by_key and by_key[key].place(chosen) is not None
        p.check(fits, f"control.{key}", "the control is not one of the levels", "Choose it again.")
    control = control_cell(plan)
    if control is not None and cells(plan) and control not in cells(plan):
        p.add("control", "the control is one of the cells that are left out", "Make it, or choose another control.")
    if not p.found:
        p.check(
            bool(cells(plan)) or not plan.factors,
            "dropped",
            "no treatment of the grid is left",
            "Tick at least two cells.",
        )
        p.check(
            len(cells(plan)) + len(plan.extras) >= 2, "dropped", "one treatment alone answers nothing", "Tick another."
        )
    if not p.found:
        comparisons.check(plan, p)
        names = [as_name(x.name) for x in plan.properties]
        check_judging(plan.judging, names, method_of(plan).figure_dimension, plan.sizes, p)
        total = pieces_in_all(plan)
        p.check(
            total <= MAX_SPECIMENS,
            "replicates",
            f"{total} pieces are more than one batch can hold",
            f"Stay under {MAX_SPECIMENS}: fewer levels or pieces, or two batches.",
        )
        _check_times(plan, p)
        _check_conditioning(plan, p)
    if not p.found:
        check_parents(plan, treatments(plan), p, units)
    return p.found  # fmt: skip


def _check_forms(plan: Plan, p: Problems) -> None:
    """A joint form that the method cannot break is no other one without a word."""
    method = method_of(plan)
    able = ", ".join(FORMS[f].name.lower() for f in method.forms)
    for form in wanted_forms(plan):
        name = FORMS[form].name if form in FORMS else form
        where = next((f"factors.{i}.levels.{j}" for i, f in enumerate(plan.factors) if f.key == "form"
                      for j, level in enumerate(f.levels) if level.value == form), "constants.form")  # fmt: skip
        p.check(form in method.forms, where, f"{name} cannot be broken by {method.name.lower()}",
                f"Choose one of: {able}; or another method.")  # fmt: skip
    for r in records(plan):
        form, grain = level_text(r.get("form")) or method.forms[0], level_text(r.get("orientation"))
        if grain == ANGLED and form in FORMS and FORMS[form].cut_angle is None:
            where = next((f"factors.{i}" for i, f in enumerate(plan.factors) if f.key == "orientation"),
                         "constants.orientation")  # fmt: skip
            p.add(where, f"a joint of the form {FORMS[form].name.lower()} has no end cut at an angle",
                  "Choose another grain, or a form that is cut at one.")  # fmt: skip
            break


def _check_products(plan: Plan, p: Problems) -> None:
    for name, product in plan.products.items():
        where = f"products.{name}"
        known = not product.family or product.family in GLUES
        p.check(known, f"{where}.family", f"{product.family[:40]!r} is no family of glues", "Choose one of the list.")
        thinned = product.thinned_pct
        p.check(thinned is None or 0 < thinned <= 50, f"{where}.thinned_pct",
                f"{name[:40]} is thinned by more than 50 %, or by nothing", "Type percent.")  # fmt: skip
        try:
            check_label(product.label, f"{where}.label")
        except Refusal as refusal:
            p.take(refusal)
    if plan.policy == BY_LABEL:
        for where, level in _glue_levels(plan):
            unknown = is_glued(level.value) and not as_label_says(label_of(plan, level.value) or {})
            p.check(not unknown, where, f"what the label of {level.value!s:.40} says is not known",
                    "Choose its family or state its limits; or make all under the same conditions.")  # fmt: skip


def _check_woods(plan: Plan, p: Problems) -> None:
    """Figures of woods of the user's own: within what any wood bears."""
    for name, w in plan.woods.items():
        where = f"woods.{name}"
        for key, name_, value, low, high in (
            ("shear_mpa", "shear strength", w.shear_mpa, 0.1, 60),
            ("bending_mpa", "bending strength", w.bending_mpa, 1, 400),
            ("crush_across_mpa", "crushing strength", w.crush_across_mpa, 0.1, 100),
            ("density_kg_m3", "density", w.density_kg_m3, 50, 1500),
            ("shrink_tangential_pct", "shrinkage", w.shrink_tangential_pct, 0, 30),
        ):  # fmt: skip
            fits = value is None or low <= value <= high
            p.check(fits, f"{where}.{key}", f"{name_} is none of wood", f"Type {low:g} to {high:g}; check the unit.")
        p.check(
            w.plies is None or w.plies == 0 or 3 <= w.plies <= MOST_PLIES,
            f"{where}.plies",
            "a sheet has no such number of plies",
            f"Type 3 to {MOST_PLIES}, or 0 for a board without a grain.",
        )
        p.check(len(w.grade) <= 80, f"{where}.grade", f"the grade of {name[:40]} is longer than 80 characters",
                "Shorten it.")  # fmt: skip
        p.check(len(w.source) <= 120, f"{where}.source", f"the source of {name[:40]} is longer than 120 characters",
                "Shorten it.")  # fmt: skip


def _check_protocol(plan: Plan, p: Problems) -> None:
    texts = [s.text.strip().lower() for s in plan.protocol]
    p.check(len(texts) <= 30, "protocol", "the protocol has more than 30 steps", "Put some of them together.")
    for i, s in enumerate(plan.protocol):
        at = f"protocol.{i}"
        p.check(2 <= len(s.text.strip()) <= 80, f"{at}.text", "the step has no words, or too many", "Say what is done.")
        p.check(texts[i] not in texts[:i], f"{at}.text", f"{s.text!r} stands twice", "Take one of the two out.")
        for name, value in (("wait_s", s.wait_s), ("within_s", s.within_s)):
            p.check(value is None or 0 < value <= 3.2e7, f"{at}.{name}", f"{s.text[:40]!r}: that is no time to wait",
                    "Check its unit.")  # fmt: skip
        fits = s.wait_s is None or s.within_s is None or s.wait_s <= s.within_s
        p.check(
            fits,
            f"{at}.within_s",
            f"{s.text[:40]!r} holds no longer than it has to wait",
            "Make the second time longer.",
        )


def _check_properties(plan: Plan, p: Problems) -> None:
    names = [x.name.strip().lower() for x in plan.properties]
    p.check(len(names) <= 20, "properties", "there are more than 20 properties", "Leave some of them out.")
    for i, own in enumerate(plan.properties):
        at = f"properties.{i}"
        p.check(1 <= len(own.name.strip()) <= 40, f"{at}.name", "the property has no name, or a long one", "Name it.")
        p.check(names[i] not in names[:i], f"{at}.name", f"{own.name!r} stands twice", "Take one of the two out.")
        p.check(own.of in OF, f"{at}.of", f"{own.name[:40]!r} belongs to nothing known",
                "Use one of: " + ", ".join(OF) + ".")  # fmt: skip
        p.check(own.when in WHEN, f"{at}.when", f"{own.name[:40]!r} is asked at no known time",
                "Use one of: " + ", ".join(WHEN) + ".")  # fmt: skip
        p.check(len(own.unit) <= 12, f"{at}.unit", f"the unit of {own.name[:40]!r} is longer than 12 characters",
                "Shorten it.")  # fmt: skip
        grades = [g.strip().lower() for g in own.grades]
        fine = not grades or (2 <= len(grades) <= 12 and len(set(grades)) == len(grades) and all(grades))
        p.check(fine, f"{at}.grades", f"the grades of {own.name[:40]!r} are no list",
                "Name 2 to 12 of them, each once, the lowest first.")  # fmt: skip


def _glue_levels(plan: Plan) -> Iterator[tuple[str, Level]]:
    """Every level of the glue, with its place in the document."""
    for i, factor in enumerate(plan.factors):
        if factor.key == "glue":
            yield from ((f"factors.{i}.levels.{j}", level) for j, level in enumerate(factor.levels))
    if "glue" in plan.constants and not any(f.key == "glue" for f in plan.factors):
        yield "constants.glue", plan.constants["glue"]
    for i, extra in enumerate(plan.extras):
        if "glue" in extra.changes:
            yield f"extras.{i}.changes.glue", extra.changes["glue"]


def _check_asked(plan: Plan, p: Problems) -> None:
    for name, what, asked in (
        ("side_questions", "a side question", plan.side_questions), ("claims", "a claim", plan.claims),
    ):  # fmt: skip
        for i, a in enumerate(asked):
            wrong = f"{what} is empty or longer than 300 characters"
            p.check(0 < len(a.text.strip()) <= 300, f"{name}.{i}", wrong, "Word it, or leave it out.")
            if a.against and not a.says:
                p.check(a.against in a.treatments, f"{name}.{i}.against",
                        f"{what} is set against a treatment that it lacks", "Choose one of them.")  # fmt: skip
            if a.says:
                known = a.says in SAYS and 0 < a.share <= 10
                p.check(known, f"{name}.{i}.says", f"{what} says nothing that figures could decide",
                        "Choose it from the list.")  # fmt: skip
                fits = bool(a.treatments) and bool(a.against) and a.against not in a.treatments
                p.check(fits, f"{name}.{i}.against", f"{what} does not say what is held against what",
                        "Tick the treatments that it is about, and choose another one beside them.")  # fmt: skip


def _check_extras(plan: Plan, p: Problems) -> None:
    names: list[str] = []
    for i, extra in enumerate(plan.extras):
        where, label = f"extras.{i}", extra.label.strip()
        p.check(0 < len(label) <= 80, f"{where}.label", "a single treatment needs a short name", "Name it.")
        p.check(label.lower() not in names, f"{where}.label", f"{label!r} stands twice", "Rename one of the two.")
        names.append(label.lower())
        p.check(1 <= extra.replicates <= 500, f"{where}.replicates", f"{label[:40]!r} must be made 1 to 500 times",
                "Type how many pieces.")  # fmt: skip
        p.check(
            extra.control is None or extra.control in CONTROLS, f"{where}.control",
            f"{label[:40]!r} is a control of no known kind",
            "Use one of: " + ", ".join(CONTROLS) + ".",
        )  # fmt: skip
        for key, level in extra.changes.items():
            _check_value(f"{where}.changes.{key}", key, level, p)


def _check_factor(i: int, factor: Factor, p: Problems) -> None:
    where = f"factors.{i}"
    p.check(
        bool(factor.name.strip()) and len(factor.name) <= 60,
        f"{where}.name",
        "what differs needs a short name",
        "Name it.",
    )
    p.check(
        2 <= len(factor.levels) <= MOST_LEVELS,
        f"{where}.levels",
        f"{factor.name or 'the factor'} has {len(factor.levels)} level{'s' * (len(factor.levels) != 1)}",
        f"Give it two to {MOST_LEVELS} levels.",
    )
    names = [level_name(factor.key, level) for level in factor.levels]
    for j, name in enumerate(names):
        if name.lower() in (n.lower() for n in names[:j]):
            p.add(f"{where}.levels.{j}", f"{name!r} stands twice", "Change or remove one of the two.")
        _check_value(f"{where}.levels.{j}", factor.key, factor.levels[j], p)  # fmt: skip


def _check_value(where: str, key: str, level: Level, p: Problems) -> None:
    known, value = FIELDS.get(key), level.value
    name = known.name if known else "a level"
    if value is None:
        p.check(known is None or known.may_be_none, where, f"{name} cannot be 'none'", "Give it a value.")
    elif isinstance(value, str):
        fine = 0 < len(value.strip()) <= 80
        if p.check(fine, where, f"{name} is empty or longer than 80 characters", "Type a short text.") and known:
            listed = known.choices is not None and (value in known.choices or known.free_text)
            listed = listed or value in known.words
            p.check(
                listed,
                where,
                f"{value!r} is not a value of {known.name}",
                "Choose one from the list.",
            )
    elif known is not None and known.dimension is None:
        p.add(where, f"{known.name} cannot be a number", "Choose one from the list.")
    elif known is not None and known.dimension is not None:
        unit = level.unit or BASE[known.dimension]
        if (known.dimension, unit) not in UNITS:
            able = ", ".join(u.symbol for u in UNITS.values() if u.dimension is known.dimension)
            p.add(where, f"{unit[:20]!r} is no unit of {known.dimension.value}", f"Use one of: {able}.")
            return
        shown = Units(((known.dimension, unit),))
        low, high = (shown.text(v, known.dimension) for v in (known.low, known.high))
        p.check(
            known.low <= value <= known.high, where,
            f"{known.name} of {as_typed(value, known.dimension, unit)} is outside {low} to {high}",
            "Check the number and its unit.",
        )  # fmt: skip


def _check_conditioning(plan: Plan, p: Problems) -> None:
    """A conditioning without times could be locked and then never be done."""
    for record in records(plan):
        text = level_text(record.get("conditioning")) or "dry"
        if text != "dry" and path_of(text) is None:
            where = "factors" if any(f.key == "conditioning" for f in plan.factors) else "constants.conditioning"
            p.add(
                where, f"the conditioning {text[:40]!r} states no times", "Write it like: soak 6 h at 18 °C, dry 12 h."
            )
            return


def _check_times(plan: Plan, p: Problems) -> None:
    for record in records(plan):
        clamp, cure = record["clamp_s"].value, record["cure_s"].value
        if isinstance(clamp, str) and isinstance(cure, str):
            text = "clamp time and age each stand for the other: neither has a number"
            p.add("constants.cure_s", text, "Type one of the two as a time.")
            return
        if isinstance(clamp, float | int) and isinstance(cure, float | int) and clamp > cure:
            p.add(
                "constants.cure_s",
                f"cure time ({level_name('cure_s', record['cure_s'])}) is shorter than clamp time "
                f"({level_name('clamp_s', record['clamp_s'])}), which is part of it",
                "Cure time runs from closing to breaking: make it longer.",
            )
            return


def _check_rig(plan: Plan, p: Problems) -> None:
    known = "Use one of: " + ", ".join(STRENGTHS) + "."
    p.check(plan.strength in STRENGTHS, "strength", f"{plan.strength!r} is no mark of a curve", known)
    words = [o.word.strip().casefold() for o in plan.outcomes]
    for i, o in enumerate(plan.outcomes):
        at = f"outcomes.{i}"
        p.check(1 <= len(o.word.strip()) <= 60, at, "a way of giving way needs 1 to 60 characters",
                "Name it, or leave it out.")  # fmt: skip
        p.check(words.count(words[i]) == 1, at, f"{o.word!r} stands twice", "Take one of them out.")
        p.check(o.mode in FAILURE_NAMES, f"{at}.mode", f"{o.word[:40]!r} stands for no way of giving way",
                "Choose one.")  # fmt: skip
    p.check(len(plan.method_name) <= 80, "method_name", "the name of the method is longer than 80 characters",
            "Shorten it.")  # fmt: skip
    rule = plan.overlap_most
    p.check(rule is None or 0.1 <= rule <= 50, "overlap_most", "the longest overlap must be 0.1 to 50 thicknesses",
            "Leave it, or mend it.")  # fmt: skip
    p.check(0 <= plan.joint_off_mm <= 1500, "joint_off_mm", "the joint lies at no possible distance",
            "Measure from the middle.")  # fmt: skip
    pace = plan.pace
    if pace is not None and p.check(pace.kind in PACES, "pace.kind", f"{pace.kind[:20]!r} is no pace",
                                    f"Use one of: {', '.join(PACES)}."):  # fmt: skip
        p.check(0 < pace.low <= pace.high < 1e9, "pace.high", "the pace must end above its lower end, and that above 0",
                "Type from the smaller to the larger.")  # fmt: skip
