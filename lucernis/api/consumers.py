"""The catalogue of generic consumers over HTTP: what ships and what the workshop has added."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Request, Response
from pydantic import BaseModel

from lucernis.api.incoming import RawBody, as_text
from lucernis.api.workshop import CSV_BODY, workshop_of
from lucernis.plan.catalogue import Consumer, best_match, consumers_csv, matches, read_consumers, shipped

router = APIRouter(prefix="/api/consumers", tags=["workshop"])


class Match(BaseModel):
    """A consumer a name may mean, with the fields it fills, and whether the name surely means it."""

    consumer: Consumer
    values: dict[str, object]
    sure: bool


def _own(request: Request) -> list[Consumer]:
    return read_consumers("\n".join(rows)) if len(rows := workshop_of(request).list_consumers()) > 1 else []


def _all(request: Request) -> list[Consumer]:
    return [*_own(request), *shipped()]


@router.get("", operation_id="listConsumers")
def list_consumers(request: Request) -> list[Consumer]:
    """Every consumer, those of the workshop first."""
    return _all(request)


@router.get("/match", operation_id="matchConsumers")
def match_consumers(
    request: Request, typed: Annotated[list[str], Query(max_length=500, description="Typed names")]
) -> list[list[Match]]:
    """For each typed name the consumers it may mean, best first."""
    every = _all(request)
    found = []
    for text in typed:
        sure = best_match(text[:200], every)
        found.append([Match(consumer=one, values=one.values(), sure=one is sure) for one in matches(text[:200], every)])
    return found


@router.post("/import", operation_id="importConsumers", openapi_extra=CSV_BODY)
def import_consumers(request: Request, body: RawBody) -> list[Consumer]:
    """Take the workshop's own consumers in from CSV, all or none; they take the place of those before."""
    own = read_consumers(as_text(body))
    workshop_of(request).put_consumers(consumers_csv(own).splitlines())
    return _all(request)


@router.get("/export", operation_id="exportConsumers", response_class=Response)
def export_consumers(request: Request) -> Response:
    """Every consumer as CSV that can be brought in again."""
    headers = {"content-disposition": 'attachment; filename="consumers.csv"'}
    body = "\ufeff" + consumers_csv(_all(request))
    return Response(body.encode(), media_type="text/csv; charset=utf-8", headers=headers)
