"""The proving list with what was read, and what the record says of a vehicle: findings, what is due, as iCalendar."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request, Response
from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from lucernis.aftercare.due import Due, due_dates
from lucernis.aftercare.findings import RecordFinding, Standing, open_fuses, record_findings
from lucernis.aftercare.log import Noted, handed_over, odometer_km, of_kind
from lucernis.aftercare.readings import Proved, leads_ohm, proved
from lucernis.api.answers import answers_of, not_while_searched, plan_of, store_of
from lucernis.api.record import noted_of, record_of, ticks_of
from lucernis.core.build.order import order_of_work
from lucernis.core.build.progress import progress
from lucernis.core.prove.board import BoardRow, reading_board
from lucernis.core.prove.day import read_day
from lucernis.core.prove.judge import Judged, judge_line
from lucernis.core.prove.proving import Proving, proving
from lucernis.core.prove.proving_line import Line
from lucernis.core.sizing.sized import sized_plan
from lucernis.errors import LucernisError, NotFound, NotUnderstood
from lucernis.exports.calendar import DueEvent, due_calendar
from lucernis.exports.findings_pdf import findings_pdf
from lucernis.exports.handover_pdf import Handed, handover_pdf
from lucernis.exports.paper import PaperSize, Stamp
from lucernis.exports.proving_pdf import certificate_pdf
from lucernis.plan.base import plain
from lucernis.plan.model import Plan
from lucernis.store.photos import PhotoStore

router = APIRouter(prefix="/api", tags=["prove"])
_ICS: dict[int | str, dict[str, Any]] = {200: {"content": {"text/calendar": {"schema": {"type": "string"}}}}}


def noted(request: Request, plan_id: str) -> list[Noted]:
    """What stands in the record of a plan."""
    store_of(request).get(plan_id)
    return noted_of(record_of(request).list_entries(plan_id))


def today(request: Request) -> date:
    """The day it is by the application's clock, UTC."""
    found: date = request.app.state.clock().date()
    return found


@dataclass(slots=True)
class ProvingAnswer:
    """The proving list, the last reading of each line by its id, and what the leads have. [Ω]"""

    proving: Proving
    proved: dict[str, Proved]
    leads_ohm: float


def _proved(plan: Plan, entries: list[Noted]) -> dict[str, Proved]:
    """The last reading of every line, each judged by the day it was noted with."""

    def of_day(measured: str, sky: str) -> dict[str, Line]:
        try:
            day = read_day(plan, measured, sky)
        except NotUnderstood:
            # Its battery is in the plan no more.
            return {}
        return {line.id: line for line in proving(plan, day).lines}

    return proved(proving(plan).lines, entries, of_day)


Measured = Annotated[
    str, Query(max_length=400, description="Volts of batteries measured just now, as b1:12.63,b2:12.60")
]
Sky = Annotated[str, Query(max_length=20, description="bright, hazy or grey; empty: nobody said")]


@router.get("/plans/{plan_id}/proving", operation_id="getProving")
def get_proving(request: Request, plan_id: str, measured: Measured = "", sky: Sky = "") -> ProvingAnswer:
    """What to read on the built system, what should be read, and what was; on a known day by its bands."""
    plan = plan_of(request, plan_id)
    found, entries = proving(plan, read_day(plan, measured, sky)), noted(request, plan_id)
    return ProvingAnswer(found, _proved(plan, entries), leads_ohm(entries))


class TypedReading(BaseModel):
    """A reading as it was typed, to be judged before it is noted."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    line: Annotated[str, Field(max_length=160)]
    typed: Annotated[str, Field(max_length=60), AfterValidator(plain)]
    leads_ohm: Annotated[float, Field(ge=0, le=100)] = 0.0
    measured: Annotated[str, Field(max_length=400)] = ""
    sky: Annotated[str, Field(max_length=20)] = ""


@router.post("/plans/{plan_id}/proving/judge", operation_id="judgeReading")
def judge_reading(request: Request, plan_id: str, reading: TypedReading) -> Judged:
    """What a reading of the proving list means. Nothing is noted."""
    plan = plan_of(request, plan_id)
    lines = {one.id: one for one in proving(plan, read_day(plan, reading.measured, reading.sky)).lines}
    line = lines.get(reading.line)
    if line is None:
        raise NotFound(f"no reading {reading.line!r}", field="line", value=reading.line, allowed="a line of the list")
    return judge_line(line, reading.typed, reading.leads_ohm)


@router.get("/plans/{plan_id}/board", operation_id="getBoard")
def get_board(request: Request, plan_id: str) -> list[BoardRow]:
    """What a meter reads at every point in every state, and what is dead."""
    plan = plan_of(request, plan_id)
    report = answers_of(request).answer(store_of(request).get(plan_id), plan).report
    return reading_board(plan, report.nodes)


@dataclass(slots=True)
class LogAnswer:
    """What the record says of a vehicle: from when it counts as built, its odometer [km], what is due, what is amiss,
    fuses that blew without a cause, and the kinds of causes this workshop found, how often each."""

    built_at: str
    odometer_km: float | None
    due: list[Due]
    findings: list[RecordFinding]
    open_fuses: list[Noted]
    finds: dict[str, int]
    fuse_sizes: list[str]


def finds_of(request: Request) -> dict[str, int]:
    """Kinds of causes that were confirmed in all jobs, and how often."""
    found: dict[str, int] = {}
    for _, entry in record_of(request).list_kind("cause"):
        kind = entry.detail.get("kind")
        if isinstance(kind, str) and kind:
            found[kind] = found.get(kind, 0) + 1
    return found


def fuse_sizes(plan: Plan) -> list[str]:
    """Sizes of the fuses that stand in a vehicle, in words, smallest first."""
    made = {(one.fuse.rating_a, one.fuse.label) for one in sized_plan(plan).fuses.values() if one.fuse is not None}
    return [f"{rating:g} A {label}" for rating, label in sorted(made)]


def log_of(request: Request, plan_id: str) -> LogAnswer:
    """What the record says of a vehicle."""
    plan, entries = plan_of(request, plan_id), noted(request, plan_id)
    found = proving(plan)
    due = due_dates(plan, entries, today(request))
    steps_left = labels_left = 0
    if of_kind(entries, "asbuilt"):
        order = order_of_work(plan)
        ticks = ticks_of(record_of(request).list_entries(plan_id))
        states = progress(order, ticks).steps
        open_steps = [one for one in states if one.standing != "done" and one.step.phase not in ("power_up", "at_work")]
        steps_left = len(open_steps)
        labels_left = sum(len(one.step.made_of) or 1 for one in open_steps if one.step.phase == "cut")
    sizes = fuse_sizes(plan)
    store, now = store_of(request), store_of(request).get(plan_id)
    revisions = {one.revision for kind in ("asbuilt", "handed") for one in of_kind(entries, kind)}
    changed = {
        revision: revision != now.revision and store.get_revision(plan_id, revision) != now.document
        for revision in revisions
    }
    made = Standing(found.lines, _proved(plan, entries), entries, due, steps_left, labels_left, changed, sizes)
    start = handed_over(entries)
    return LogAnswer(
        start.made_at if start is not None else "", odometer_km(entries), due, record_findings(made, today(request)),
        open_fuses(entries), finds_of(request), sizes,
    )  # fmt: skip


@router.get("/plans/{plan_id}/log", operation_id="getLog")
def get_log(request: Request, plan_id: str) -> LogAnswer:
    """What the record says of a vehicle, and what is due on it."""
    return log_of(request, plan_id)


@dataclass(slots=True)
class JobDue:
    """What is due on one job."""

    plan_id: str
    name: str
    due: list[Due]
    open_fuses: int


@router.get("/due", operation_id="getDue")
def get_due(request: Request) -> list[JobDue]:
    """What is overdue or due soon on every vehicle of the shelf; one whose plan cannot be read is left out."""
    found = []
    for stored in store_of(request).shelf(archived=False):
        if isinstance(stored, LucernisError):
            continue
        entries = noted_of(record_of(request).list_entries(stored.plan_id))
        if not entries:
            continue
        try:
            plan = plan_of(request, stored.plan_id)
        except LucernisError:
            continue
        due = [one for one in due_dates(plan, entries, today(request)) if one.state != "later"]
        fuses = len(open_fuses(entries))
        if due or fuses:
            found.append(JobDue(stored.plan_id, plan.job.name, due, fuses))
    return found


def _stamp(request: Request, plan_id: str, plan: Plan, title: str) -> Stamp:
    stored, job = store_of(request).get(plan_id), plan.job
    practice = answers_of(request).answer(stored, plan).report.practice_label
    return Stamp(title, job.name, job.customer, job.workshop, stored.revision, today(request).isoformat(), practice)


def _pdf(body: bytes, name: str) -> Response:
    headers = {"content-disposition": f'inline; filename="{name}.pdf"'}
    return Response(body, media_type="application/pdf", headers=headers)


@router.get("/plans/{plan_id}/certificate.pdf", operation_id="downloadCertificate", response_class=Response)
def download_certificate(request: Request, plan_id: str, paper: PaperSize = "a4") -> Response:
    """The certificate of readings: what was read, with what, by whom, when."""
    plan, entries = plan_of(request, plan_id), noted(request, plan_id)
    open_ones = [one.what for one in log_of(request, plan_id).findings if one.severity != "look"]
    read = _proved(plan, entries)
    stamp = _stamp(request, plan_id, plan, "certificate of readings")
    return _pdf(certificate_pdf(plan, read, stamp, paper, open_ones), f"certificate-{plan_id}")


@router.get("/plans/{plan_id}/handover.pdf", operation_id="downloadHandover", response_class=Response)
def download_handover(
    request: Request,
    plan_id: str,
    paper: PaperSize = "a4",
    qr: Annotated[bool, Query(description="With a code that opens the log at this address")] = False,
) -> Response:
    """The pack the customer keeps in the vehicle."""
    not_while_searched(request, plan_id)
    plan, entries = plan_of(request, plan_id), noted(request, plan_id)
    report = answers_of(request).answer(store_of(request).get(plan_id), plan).report
    photos: PhotoStore = request.app.state.photos
    names = {one.id: one.name for one in (*plan.parts, *plan.places)} | {one.id: one.tag for one in plan.runs}
    pictures = [
        (one.note or names.get(one.subject, one.subject), photos.get_photo(plan_id, one.photo_id))
        for one in photos.list_photos(plan_id)
        if one.size_bytes
    ]
    link = f"{request.base_url}plan/{plan_id}/log" if qr else ""
    handed = Handed(entries, due_dates(plan, entries, today(request)), _proved(plan, entries), pictures, link)
    stamp = _stamp(request, plan_id, plan, "handover pack")
    return _pdf(handover_pdf(plan, report, handed, stamp, paper), f"handover-{plan_id}")


@router.get("/plans/{plan_id}/findings.pdf", operation_id="downloadFindings", response_class=Response)
def download_findings(request: Request, plan_id: str, paper: PaperSize = "a4") -> Response:
    """The report on a vehicle as it was found: findings with their photos."""
    not_while_searched(request, plan_id)
    plan, entries = plan_of(request, plan_id), noted(request, plan_id)
    report = answers_of(request).answer(store_of(request).get(plan_id), plan).report
    store: PhotoStore = request.app.state.photos
    photos: dict[str, list[bytes]] = {}
    for one in (one for one in store.list_photos(plan_id) if one.size_bytes):
        photos.setdefault(one.subject, []).append(store.get_photo(plan_id, one.photo_id))
    stamp = _stamp(request, plan_id, plan, "as found")
    return _pdf(findings_pdf(plan, report, entries, photos, stamp, paper), f"as-found-{plan_id}")


@router.get("/plans/{plan_id}/due.ics", operation_id="downloadDue", response_class=Response, responses=_ICS)
def download_due(
    request: Request,
    plan_id: str,
    address: Annotated[str, Query(max_length=300, pattern=r"^(https?://[^\s<>]*)?$")] = "",
) -> Response:
    """What is due on a vehicle as iCalendar; `address` is where its log opens."""
    plan = plan_of(request, plan_id)
    events = [
        DueEvent(one.what, one.label, one.explain, one.on, one.at_km, one.every_days)
        for one in due_dates(plan, noted(request, plan_id), today(request))
    ]
    body = due_calendar(plan.job.name, plan_id, events, address)
    headers = {"content-disposition": f'attachment; filename="due-{plan_id}.ics"'}
    return Response(body, media_type="text/calendar; charset=utf-8", headers=headers)
