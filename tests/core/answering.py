"""Reads answer cases: a file a kind of question, each case a study with what anybody with sense would say of it."""

from __future__ import annotations

import json
import os
import re
from pathlib import Path
from typing import Any

from adhaero.core.claims.judge import Judge
from adhaero.core.inference import Inference
from adhaero.core.piece_record import Known
from adhaero.core.questions.decide import decide
from adhaero.core.questions.question import Answer, Line, Question, QuestionKind
from adhaero.core.questions.study import WOOD, Cell, Factor, Level, Sample, Study, Unit
from adhaero.core.wording.render import render
from adhaero.core.wording.say import Say, three_digits

FOLDER = Path(os.environ.get("ADHAERO_ANSWER_DIR") or Path(__file__).parents[1] / "answers")
BASE = {"min": 60.0, "h": 3600.0, "d": 86400.0, "mo": 2629800.0, "y": 31557600.0}
UNITS = {"h": "h|hours?", "min": "min|minutes?", "d": "d|days?", "mo": "mo|months?", "y": "y|yr|years?", "mm": "mm",
         "MPa": "MPa"}  # fmt: skip
KNOWN = {"exact": Known.EXACT, "between": Known.BETWEEN, "at_least": Known.AT_LEAST, "held": Known.AT_LEAST,
         "fell_apart": Known.BELOW}  # fmt: skip


def kinds() -> list[str]:
    """Every kind of which there are cases."""
    return sorted(f.stem for f in FOLDER.glob("*.json"))


def cases(kind: str) -> list[Any]:
    """The cases of a kind."""
    return list(json.loads((FOLDER / f"{kind}.json").read_text())["cases"])


def numbers(text: str) -> list[float]:
    """Every number of a text."""
    return [float(x.replace(",", "")) for x in re.findall(r"\d[\d,]*(?:\.\d+)?", text) if x.strip(",")]


def holds(text: str, item: str) -> bool:
    """Whether a text holds a name (whole words), a figure (within 2 %, or 1 below 100) or a quantity."""
    if re.fullmatch(r"\d+(\.\d+)?", item):
        v = float(item)
        slack = max(0.02 * v, 1 if v < 100 and v == int(v) else 0)
        return any(abs(x - v) <= slack + 1e-9 for x in numbers(text))
    m = re.fullmatch(r"(\d+(?:\.\d+)?) (\w+)", item)
    if m and m[2] in UNITS:
        return bool(re.search(rf"(?<![\d.]){re.escape(m[1])}[ -](?:{UNITS[m[2]]})\b", text))
    if len(item) > 1:
        return item.lower() in text.lower()
    return bool(re.search(rf"(?<!\w){re.escape(item)}(?!\w)", text))


def _level(f: Any, told: Any) -> Level:
    value, unit = str(told["value"]), str(told.get("unit") or "")
    text = f"{value} {unit}".strip()
    m = re.fullmatch(r"(\d+(?:\.\d+)?)\s*([A-Za-z]*)", text)
    size = float(m[1]) * BASE.get(m[2], 1.0) if m else None
    return Level(value, text, size)


def _unit(p: Any, case: Any) -> Unit:
    kind, low, high, mode = p["kind"], p["low"], p["high"], p["mode"] or ""
    passed = _passes(p, case["rule"]) if case["rule"] else None
    if kind in ("passed", "failed"):
        return Unit(Known.NONE, mode=mode, passed=passed)
    if kind == "fell_apart":
        return Unit(Known.BELOW, 0.0, 0.0, mode, passed)
    bounded = case["target"] == "bond" and kind == "exact" and mode == WOOD
    known = Known.AT_LEAST if bounded else KNOWN[kind]
    top = low if known is Known.EXACT else high if known is Known.BETWEEN else float("inf")
    return Unit(known, float(low), float(top), mode, passed)


def _passes(p: Any, rule: Any) -> bool | None:
    if p["kind"] in ("passed", "failed"):
        return bool(p["kind"] == "passed")
    if p["kind"] == "fell_apart":
        return False
    if (least := rule.get("least_n")) is not None:
        if p["low"] >= least:
            return True
        top = p["low"] if p["kind"] == "exact" else p["high"]
        return None if top is None or top > least else False
    wood = p.get("wood_pct", 100.0 if p["mode"] == WOOD else 0.0 if p["mode"] in ("in-glue", "interface") else None)
    return None if wood is None else bool(wood >= rule["least_wood_pct"])


def study_of(case: Any, *, turned: bool) -> Study:
    """The study of a case, its factors in the order given or ``turned`` round."""
    factors = [
        Factor(f["key"], f["name"], tuple(_level(f, x) for x in f["levels"]), f["key"].startswith("gap"))
        for f in case["factors"]
    ]
    own: dict[tuple[str, ...], list[Any]] = {}
    for p in case["pieces"]:
        own.setdefault(tuple(p["levels"][f.key] for f in factors), []).append(p)
    cells = []
    for levels, pieces in own.items():
        tested = [p for p in pieces if p["kind"] not in ("left_out", "not_broken")]
        waits, out = (sum(p["kind"] == k for p in pieces) for k in ("not_broken", "left_out"))
        keyed = dict(zip((f.key for f in factors), levels, strict=True))
        cells.append(Cell(keyed, tuple(_unit(p, case) for p in tested), waits, out))
    solid, by = case["solid"], ""
    if isinstance(solid, dict):
        by = next((f.key for f in factors if {x.id for x in f.levels} >= set(solid)), "") if solid else ""
    samples = {"": solid} if isinstance(solid, list) else solid
    whole = {k: Sample(tuple(Unit(Known.EXACT, float(v), float(v)) for v in own)) for k, own in samples.items() if own}
    ordered = tuple(reversed(factors)) if turned else tuple(factors)
    return Study(ordered, tuple(cells), whole, by, case["cost"])


def question_of(case: Any) -> Question:
    """The question of a case."""
    q = case["question"]
    kind = QuestionKind(q["kind"])
    return Question(kind, q["of"], q.get("against", ""), q.get("along", ""), q.get("within", ""), q["share"],
                    q["figure"], words=case["words"])  # fmt: skip


def answered(case: Any, *, turned: bool = False) -> tuple[Answer, str]:
    """The answer to a case, and its text."""
    study, inference = study_of(case, turned=turned), Inference(margin=case["matters"])
    a = decide(question_of(case), study, Judge(study, inference))
    unit = case.get("time_unit") or "d"
    say = Say(study, lambda v: f"{three_digits(v):,.10g} N", lambda v: f"{three_digits(v):g} {unit}",
              lambda cost: f"${cost:.2f}", inference)  # fmt: skip
    return a, render(say, a)


def lines_of(a: Answer, key: str, case: Any) -> list[Line]:
    """The lines that a key of the expectation is about: of a level, or of a cell "A | dry"; the last state counts."""
    level, _, within = key.partition(" | ")
    own = [x for x in a.lines if x.level == level and (not within or x.within == within)]
    return own[-1:] if case["question"].get("along") else own
