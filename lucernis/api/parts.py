"""The library of parts over HTTP: what ships, own parts, CSV in and out."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Request, Response

from lucernis.api.incoming import RawBody
from lucernis.api.shapes import PartCard
from lucernis.errors import BadDocument, FieldProblem
from lucernis.exports.tables_csv import written
from lucernis.plan.library import LibraryPart, check_part, read_library, shipped_parts, write_library
from lucernis.store.parts import OwnPart, PartStore

router = APIRouter(prefix="/api/parts", tags=["parts"])


def _store(request: Request) -> PartStore:
    store: PartStore = request.app.state.parts
    return store


def _card(own: OwnPart) -> PartCard:
    return PartCard(part_id=own.part_id, name=own.name, note=own.note, part=own.fields)


@router.get("", operation_id="listParts")
def list_parts(request: Request) -> list[PartCard]:
    """Own parts first, then what ships (without an id)."""
    shipped = [PartCard(part_id=None, name=one.name, note=one.note, part=one.part) for one in shipped_parts()]
    return [_card(one) for one in _store(request).list_parts()] + shipped


@router.post("", operation_id="addPart")
def add_part(request: Request, new: LibraryPart) -> PartCard:
    """Keep a part for other plans."""
    fields = check_part(new.part | {"name": new.name}, "#/part")
    return _card(_store(request).insert_parts([(new.name, new.note, fields)])[0])


@router.delete("/{part_id}", operation_id="deletePart", status_code=204)
def delete_part(request: Request, part_id: str) -> None:
    """Take an own part out; plans keep theirs."""
    _store(request).delete_part(part_id)


_CSV_BODY: dict[str, Any] = {"requestBody": {"required": True, "content": {"text/csv": {"schema": {"type": "string"}}}}}


@router.post("/import", operation_id="importParts", openapi_extra=_CSV_BODY)
def import_parts(request: Request, body: RawBody) -> list[PartCard]:
    """Take parts in from CSV, all or none."""
    try:
        text = body.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise BadDocument("not text", [FieldProblem("file", "must be UTF-8 text")]) from error
    found = read_library(text)
    return [_card(one) for one in _store(request).insert_parts([(p.name, p.note, p.part) for p in found])]


@router.get("/export", operation_id="exportParts", response_class=Response)
def export_parts(request: Request) -> Response:
    """Own parts and what ships as CSV that can be brought in again."""
    own = [LibraryPart(name=one.name, note=one.note, part=one.fields) for one in _store(request).list_parts()]
    body = written(write_library([*own, *shipped_parts()]))
    headers = {"content-disposition": 'attachment; filename="parts.csv"'}
    return Response(body, media_type="text/csv; charset=utf-8", headers=headers)
