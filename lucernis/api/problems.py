"""Errors as RFC 9457 problem documents. One table maps our exceptions; the stock handlers are replaced."""

from __future__ import annotations

import csv
import logging
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from pydantic import BaseModel
from starlette.exceptions import HTTPException
from starlette.responses import JSONResponse

from lucernis.errors import (
    BadDocument,
    Busy,
    EditRefused,
    LucernisError,
    MeterGone,
    NotFound,
    NothingFits,
    NotUnderstood,
    OutOfRange,
    PlanDamaged,
    StaleRevision,
    StoreDamaged,
    StoreFull,
    StoreReadOnly,
    TooLarge,
    TooMuch,
    UnknownRow,
)

LOG = logging.getLogger("lucernis")
PROBLEM_JSON = "application/problem+json"

# Exception class to status, slug and title. A subclass without a line of its own takes its parent's.
TABLE: dict[type[LucernisError], tuple[int, str, str]] = {
    NotFound: (404, "not-found", "Not found"),
    MeterGone: (409, "meter-gone", "The meter does not answer"),
    StaleRevision: (412, "stale-revision", "Somebody edited first"),
    TooLarge: (413, "too-large", "Too large"),
    TooMuch: (422, "too-much", "Too much to compute"),
    Busy: (429, "busy", "Too much at once"),
    BadDocument: (422, "bad-document", "Not a valid plan"),
    OutOfRange: (422, "out-of-range", "Out of range"),
    UnknownRow: (422, "unknown-row", "Not in the table"),
    NotUnderstood: (422, "not-understood", "Not understood"),
    NothingFits: (422, "nothing-fits", "Nothing fits"),
    EditRefused: (422, "edit-refused", "Edit refused"),
    PlanDamaged: (409, "plan-damaged", "This plan cannot be read"),
    StoreFull: (507, "store-full", "The disk is full"),
    StoreReadOnly: (403, "store-read-only", "Nothing can be stored"),
    StoreDamaged: (500, "store-damaged", "The data file is damaged"),
    LucernisError: (422, "refused", "Refused"),
}
# Problems that do not come from an exception of ours.
OTHER = {
    "bad-request": (422, "Fields are not allowed"),
    "http": (400, "Refused"),
    "unexpected": (500, "Something broke here"),
    "precondition-required": (428, "If-Match is missing"),
    "not-paired": (401, "This device is not let in"),
    "only-looks": (403, "This link only shows one job"),
    "wrong-door": (403, "Wrong host or origin"),
}


class FieldError(BaseModel):
    """One field and what it may be."""

    pointer: str
    detail: str


class Problem(BaseModel):
    """An RFC 9457 problem document; always sent with a body."""

    type: str
    title: str
    status: int
    detail: str
    instance: str
    errors: list[FieldError] = []
    current_revision: int | None = None
    changes: list[str] = []


def type_uri(slug: str) -> str:
    """Stable name of a kind of problem; docs/problems.md has a section for each."""
    return f"urn:lucernis:problem:{slug}"


def problem_response(
    request: Request,
    slug: str,
    status: int,
    title: str,
    detail: str,
    *,
    errors: list[FieldError] | None = None,
    current_revision: int | None = None,
    changes: list[str] | None = None,
) -> JSONResponse:
    """Answer with a problem document."""
    body = Problem(
        type=type_uri(slug),
        title=title,
        status=status,
        detail=detail,
        instance=request.url.path,
        errors=errors or [],
        current_revision=current_revision,
        changes=changes or [],
    )
    return JSONResponse(body.model_dump(exclude_none=True), status_code=status, media_type=PROBLEM_JSON)


def _ours(request: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, LucernisError)  # noqa: S101 - registered for this class only
    kind = next(one for one in type(error).__mro__ if one in TABLE)
    status, slug, title = TABLE[kind]
    if isinstance(error, BadDocument):
        errors = [FieldError(pointer=one.pointer, detail=one.detail) for one in error.problems[:100]]
        detail = "; ".join(f"{one.pointer}: {one.detail}" for one in error.problems[:3])
    else:
        allowed = f"allowed: {error.allowed}" if error.allowed else str(error)
        pointer = error.field if error.field.startswith("#") else f"#/{error.field}"
        errors = [FieldError(pointer=pointer, detail=allowed)] if error.field else []
        detail = str(error) + (f". {allowed[0].upper()}{allowed[1:]}." if error.allowed else "")
    return problem_response(
        request,
        slug,
        status,
        title,
        detail,
        errors=errors,
        current_revision=getattr(error, "current_revision", None),
        changes=getattr(error, "changes", None),
    )


def _validation(request: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, RequestValidationError)  # noqa: S101 - registered for this class only
    errors = []
    # The input is not echoed: a NaN in it would make the answer itself impossible to encode.
    for one in error.errors():
        steps = [str(step) for step in one["loc"] if step != "body"]
        errors.append(FieldError(pointer="#/" + "/".join(steps), detail=one["msg"].removeprefix("Value error, ")))
    detail = "; ".join(f"{one.pointer}: {one.detail}" for one in errors[:3])
    return problem_response(request, "bad-request", 422, OTHER["bad-request"][1], detail, errors=errors[:100])


def _http(request: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, HTTPException)  # noqa: S101 - registered for this class only
    if error.status_code == 404:
        return problem_response(request, "not-found", 404, "Not found", f"Nothing at {request.url.path}")
    if error.status_code == 428:
        return problem_response(request, "precondition-required", 428, OTHER["precondition-required"][1], error.detail)
    if error.status_code == 413:
        return problem_response(request, "too-large", 413, "Too large", str(error.detail))
    return problem_response(request, "http", error.status_code, OTHER["http"][1], str(error.detail))


# What a reader of the standard library says of something that is no such thing, and what it means to whoever sent it.
_UNREADABLE: dict[type[Exception], str] = {
    RecursionError: "nested too deep: at most some hundred levels",
    UnicodeError: "has a character that is none, as half of a pair",
    OverflowError: "has a number beyond all bounds",
    csv.Error: "has a cell that is too long, or is no table",
}


def _unreadable(request: Request, error: Exception) -> JSONResponse:
    if request.method in ("GET", "HEAD", "DELETE"):
        # Nothing was sent: it is a fault of ours.
        return _unexpected(request, error)
    what = next(text for kind, text in _UNREADABLE.items() if isinstance(error, kind))
    LOG.warning("cannot be read: %s", error)
    errors = [FieldError(pointer="#", detail=what)]
    return problem_response(
        request, "bad-request", 422, OTHER["bad-request"][1], f"What was sent {what}.", errors=errors
    )


def _unexpected(request: Request, error: Exception) -> JSONResponse:
    LOG.exception("unexpected", exc_info=error)
    return problem_response(
        request, "unexpected", 500, OTHER["unexpected"][1], "Nothing was changed. The server's log says more."
    )


def install_problems(app: FastAPI) -> None:
    """Replace the stock error handlers."""
    app.add_exception_handler(LucernisError, _ours)
    app.add_exception_handler(RequestValidationError, _validation)
    app.add_exception_handler(HTTPException, _http)
    for kind in _UNREADABLE:
        app.add_exception_handler(kind, _unreadable)
    app.add_exception_handler(Exception, _unexpected)


def problem_openapi(schema: dict[str, Any]) -> dict[str, Any]:
    """Name the problem document as every operation's default answer, under its own media type."""
    definitions = schema.setdefault("components", {}).setdefault("schemas", {})
    model = Problem.model_json_schema(ref_template="#/components/schemas/{model}")
    definitions.update(model.pop("$defs", {}))
    definitions["Problem"] = model
    for unused in ("HTTPValidationError", "ValidationError"):
        definitions.pop(unused, None)
    answer = {
        "description": "A problem document",
        "content": {PROBLEM_JSON: {"schema": {"$ref": "#/components/schemas/Problem"}}},
    }
    for path in schema.get("paths", {}).values():
        for operation in path.values():
            operation["responses"].pop("422", None)
            operation["responses"]["default"] = answer
    return schema
