"""Errors as problem documents (RFC 9457) that name the field and the remedy."""

from __future__ import annotations

import logging
import sqlite3
from collections.abc import Iterable
from dataclasses import asdict
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from starlette.exceptions import HTTPException

from adhaero.core.refusal import Doubt, Problem, Refusal
from adhaero.workflow.context import Conflict, NotFound

_log = logging.getLogger(__name__)


class FieldProblem(BaseModel):
    """What is wrong with one field, and what to do about it."""

    field: str
    message: str
    remedy: str


class ProblemDocument(BaseModel):
    """A refused request. Nothing was changed."""

    type: str
    title: str
    status: int
    detail: str
    errors: list[FieldProblem]


def problem(status: int, kind: str, title: str, detail: str, errors: Iterable[Problem] = ()) -> JSONResponse:
    """A problem document as a response."""
    body = {"type": f"/problems/{kind}", "title": title, "status": status, "detail": detail}
    return JSONResponse({**body, "errors": [asdict(e) for e in errors]}, status, media_type="application/problem+json")


def _refused(_: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, Refusal)
    first = error.problems[0]
    more = len(error.problems) - 1
    detail = f"{first.message}. {first.remedy}" + (f" And {more} more." if more else "")
    status, kind = (409, "conflict") if isinstance(error, Conflict) else (422, "refused")
    if isinstance(error, Doubt):
        kind = "doubt"
    return problem(status, kind, "Not saved", detail, error.problems)


def _not_found(_: Request, error: Exception) -> JSONResponse:
    return problem(404, "not-found", "Not found", str(error))


def _invalid(_: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, RequestValidationError)
    found = [
        Problem(
            ".".join(str(part) for part in e["loc"] if part != "body") or "body",
            _plain(e),
            "Correct it and send again.",
        )
        for e in error.errors()[:50]
    ]
    return problem(422, "invalid", "Not saved", f"{found[0].field}: {found[0].message}", found)


def _plain(error: dict[str, Any]) -> str:
    if error["type"] == "value_error":
        return str(error["ctx"]["error"]) if "ctx" in error else str(error["msg"])
    words = {
        "missing": "is missing",
        "float_parsing": "is not a number",
        "int_parsing": "is not a whole number",
        "finite_number": "is not a finite number",
        "string_too_long": "is too long",
        "extra_forbidden": "is not known here",
        "dict_type": "is not a set of named values",
        "model_attributes_type": "is not a set of named values",
        "list_type": "is not a list",
        "string_type": "is not text",
        "bool_type": "is neither yes nor no",
        "literal_error": "is none of the choices",
    }
    return words.get(error["type"], str(error["msg"])[:1].lower() + str(error["msg"])[1:200])


def _database(_: Request, error: Exception) -> JSONResponse:
    text = str(error)
    if "full" in text:
        detail = "The disk is full. Nothing was changed; free some space and try again."
        return problem(507, "disk-full", "Not saved", detail)
    if "readonly" in text or "read-only" in text or "unable to open" in text:
        detail = "The data folder cannot be written to. Nothing was changed; give this user the right to write there."
        return problem(507, "read-only", "Not saved", detail)
    if "locked" in text or "busy" in text:
        return problem(503, "busy", "Not saved", "The data file is in use. Nothing was changed; try again.")
    return _unexpected(_, error)


def _too_large(_: Request, error: Exception) -> JSONResponse:
    return problem(404, "not-found", "Not found", "There is nothing with such a number.")


def _unexpected(_: Request, error: Exception) -> JSONResponse:
    _log.exception("unexpected error", exc_info=error)
    return problem(500, "unexpected", "Something went wrong", "Nothing was changed. Try again; the log has details.")


def _http(_: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, HTTPException)
    return problem(error.status_code, "http", str(error.detail), str(error.detail))


def install(app: FastAPI) -> None:
    """Turn every error of the application into a problem document."""
    app.add_exception_handler(Refusal, _refused)
    app.add_exception_handler(NotFound, _not_found)
    app.add_exception_handler(RequestValidationError, _invalid)
    app.add_exception_handler(HTTPException, _http)
    app.add_exception_handler(sqlite3.Error, _database)
    app.add_exception_handler(OverflowError, _too_large)
    app.add_exception_handler(Exception, _unexpected)
