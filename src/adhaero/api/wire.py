"""What every router uses: the workshop, headers, and answers written straight from dataclasses."""

from __future__ import annotations

from collections.abc import Hashable
from functools import lru_cache
from typing import Annotated, Any, cast
from urllib.parse import unquote

from fastapi import Depends, Header, Request, Response
from pydantic import TypeAdapter

from adhaero.workflow.workshop import Workshop


def workshop(request: Request) -> Workshop:
    """The workshop that this application serves."""
    found: Workshop = request.app.state.workshop
    return found


def _person(adhaero_person: Annotated[str, Header(max_length=400)] = "") -> str:
    return unquote(adhaero_person)[:60]


Shop = Annotated[Workshop, Depends(workshop)]
Person = Annotated[str, Depends(_person)]
Key = Annotated[str | None, Header(alias="Idempotency-Key", min_length=8, max_length=100)]


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
