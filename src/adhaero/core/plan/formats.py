"""Reading plans: of this format, and of each older one as what it meant."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from adhaero.core.breaking.pace import Pace
from adhaero.core.breaking.trace import STRENGTHS
from adhaero.core.method_catalogue import METHODS
from adhaero.core.parents import Parents
from adhaero.core.plan.document import (
    FORMAT,
    AddedComparison,
    Asked,
    Assumptions,
    Blocks,
    Compared,
    Costs,
    Extra,
    Factor,
    Level,
    Outcome,
    OwnWood,
    Plan,
    Product,
)
from adhaero.core.plan.fields import FIELDS
from adhaero.core.plan.judging import judging_from
from adhaero.core.plan.treatments import treatments
from adhaero.core.properties import Property
from adhaero.core.protocol import ProtocolStep
from adhaero.core.quantity import UNITS
from adhaero.core.questions.question import Question, QuestionKind
from adhaero.core.refusal import Problem, Refusal, refuse


def plan_from_json(document: Mapping[str, Any], *, stored: bool = False) -> Plan:
    """A plan from its document. Raises ``Refusal`` for another format, a wrong shape, or a unit that is none.

    A ``stored`` one was taken before units were checked: what it says in one that is none is read in the base unit.
    """
    try:
        written = document["format"]
        if written not in range(1, FORMAT + 1):
            raise refuse(
                "format",
                f"plan format {written} is not known",
                "Open it with the version of the program that wrote it.",
            )
        plan = _by_ids(document) if written >= 4 else _by_places(document)
        if plan.strength not in STRENGTHS:
            able = ", ".join(STRENGTHS)
            raise refuse("strength", f"{str(plan.strength)[:40]!r} is no mark of a curve", f"Use one of: {able}.")
        return _with_units(plan, stored=stored)
    except Refusal:
        raise
    except (KeyError, TypeError, AttributeError, ValueError, IndexError) as error:
        raise Refusal(
            [Problem("plan", _plainly(error), "Choose the file that 'Save the plan as a file' made.")]
        ) from error


def _with_units(plan: Plan, *, stored: bool) -> Plan:
    def known(where: str, key: str, level: Level) -> Level:
        field = FIELDS.get(key)
        dimension = field.dimension if field else None
        if dimension is None or not level.unit or (dimension, level.unit) in UNITS:
            return level
        if not stored:
            able = ", ".join(u.symbol for u in UNITS.values() if u.dimension is dimension)
            raise refuse(where, f"{level.unit[:20]!r} is no unit of {dimension.value}", f"Use one of: {able}.")
        return replace(level, unit="")

    factors = tuple(
        replace(f, levels=tuple(known(f"factors.{i}.levels.{j}", f.key, x) for j, x in enumerate(f.levels)))
        for i, f in enumerate(plan.factors)
    )
    constants = {k: known(f"constants.{k}", k, v) for k, v in plan.constants.items()}
    extras = tuple(
        replace(e, changes={k: known(f"extras.{i}.changes.{k}", k, v) for k, v in e.changes.items()})
        for i, e in enumerate(plan.extras)
    )
    return replace(plan, factors=factors, constants=constants, extras=extras)


def _plainly(error: Exception) -> str:
    if isinstance(error, KeyError):
        return f"this is no plan: its {str(error.args[0]).replace('_', ' ')} is missing"
    return "this is no plan: a part of it is not written as a plan has it"


def _common(d: Mapping[str, Any]) -> dict[str, Any]:
    """What all formats have alike."""
    rest = dict(d)
    rest["factors"] = tuple(
        Factor(
            f["key"],
            f["name"],
            tuple(Level(**v) for v in f["levels"]),
            str(f.get("order", "typed")),
            bool(f.get("whole", False)),
        )
        for f in d["factors"]
    )
    rest["products"] = {str(k): Product(**v) for k, v in d.get("products", {}).items()}
    rest["constants"] = {k: Level(v["value"], v.get("unit", "")) for k, v in d["constants"].items()}
    rest["assumptions"] = Assumptions(**d["assumptions"])
    rest["costs"] = Costs(**d.get("costs", {}))
    rest["extras"] = tuple(_extra(e) for e in d.get("extras", ()))
    rest["guesses"] = {str(k): float(v) for k, v in d.get("guesses", {}).items()}
    rest["tolerances"] = {str(k): float(v) for k, v in d.get("tolerances", {}).items()}
    rest["solid_own"] = {str(k): int(v) for k, v in d.get("solid_own", {}).items()}
    for key in ("side_questions", "claims"):
        rest[key] = tuple(_asked(a) for a in d.get(key, ()))
    rest["woods"] = {str(k): OwnWood(**v) for k, v in d.get("woods", {}).items()}
    rest["blank_sizes"] = {str(k): float(v) for k, v in d.get("blank_sizes", {}).items()}
    rest["protocol"] = tuple(_step(s) for s in d.get("protocol", ()))
    rest["properties"] = tuple(Property(**{**p, "grades": tuple(p.get("grades", ()))}) for p in d.get("properties", ()))
    c = d.get("compared", {})
    rest["compared"] = Compared(
        tuple(map(str, c.get("struck", ()))),
        tuple(map(str, c.get("every_pair", ()))),
        tuple(AddedComparison(str(a["first"]), str(a["second"]), str(a.get("id", ""))) for a in c.get("added", ())),
    )
    rest["judging"] = judging_from(d.get("judging", {}))
    rest["outcomes"] = tuple(Outcome(**o) for o in d.get("outcomes", ()))
    rest["pace"] = Pace(**d["pace"]) if d.get("pace") else None
    rest["blocks"] = Blocks(**d["blocks"]) if d.get("blocks") else None
    together = d.get("parents")
    rest["parents"] = Parents(**{**together, "within": tuple(together["within"])}) if together else None
    rest["form_sizes"] = {
        str(form): {str(k): float(v) for k, v in own.items()} for form, own in d.get("form_sizes", {}).items()
    }
    if d["format"] < 6:
        # Keys were told by their length in all, mitres were cut at half a right angle.
        old = {"keys": 1.0} if "spline_length" in d["sizes"] else {}
        mitred = any(f.startswith("mitre") for f in METHODS[d["method"]].forms) if d["method"] in METHODS else False
        rest["sizes"] = {**old, **({"mitre_angle": 45.0} if mitred else {}), **d["sizes"]}
    rest["solid_as_loaded"] = bool(d.get("solid_as_loaded", d["format"] >= 5))
    rest["questions"] = tuple(_question(q) for q in d.get("questions", ()))
    rest["format"] = FORMAT
    return rest


def _by_ids(d: Mapping[str, Any]) -> Plan:
    rest = _common(d)
    rest["control"] = {str(k): str(v) for k, v in d["control"].items()}
    rest["dropped"] = tuple(_cell(c) for c in d["dropped"])
    rest["extra_replicates"] = tuple((_cell(c), int(n)) for c, n in d["extra_replicates"])
    return Plan(**rest)


def _cell(c: Mapping[str, Any]) -> dict[str, str]:
    return {str(k): str(v) for k, v in c.items()}


def _by_places(d: Mapping[str, Any]) -> Plan:
    """Formats 1 to 3 named levels by their places, and treatments by their labels."""
    rest = _common(d)
    if d["format"] < 3:
        rest.pop("predictions", None)
    factors: Sequence[Factor] = rest["factors"]

    def named(places: Sequence[int]) -> dict[str, str]:
        return {f.key: f.levels[i].id for f, i in zip(factors, places, strict=True)}

    rest["control"] = {} if d["control"] is None else named(d["control"])
    rest["dropped"] = tuple(named(c) for c in d["dropped"])
    rest["extra_replicates"] = tuple((named(c), n) for c, n in d["extra_replicates"])
    by_label, questions = dict(rest.pop("guesses")), {k: rest.pop(k) for k in ("side_questions", "claims")}
    plan = Plan(**rest)
    if not by_label and not any(a.treatments for own in questions.values() for a in own):
        return Plan(**{**rest, **questions})
    ids = {t.label: t.id for t in treatments(plan)} if all(f.levels for f in plan.factors) else {}
    asked = {k: tuple(replace(a, treatments=tuple(ids[x] for x in a.treatments if x in ids)) for a in own)
             for k, own in questions.items()}  # fmt: skip
    guesses = {ids[label]: load for label, load in by_label.items() if label in ids}
    return Plan(**{**rest, **asked, "guesses": guesses})


def _question(q: Mapping[str, Any]) -> Question:
    kind = str(q["kind"])
    if kind not in set(QuestionKind):
        raise refuse("questions", f"{kind[:40]!r} is no kind of question", f"Use one of: {', '.join(QuestionKind)}.")
    texts = {k: str(q.get(k, "")) for k in ("of", "against", "along", "within", "words", "id")}
    return Question(QuestionKind(kind), share=float(q.get("share", 0.9)), figure=str(q.get("figure", "strength")),
                    judge_by=str(q.get("judge_by", "average")), late=bool(q.get("late", False)), **texts)  # fmt: skip


def _extra(e: Mapping[str, Any]) -> Extra:
    changes = {k: Level(v["value"], v.get("unit", "")) for k, v in e["changes"].items()}
    return Extra(e["label"], changes, int(e["replicates"]), e.get("control"), int(e.get("late", 0)),
                 str(e.get("id", "")))  # fmt: skip


def _step(s: Mapping[str, Any]) -> ProtocolStep:
    wait, within = (None if s.get(k) is None else float(s[k]) for k in ("wait_s", "within_s"))
    return ProtocolStep(str(s["text"]), tuple(s.get("treatments", ())), wait, within, str(s.get("id", "")))


def _asked(a: Mapping[str, Any] | str) -> Asked:
    if isinstance(a, str):
        return Asked(a)
    figures = str(a.get("says", "")), str(a.get("against", "")), float(a.get("share", 1.0))
    return Asked(a["text"], tuple(a["treatments"]), str(a.get("id", "")), *figures)
