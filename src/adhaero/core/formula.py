"""A formula of the user's own, reckoned with its units: "raw * (1 + 0.2 * wood)" is a column beside the raw figure.

Sums need the same unit on both sides, so that a percentage cannot be added to a stress. Written in the usual way of
spreadsheets: + - * / and brackets, ^ with a whole number.
"""

from __future__ import annotations

import ast
import re
from collections.abc import Collection, Mapping
from dataclasses import dataclass

from adhaero.core.quantity import Dimension
from adhaero.core.refusal import Refusal, refuse

Unit = tuple[int, int]
"""Powers of N and mm."""
OF_DIMENSION: Mapping[Unit, Dimension] = {
    (0, 0): Dimension.NUMBER, (1, 0): Dimension.FORCE, (0, 1): Dimension.LENGTH, (0, 2): Dimension.AREA,
    (1, -2): Dimension.STRESS, (1, -1): Dimension.LINE_LOAD, (1, 1): Dimension.MOMENT,
}  # fmt: skip
KNOWN: Mapping[str, str] = {
    "raw": "the figure that is compared", "load": "the load", "area": "the glued area",
    "wood": "the wood failure, as a share from 0 to 1",
}  # fmt: skip
"""Names that every formula may use -> what they stand for."""
_FIXED: Mapping[str, Unit] = {"load": (1, 0), "area": (0, 2), "wood": (0, 0)}
_SCALE: Mapping[Dimension, float] = {Dimension.MOMENT: 1e-3}
"""From N and mm to the base unit: a moment is told in N m."""
MOST = 200


@dataclass(frozen=True)
class Formula:
    """A formula with the name of its column."""

    name: str
    text: str


@dataclass(frozen=True)
class Amount:
    """A number with its powers of N and mm."""

    value: float
    unit: Unit = (0, 0)


def unit_of(dimension: Dimension) -> Unit:
    """The powers of N and mm of a dimension; none for what is no force or length."""
    return next((u for u, d in OF_DIMENSION.items() if d is dimension), (0, 0))


def as_name(text: str) -> str:
    """A title as the name that stands for it in a formula: "Set-up minutes" is set_up_minutes."""
    return re.sub(r"\W+", "_", text.strip().lower()).strip("_")


def check(f: Formula, names: Collection[str] = (), raw: Dimension = Dimension.STRESS) -> None:
    """Whether it can be reckoned at all, for a figure of the dimension ``raw`` and further plain numbers ``names``.
    ``Refusal`` with the reason.
    """
    if not 0 < len(f.name.strip()) <= 60:
        raise refuse("judging.formula.name", "the column has no name, or a long one", "Name it.")
    dimension_of(f, names, raw)


def dimension_of(f: Formula, names: Collection[str] = (), raw: Dimension = Dimension.STRESS) -> Dimension:
    """What its result measures."""
    # Unlike numbers, so that a difference of two names is not 0 by accident.
    ones = {k: Amount(1.37 + 0.211 * i, _FIXED.get(k, (0, 0))) for i, k in enumerate((*KNOWN, *names))}
    ones["raw"] = Amount(ones["raw"].value, unit_of(raw))
    try:
        found = OF_DIMENSION.get(_reckon(f, ones).unit)
    except ZeroDivisionError as error:
        raise _wrong("divides by 0", "Divide by something else.") from error
    except OverflowError as error:
        raise _wrong("grows beyond every number", "Take powers of powers out of it.") from error
    if found is None:
        raise _wrong("its result has a unit that is no figure here", "Divide or multiply until it is one.")
    return found


def reckon(f: Formula, values: Mapping[str, float], raw: Dimension) -> float | None:
    """Its result in the base unit, or ``None`` where a value it needs is not known, or it divides by 0."""
    amounts = {k: Amount(v, _FIXED.get(k, (0, 0))) for k, v in values.items()}
    if "raw" in values:
        amounts["raw"] = Amount(values["raw"] / _SCALE.get(raw, 1.0), unit_of(raw))
    try:
        found = _reckon(f, amounts)
    except (Refusal, ZeroDivisionError, OverflowError):
        return None
    return found.value * _SCALE.get(OF_DIMENSION.get(found.unit, Dimension.NUMBER), 1.0)


def _wrong(what: str, remedy: str) -> Refusal:
    return refuse("judging.formula.text", what, remedy)


def _reckon(f: Formula, values: Mapping[str, Amount]) -> Amount:
    text = f.text.strip().replace("^", "**").replace("×", "*").replace("−", "-").replace(",", ".")
    if not 0 < len(text) <= MOST:
        raise _wrong("is empty, or too long", "Write it like raw * (1 + 0.2 * wood).")
    try:
        tree = ast.parse(text, mode="eval")
    except (SyntaxError, ValueError, MemoryError, RecursionError) as error:
        raise _wrong("cannot be read", "Write it like raw * (1 + 0.2 * wood).") from error
    return _of(tree.body, values)


def _of(node: ast.expr, values: Mapping[str, Amount]) -> Amount:
    match node:
        case ast.Constant(value=int() | float() as number) if not isinstance(number, bool):
            return Amount(float(number))
        case ast.Name(id=name):
            if name not in values:
                raise _wrong(f"{name[:30]!r} is not known", "Use " + ", ".join(values) + ".")
            return values[name]
        case ast.UnaryOp(op=ast.USub(), operand=inner):
            a = _of(inner, values)
            return Amount(-a.value, a.unit)
        case ast.BinOp(left=left, op=ast.Pow(), right=ast.Constant(value=int() as power)) if abs(power) <= 6:
            a = _of(left, values)
            return Amount(a.value**power, (a.unit[0] * power, a.unit[1] * power))
        case ast.BinOp(left=left, op=op, right=right):
            return _joined(_of(left, values), op, _of(right, values))
        case _:
            raise _wrong("holds something else than numbers, names, + - * / and brackets", "Take it out.")


def _joined(a: Amount, op: ast.operator, b: Amount) -> Amount:
    match op:
        case ast.Mult():
            return Amount(a.value * b.value, (a.unit[0] + b.unit[0], a.unit[1] + b.unit[1]))
        case ast.Div():
            return Amount(a.value / b.value, (a.unit[0] - b.unit[0], a.unit[1] - b.unit[1]))
        case ast.Add() | ast.Sub():
            if a.unit != b.unit:
                names = [_named(x.unit) for x in (a, b)]
                raise _wrong(f"adds {names[0]} and {names[1]}", "Multiply, or bring both to the same unit.")
            return Amount(a.value + b.value if isinstance(op, ast.Add) else a.value - b.value, a.unit)
        case _:
            raise _wrong("holds something else than + - * / and ^", "Take it out.")


def _named(unit: Unit) -> str:
    found = OF_DIMENSION.get(unit)
    return "a plain number" if found is Dimension.NUMBER else f"a {found.value}" if found else "another unit"
