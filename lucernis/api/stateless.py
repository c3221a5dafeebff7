"""Calculations that store nothing, and what a client needs to offer choices."""

from __future__ import annotations

from typing import Any, get_args

from fastapi import APIRouter, Response
from pydantic import TypeAdapter

from lucernis import __version__
from lucernis.api.shapes import Health, Practices, SetCard
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.evaluation.one_run import SizeAnswer, SizeRequest, size_run
from lucernis.core.protection.fuses import family
from lucernis.core.report import Report
from lucernis.core.wire.copper import all_sizes
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


@router.post("/report", operation_id="makeReport", responses={200: {"model": Report}}, response_model=None)
def report(document: dict[str, Any]) -> Response:
    """Report of a plan document; nothing is stored."""
    return Response(_REPORT.dump_json(evaluate(parse_plan(document))), media_type="application/json")


@router.post("/size", operation_id="sizeRun")
def size(request: SizeRequest) -> SizeAnswer:
    """Size one run; nothing is stored."""
    return size_run(request)
