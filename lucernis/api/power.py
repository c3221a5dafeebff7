"""The Power view over HTTP: figures, days, a year with progress, proposals, options."""

from __future__ import annotations

import json
import queue
import threading
from collections.abc import Iterator
from typing import Annotated

from fastapi import APIRouter, Query, Request, Response
from pydantic import BaseModel, ConfigDict, Field, TypeAdapter
from starlette.concurrency import run_in_threadpool
from starlette.responses import StreamingResponse

from lucernis.api.answers import not_while_searched, plan_of, store_of
from lucernis.api.envelope import envelope
from lucernis.api.heavy import done
from lucernis.api.plans import IfMatch, current_of, head_of
from lucernis.api.proposed import ProposedSystem, proposed
from lucernis.api.shapes import ENVELOPE_ANSWER
from lucernis.api.workshop import prices_of, weather_named
from lucernis.core.energy.forecast import Forecast, forecast, year_ahead
from lucernis.core.evaluation.power import PowerReport, power_report
from lucernis.core.pictures.drawing import Drawing
from lucernis.core.pictures.ribbon import day_ribbon
from lucernis.core.proposals.propose import Proposal
from lucernis.core.proposals.variants import LABELS, Variant, VariantName, compare_variants, make_variant
from lucernis.core.proposals.wishes import Wishes
from lucernis.core.sizing.sized import sized_plan
from lucernis.errors import EditRefused
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.model import Plan
from lucernis.store.revisions import StoredPlan

router = APIRouter(prefix="/api/plans/{plan_id}", tags=["power"])


class Days(BaseModel):
    """A forecast with its picture."""

    forecast: Forecast
    picture: Drawing


_DAYS: TypeAdapter[Days] = TypeAdapter(Days)


class _In(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class ProposeRequest(_In):
    """Wishes, and which steps to take; all of them when absent."""

    wishes: Wishes = Wishes()
    steps: list[str] | None = Field(default=None, max_length=50)


class OptionsRequest(_In):
    """Two to four variants."""

    variants: list[VariantName] = Field(min_length=2, max_length=4)


@router.get("/power", operation_id="getPower")
def get_power(request: Request, plan_id: str) -> PowerReport:
    """Bank, chargers, fit, usage, bank sizes, costs."""
    return power_report(plan_of(request, plan_id), prices_of(request))


@router.get("/days", operation_id="getDays")
def get_days(
    request: Request,
    plan_id: str,
    days: Annotated[int, Query(ge=1, le=14, description="How many days")] = 7,
) -> Days:
    """A fair and a poor stretch of days in steps of ten minutes, with the day ribbon."""
    plan = plan_of(request, plan_id)
    weather = weather_named(request, plan.energy.weather)
    found = forecast(plan, sized_plan(plan), days, weather)
    return Days(forecast=found, picture=day_ribbon(found))


class _Cancelled(Exception):
    """The client has gone away."""


@router.get(
    "/year",
    operation_id="getYear",
    response_class=Response,
    responses={200: {"content": {"application/x-ndjson": {"schema": {"type": "string"}}}}},
)
def get_year(request: Request, plan_id: str) -> Response:
    """A year hour by hour. Lines of JSON: `{"done": 0.25}` while it runs, then `{"days": ...}`, or `{"problem": ...}`.

    Closing the connection ends the simulation.
    """
    plan = plan_of(request, plan_id)
    weather = weather_named(request, plan.energy.weather)
    lines: queue.Queue[str | None] = queue.Queue()
    gone = threading.Event()

    def tick(share: float) -> None:
        if gone.is_set():
            raise _Cancelled
        lines.put(json.dumps({"done": round(share, 3)}))

    def work() -> None:
        try:
            found = year_ahead(plan, sized_plan(plan), weather, tick)
            body = _DAYS.dump_python(Days(forecast=found, picture=day_ribbon(found)), mode="json")
            lines.put(json.dumps({"days": body}))
        except _Cancelled:
            pass
        except Exception:
            # Whatever it is, the reader must not wait for ever; the details stay in the log of the server.
            lines.put(json.dumps({"problem": "The simulation broke off."}))
            raise
        finally:
            lines.put(None)

    def told() -> Iterator[str]:
        thread = threading.Thread(target=work, daemon=True)
        thread.start()
        try:
            while (line := lines.get()) is not None:
                yield line + "\n"
        finally:
            gone.set()

    return StreamingResponse(told(), media_type="application/x-ndjson")


@router.post("/propose", operation_id="proposeSystem")
async def propose_system(request: Request, plan_id: str, wanted: ProposeRequest) -> ProposedSystem:
    """A whole system by wishes: every step with its reason, and its map before and after. Stores nothing."""
    await run_in_threadpool(not_while_searched, request, plan_id)
    plan = await run_in_threadpool(plan_of, request, plan_id)
    return (await proposed(request, plan, wanted.wishes, wanted.steps))[1]


@router.post("/propose/take", operation_id="takeProposal", responses=ENVELOPE_ANSWER, response_model=None)
async def take_proposal(request: Request, plan_id: str, wanted: ProposeRequest, if_match: IfMatch = None) -> Response:
    """Take a proposal, or some of its steps, as a new revision."""
    head = await run_in_threadpool(head_of, store_of(request), plan_id, if_match)
    plan, proposal = await proposed(
        request, await run_in_threadpool(parse_plan, head.document), wanted.wishes, wanted.steps
    )
    return await run_in_threadpool(_taken, request, head, plan, proposal)


def _taken(request: Request, head: StoredPlan, plan: Plan, proposal: Proposal) -> Response:
    taken = [step.title for step in proposal.steps if step.changes_plan]
    if not taken:
        raise EditRefused(
            proposal.problem or "no step changes anything",
            field="steps",
            value="",
            allowed="steps that change the plan",
        )
    summary = "Proposed: " + ", ".join(taken)
    stored = store_of(request).edit(head.plan_id, head.revision, plan_document(plan), summary)
    return envelope(request, stored, plan)


@router.post("/options", operation_id="compareOptions")
async def compare_options(request: Request, plan_id: str, wanted: OptionsRequest) -> list[Variant]:
    """Two to four variants side by side. Stores nothing."""
    await run_in_threadpool(not_while_searched, request, plan_id)
    plan = await run_in_threadpool(plan_of, request, plan_id)
    prices = await run_in_threadpool(prices_of, request)
    return await done(request, compare_variants, plan, list(dict.fromkeys(wanted.variants)), prices)


@router.post("/options/{name}/take", operation_id="takeOption", responses=ENVELOPE_ANSWER, response_model=None)
def take_option(request: Request, plan_id: str, name: VariantName, if_match: IfMatch = None) -> Response:
    """Take a variant as a new revision."""
    store = store_of(request)
    head = head_of(store, plan_id, if_match)
    try:
        plan = make_variant(parse_plan(head.document), name)
    except ValueError as error:
        raise EditRefused(str(error), field="name", value=name, allowed="a variant that suits this plan") from error
    document = plan_document(plan)
    if document == current_of(head):
        return envelope(request, head, plan)
    return envelope(request, store.edit(plan_id, head.revision, document, f"Option: {LABELS[name]}"), plan)
