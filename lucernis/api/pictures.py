"""Pictures of a plan over HTTP: shapes for the screen. As files they come with the other files."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Request

from lucernis.api.plans import store_of
from lucernis.core.pictures.draw import PictureKind, draw
from lucernis.core.pictures.drawing import Drawing
from lucernis.plan.model import parse_plan

router = APIRouter(prefix="/api/plans/{plan_id}/pictures", tags=["pictures"])


@router.get("/{kind}", operation_id="getPicture")
def picture(
    request: Request,
    plan_id: str,
    kind: PictureKind,
    subject: Annotated[str | None, Query(description="Run of a fuse window, load of a pinch chart")] = None,
    state: Annotated[str | None, Query(description="Operating state; the worst of all otherwise")] = None,
) -> Drawing:
    """One picture as shapes, with its table."""
    return draw(parse_plan(store_of(request).get(plan_id).document), kind, subject, state)
