"""A table of another shop, as it is sent with the way to read it."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from adhaero.api.plan_bodies import LevelIn
from adhaero.api.wire import Short, Strict
from adhaero.core.plan.document import Level
from adhaero.formats.foreign_table import MOST_TEXT
from adhaero.workflow.foreign_columns import Column
from adhaero.workflow.foreign_reading import Foreign


class ColumnIn(Strict):
    """What a column of a long table holds."""

    role: Literal[
        "factor", "load", "result", "piece", "date", "failure_mode", "wood_failure_pct", "size", "note", "skip", "ask",
    ]  # fmt: skip
    key: str = Field("", max_length=60)
    unit: str = Field("", max_length=20)


class ForeignIn(Strict):
    """A table, what it is about, and how it is written; sizes in mm, constants in the base unit of their field."""

    name: str = Field("", max_length=1000)
    text: str = Field(max_length=MOST_TEXT + 1)
    layout: Literal["rows", "columns", "long"]
    method: str = Field(max_length=60)
    unit: str = Field(max_length=20)
    factor: Short = ""
    key: str = Field("", max_length=60)
    heading: bool = True
    at_least: Short = Foreign.at_least
    apart: Short = Foreign.apart
    empty: Short = Foreign.empty
    means: bool = False
    solid: Short = ""
    control: Short = ""
    sizes: dict[str, float] = Field({}, max_length=30)
    constants: dict[str, LevelIn] = Field({}, max_length=40)
    columns: list[ColumnIn] = Field([], max_length=100)
    broken_on: Short = ""
    leave_out: bool = False

    def table(self) -> Foreign:
        """As the workshop reads it."""
        told = self.model_dump(exclude={"leave_out", "constants", "columns"})
        return Foreign(**told, constants={k: Level(v.value, v.unit) for k, v in self.constants.items()},
                       columns=tuple(Column(c.role, c.key, c.unit) for c in self.columns))  # fmt: skip
