"""What is computed of a plan only when it is looked at: pictures as shapes, shorts of one state."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Query, Request

from lucernis.api.answers import plan_of, unjudged
from lucernis.core.build.landing import landings
from lucernis.core.evaluation.shorts import ShortTo, shorts_in_state
from lucernis.core.pictures.draw import PictureKind, draw
from lucernis.core.pictures.drawing import Drawing
from lucernis.core.pictures.wiring import SheetName, wiring_sheets
from lucernis.core.report import ShortsReport

router = APIRouter(prefix="/api/plans/{plan_id}", tags=["pictures"])


@router.get("/shorts", operation_id="getShorts")
def shorts(
    request: Request,
    plan_id: str,
    state: Annotated[str | None, Query(description="Operating state; every contact closed otherwise")] = None,
    to: Annotated[ShortTo, Query(description="Each to its own negative, or to the body")] = "negative",
) -> ShortsReport:
    """Every short with the contacts of a state."""
    return shorts_in_state(plan_of(request, plan_id), state, to)


@dataclass(slots=True)
class WiringNames:
    """What of the wiring can be asked for as pictures: sheets of the diagram, and parts and holders one by one."""

    sheets: list[SheetName]
    parts: list[SheetName]


@router.get("/wiring", operation_id="getWiring")
def wiring(request: Request, plan_id: str) -> WiringNames:
    """The sheets of the wiring diagram and the connection drawings, to be asked for as pictures."""
    plan = plan_of(request, plan_id)
    parts = [
        SheetName(one.part, one.name if one.kind == "holder" else f"{one.tag} {one.name}") for one in landings(plan)
    ]
    return WiringNames(wiring_sheets(plan), parts)


@router.get("/pictures/{kind}", operation_id="getPicture")
def picture(
    request: Request,
    plan_id: str,
    kind: PictureKind,
    subject: Annotated[str | None, Query(description="Run, load, part or sheet it is of")] = None,
    state: Annotated[str | None, Query(description="Operating state; the worst of all otherwise")] = None,
) -> Drawing:
    """One picture as shapes, with its table."""
    return draw(plan_of(request, plan_id), kind, subject, state, judged=plan_id not in unjudged(request))
