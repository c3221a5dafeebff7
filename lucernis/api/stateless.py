"""Calculations that store nothing, and what a client needs to offer choices."""

from __future__ import annotations

from typing import Annotated, Any, get_args

from fastapi import APIRouter, Request, Response
from fastapi.concurrency import run_in_threadpool
from pydantic import BaseModel, ConfigDict, Field, TypeAdapter

from lucernis import __version__
from lucernis.api.answers import not_a_searched_van
from lucernis.api.heavy import done
from lucernis.api.incoming import DOCUMENT_BODY, RawBody, read_document
from lucernis.api.shapes import Health, Practices, SetCard
from lucernis.core.evaluation.effort import check_effort
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.evaluation.one_run import SizeAnswer, SizeRequest, size_run
from lucernis.core.protection.fuses import family
from lucernis.core.report import Report
from lucernis.core.wire.copper import all_sizes
from lucernis.core.wire.identify import Identified, identify_wire
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Plan
from lucernis.practice.rules import SCHOOLS, FuseFamily, SizeSystem, load_sets

router = APIRouter(prefix="/api", tags=["stateless"])
_REPORT: TypeAdapter[Report] = TypeAdapter(Report)


@router.get("/health", operation_id="getHealth")
def health() -> Health:
    """That the server is up."""
    return Health(name="lucernis", version=__version__)


@router.get("/practice", operation_id="getPractice")
def practice() -> Practices:
    """Practice sets, schools, sizes and fuse families."""
    families: tuple[FuseFamily, ...] = get_args(FuseFamily)
    systems: tuple[SizeSystem, ...] = get_args(SizeSystem)
    return Practices(
        sets=[SetCard(name=one.name, label=one.label, about=one.about) for one in load_sets().values()],
        schools=SCHOOLS,
        sizes={system: list(all_sizes(system)) for system in systems},
        families={name: family(name).label for name in families},
        ratings_a={name: list(family(name).ratings_a) for name in families},
    )


@router.get("/schema/plan", operation_id="getPlanSchema")
def plan_schema() -> dict[str, Any]:
    """JSON Schema of the plan document."""
    return Plan.model_json_schema()


@router.get("/schema/report", operation_id="getReportSchema")
def report_schema() -> dict[str, Any]:
    """JSON Schema of the report."""
    return _REPORT.json_schema()


class WireSeen(BaseModel):
    """What can be seen of a wire: its strands, or its outside. [mm]"""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    system: SizeSystem = "mm2"
    strands: Annotated[int, Field(ge=1, le=10_000)] | None = None
    strand_mm: Annotated[float, Field(ge=0.03, le=12)] | None = None
    outside_mm: Annotated[float, Field(ge=0.5, le=60)] | None = None


@router.post("/identify-wire", operation_id="identifyWire")
def identify(seen: WireSeen) -> Identified:
    """Which size a wire may be that somebody else has pulled; nothing is stored."""
    return identify_wire(seen.system, strands=seen.strands, strand_mm=seen.strand_mm, outside_mm=seen.outside_mm)


def _report(body: bytes) -> tuple[dict[str, Any], bytes]:
    document = read_document(body)
    plan = parse_plan(document)
    check_effort(plan)
    return document, _REPORT.dump_json(evaluate(plan))


@router.post(
    "/report",
    operation_id="makeReport",
    openapi_extra=DOCUMENT_BODY,
    responses={200: {"model": Report}},
    response_model=None,
)
async def report(request: Request, body: RawBody) -> Response:
    """Report of a plan document; nothing is stored."""
    document, found = await done(request, _report, body)
    await run_in_threadpool(not_a_searched_van, request, document)
    return Response(found, media_type="application/json")


@router.post("/size", operation_id="sizeRun")
def size(request: SizeRequest) -> SizeAnswer:
    """Size one run; nothing is stored."""
    return size_run(request)
