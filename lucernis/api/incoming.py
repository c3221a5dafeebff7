"""What comes in from outside, read in the process that is there for it: whoever sends something large or broken holds
up nobody else. Here is what that process does; nothing here knows the data file."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Annotated, Any

from fastapi import Depends, Request

from lucernis.api.answers import report_of
from lucernis.core.report import Report
from lucernis.errors import BadDocument, FieldProblem
from lucernis.exports.photos import fit_to_keep
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Plan
from lucernis.store.jobs import history_in, photos_in, record_in
from lucernis.store.photos import Kind
from lucernis.store.record import Entry
from lucernis.store.revisions import Brought


async def _raw(request: Request) -> bytes:
    return await request.body()


RawBody = Annotated[bytes, Depends(_raw)]
"""The body as it came. Handlers that take it are plain functions: only its arrival is awaited."""


DOCUMENT_BODY: dict[str, Any] = {
    "requestBody": {
        "required": True,
        "content": {"application/json": {"schema": {"type": "object", "additionalProperties": True}}},
    }
}


def as_text(body: bytes) -> str:
    """A body as text.

    Raises
    ------
    BadDocument
        If it is none.
    """
    if b"\x00" in body:
        raise BadDocument("not text", [FieldProblem("file", "must be text")])
    try:
        return body.decode("utf-8-sig")
    except UnicodeDecodeError:
        # Weather files of older tools are Latin-1 where a place has an accent.
        return body.decode("latin-1")


@dataclass(frozen=True, slots=True)
class ReadPlan:
    """A plan document that came in: as it was sent, and judged."""

    document: dict[str, Any]
    plan: Plan
    report: Report


def read_document(body: bytes) -> dict[str, Any]:
    """A body as a JSON object.

    Raises
    ------
    BadDocument
        If it is none.
    """
    try:
        document = json.loads(body)
    except (ValueError, RecursionError) as error:
        raise BadDocument("not JSON", [FieldProblem("#", "must be a plan document in JSON")]) from error
    if not isinstance(document, dict):
        raise BadDocument("no plan document", [FieldProblem("#", "must be an object, not a list or a value")])
    return document


def read_plan(body: bytes) -> ReadPlan:
    """Read and judge a plan document.

    Raises
    ------
    BadDocument
        If it is no plan.
    TooMuch
        If it could not be computed in reasonable time.
    """
    document = read_document(body)
    plan = parse_plan(document)
    return ReadPlan(document, plan, report_of(plan))


@dataclass(frozen=True, slots=True)
class ReadJob:
    """A whole job that came in, read and fitted: its newest plan judged, what was noted, photos as they are kept."""

    newest: ReadPlan
    revisions: list[Brought]
    text: str
    entries: list[Entry]
    pictures: list[tuple[str, Kind, str, str, bytes]]


def read_job(body: bytes) -> ReadJob:
    """Read and judge a job, and fit its photos.

    Raises
    ------
    BadDocument, NotUnderstood, TooLarge, TooMuch
        If any of it cannot be taken in.
    """
    entries = record_in(body)
    found: list[ReadPlan] = []

    def judged(document: dict[str, Any]) -> None:
        plan = parse_plan(document)
        found.append(ReadPlan(document, plan, report_of(plan)))

    revisions, text = history_in(body, judged)
    pictures = [
        (subject, kind, note, made_at, fit_to_keep(picture))
        for subject, kind, note, made_at, picture in photos_in(body)
    ]
    return ReadJob(found[0], revisions, text, entries, pictures)
