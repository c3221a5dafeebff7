"""The Layout view over HTTP: where a part would stand best."""

from __future__ import annotations

from fastapi import APIRouter, Request
from starlette.concurrency import run_in_threadpool

from lucernis.api.answers import plan_of
from lucernis.api.heavy import done
from lucernis.core.proposals.best_place import BestPlaces, best_places

router = APIRouter(prefix="/api/plans/{plan_id}", tags=["layout"])


@router.get("/best-places/{part}", operation_id="getBestPlaces")
async def get_best_places(request: Request, plan_id: str, part: str) -> BestPlaces:
    """The best three places for a block, a battery, a charger, a bar or a switch, each tried with the whole plan."""
    plan = await run_in_threadpool(plan_of, request, plan_id)
    return await done(request, best_places, plan, part)
