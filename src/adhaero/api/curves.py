"""Curves from files over HTTP: looked at, then taken."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import Body, Query, Response

from adhaero.api.wire import Code, Id, Key, Person, Shop, answer, router_for
from adhaero.core.breaking.curve_file import Columns
from adhaero.workflow.breaking import curve_import
from adhaero.workflow.breaking.curve_import import CurveLook

router = router_for("break", "/curves")

Text = Annotated[str, Body(media_type="text/csv")]
Column = Annotated[int, Query(ge=0, le=100)]
UnitName = Annotated[str, Query(max_length=20)]


def _columns(
    time: Column = 0, load: Column = 0, travel: Column = 0, time_unit: UnitName = "s", load_unit: UnitName = "N",
    travel_unit: UnitName = "mm",
) -> Columns | None:  # fmt: skip
    return Columns(time, load, travel, time_unit, load_unit, travel_unit) if time and load else None


@router.post("/look", response_model=CurveLook)
def post_look(
    w: Shop, text: Text = "", time: Column = 0, load: Column = 0, travel: Column = 0, time_unit: UnitName = "s",
    load_unit: UnitName = "N", travel_unit: UnitName = "mm",
) -> Response:  # fmt: skip
    """How a file is understood; without columns as its heads suggest."""
    return answer(curve_import.look(w, text, _columns(time, load, travel, time_unit, load_unit, travel_unit)))


@router.post("", response_model=Id, status_code=201)
def post_curve(
    w: Shop, person: Person, code: Code, time: Column, load: Column, text: Text = "", travel: Column = 0,
    time_unit: UnitName = "s", load_unit: UnitName = "N", travel_unit: UnitName = "mm", key: Key = None,
) -> dict[str, Any]:  # fmt: skip
    """Take a file as a pull of a piece; returns its batch."""
    columns = Columns(time, load, travel, time_unit, load_unit, travel_unit)
    return curve_import.take(w, code, text, columns, person, key)
