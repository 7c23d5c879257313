"""What every router uses: the workshop, headers, and answers written straight from dataclasses."""

from __future__ import annotations

import re
from collections.abc import Hashable
from datetime import datetime
from functools import lru_cache
from typing import Annotated, Any, Literal, cast
from urllib.parse import unquote

from fastapi import APIRouter, Depends, Header, Request, Response
from pydantic import AfterValidator, BaseModel, ConfigDict, Field, TypeAdapter, model_validator

from adhaero.api.problems import ProblemDocument
from adhaero.workflow.context import AppContext


def context(request: Request) -> AppContext:
    """The workshop that this application serves."""
    found: AppContext = request.app.state.context
    return found


def _person(adhaero_person: Annotated[str, Header(max_length=400)] = "") -> str:
    return unquote(adhaero_person)[:60]


Shop = Annotated[AppContext, Depends(context)]
Person = Annotated[str, Depends(_person)]
Key = Annotated[str | None, Header(alias="Idempotency-Key", min_length=8, max_length=100)]


def router_for(tag: str, prefix: str = "") -> APIRouter:
    """The router of a part of the API, complete: the application takes its routes as they are. Were it included with a
    prefix, every route would be built twice.
    """
    return APIRouter(
        prefix=f"/api{prefix}",
        tags=[tag],
        responses={422: {"model": ProblemDocument, "description": "Refused; nothing was changed"}},
    )


def built_once(view: type) -> None:
    """Prepare a view with which many routes answer. The schema of a plain dataclass is built anew for each of them
    unless it is found on the class, as on pydantic's own dataclasses: half a second of a start.
    """
    view.__pydantic_core_schema__ = TypeAdapter(view).core_schema  # type: ignore[attr-defined]


MOST_NESTED = 40


def hidden_signs(value: Any, deep: int = 0) -> str:
    """The first sign in a text (or in what is nested in a value) that is a control sign or turns the direction of
    writing; empty for none. New lines and tabs are fine.
    """
    if isinstance(value, str):
        found = _HIDDEN.search(value)
        return f"U+{ord(found[0]):04X}" if found else ""
    if deep > MOST_NESTED:
        return "nested too deeply"
    inner = value.values() if isinstance(value, dict) else value if isinstance(value, list) else ()
    return next((unseen for x in inner if (unseen := hidden_signs(x, deep + 1))), "")


_HIDDEN = re.compile(
    "[\\x00-\\x08\\x0b\\x0c\\x0e-\\x1f\\x7f-\\x9f"  # control signs
    "\\u200e\\u200f\\u202a-\\u202e\\u2066-\\u2069\\ufeff\\ud800-\\udfff]"  # direction marks, halves of a sign
)


class Strict(BaseModel):
    """Input in which a misspelt field is an error, not a silent loss."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    @model_validator(mode="before")
    @classmethod
    def _readable(cls, data: Any) -> Any:
        """Refuse signs that nobody sees: they break files, and make two names look like one."""
        if isinstance(data, dict):
            for name, value in data.items():
                if unseen := hidden_signs(value):
                    raise ValueError(f"{name} holds signs that cannot be seen ({unseen}): type it anew")
        return data


def _sane(at: datetime) -> datetime:
    if at.tzinfo is None:
        raise ValueError("has no time zone: write it as 2026-11-23T16:50:00Z")
    if not 1970 <= at.year <= 2200:
        raise ValueError("is no time that anything happens at: write it as 2026-11-23T16:50:00Z")
    return at


When = Annotated[datetime, AfterValidator(_sane)]
"""A moment with its time zone, in a year that anybody works in."""
Stage = Literal["plan", "cut", "glue", "break", "compare"]
Short = Annotated[str, Field(max_length=200)]
Code = Annotated[str, Field(max_length=40)]
Codes = Annotated[list[Code], Field(max_length=5000)]


Confirmed = Annotated[list[Short], Field(max_length=10)]
"""Doubts that were shown and answered with yes."""


class Id(Strict):
    """The id of something new."""

    id: int


class Done(Strict):
    """How many things an action touched."""

    pieces: int


class CodeIn(Strict):
    """A piece."""

    code: Code


@lru_cache(maxsize=64)
def _adapter(kind: Hashable) -> TypeAdapter[Any]:
    adapter: TypeAdapter[Any] = TypeAdapter(cast(Any, kind))
    return adapter


def answer(view: Any, status: int = 200) -> Response:
    """A dataclass as JSON, in one pass.

    The route still declares it as its response model, for the API's description; going through that model would copy
    a view of a thousand specimens twice.
    """
    return Response(_adapter(cast(Hashable, type(view))).dump_json(view), status, media_type="application/json")
