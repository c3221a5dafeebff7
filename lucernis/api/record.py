"""The record of the work over HTTP, and the order of work as it stands by it."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass
from datetime import UTC, timedelta
from typing import Annotated, Any

from fastapi import APIRouter, Request, Response
from pydantic import AfterValidator, AwareDatetime, BaseModel, ConfigDict, Field, model_validator

from lucernis.aftercare.log import Noted, odometer_km
from lucernis.api.answers import plan_of, store_of
from lucernis.api.rights import device_name
from lucernis.core.build.cut_list import cut_list
from lucernis.core.build.order import order_of_work
from lucernis.core.build.progress import Progress, Tick, progress
from lucernis.core.build.since import CutChange, cut_changes
from lucernis.core.prove.judge import Expected, Judged, judge
from lucernis.core.prove.power_up_readings import power_up_readings
from lucernis.errors import NotUnderstood
from lucernis.exports.record_csv import record_csv
from lucernis.plan.base import plain
from lucernis.plan.document import parse_plan
from lucernis.practice.tables import load_table
from lucernis.store.record import Detail, Entry, EntryKind, RecordStore, check_detail, standing

router = APIRouter(prefix="/api/plans/{plan_id}", tags=["record"])
_CSV: dict[int | str, dict[str, Any]] = {200: {"content": {"text/csv": {"schema": {"type": "string"}}}}}
# A phone's clock may be off by so much before its word is not taken.
_AHEAD = timedelta(days=1)
_LONGEST_NAME = 60


def _figures(detail: Detail) -> Detail:
    check_detail(detail)
    return {plain(name): plain(value) if isinstance(value, str) else value for name, value in detail.items()}


class NewEntry(BaseModel):
    """An entry to add. `key` is made by who sends it: the same again is not kept twice."""

    model_config = ConfigDict(extra="forbid")

    key: Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{8,80}$")]
    kind: EntryKind
    subject: Annotated[
        str, Field(pattern=r"^[a-z0-9_:+.~@-]{0,160}$", description="Id of a step, run, reading or list")
    ] = ""
    was: Annotated[str, Field(max_length=4000), AfterValidator(plain)] = ""
    text: Annotated[str, Field(max_length=1000), AfterValidator(plain)] = ""
    who: Annotated[str, Field(max_length=60), AfterValidator(plain)] = ""
    made_at: AwareDatetime | None = Field(default=None, description="When it was done; now where absent")
    takes_back: Annotated[int, Field(ge=1, le=1_000_000_000)] | None = None
    detail: Annotated[dict[str, str | float | int | bool | None], AfterValidator(_figures)] = Field(
        default={}, description="Figures and names: instrument, leads, odometer, cause"
    )

    @model_validator(mode="after")
    def _says_something(self) -> NewEntry:
        if (self.kind == "back") != (self.takes_back is not None):
            raise ValueError("takes_back: an entry of kind back names the one it takes back, and no other does")
        if self.kind in ("note", "deviation") and not self.text.strip():
            raise ValueError("text: a note or a deviation says something")
        if self.kind in ("done", "deviation", "reading", "blown", "cause", "setting") and not self.subject:
            raise ValueError("subject: names the step, run, reading or part it speaks of")
        if self.kind in ("reading", "others", "asbuilt", "setting", "cause") and not self.text.strip():
            raise ValueError("text: says what was read, done, set, found, or how it is named")
        return self


def record_of(request: Request) -> RecordStore:
    """The records this application was built with."""
    found: RecordStore = request.app.state.record
    return found


def _entries(request: Request, plan_id: str) -> list[Entry]:
    store_of(request).get(plan_id)
    return record_of(request).list_entries(plan_id)


@router.get("/record", operation_id="getRecord")
def get_record(request: Request, plan_id: str) -> list[Entry]:
    """Everything that was noted, oldest first; what was taken back as well."""
    return _entries(request, plan_id)


@router.post("/record", operation_id="addEntry")
def add_entry(request: Request, plan_id: str, entry: NewEntry) -> Entry:
    """Add an entry to the record."""
    stored = store_of(request).get(plan_id)
    if entry.kind == "done" and not _is_a_step(request, plan_id, entry):
        raise NotUnderstood(
            f"no step {entry.subject!r}", field="subject", value=entry.subject, allowed="the id of a step of the work"
        )
    _check_cause(request, plan_id, entry)
    _check_odometer(request, plan_id, entry)
    made_at = None
    if entry.made_at is not None and entry.made_at <= request.app.state.clock() + _AHEAD:
        made_at = entry.made_at.astimezone(UTC).isoformat(timespec="seconds")
    if entry.kind == "asbuilt":
        # The revision it freezes has that name from now on, where revisions are listed too.
        store_of(request).name(plan_id, stored.revision, entry.text.strip()[:_LONGEST_NAME])
    return record_of(request).add(
        plan_id,
        key=entry.key,
        kind=entry.kind,
        subject=entry.subject,
        was=entry.was,
        text=entry.text,
        who=entry.who,
        revision=stored.revision,
        made_at=made_at,
        takes_back=entry.takes_back,
        detail=entry.detail,
        device=device_name(request),
    )


def _check_cause(request: Request, plan_id: str, entry: NewEntry) -> None:
    """A cause is of a fuse that blew and has none yet, and of a kind there is."""
    if entry.kind != "cause":
        return
    kind, blown = entry.detail.get("kind"), entry.detail.get("blown")
    kinds = [row["kind"] for row in load_table("fault_priors").rows]
    if kind is not None and kind not in kinds:
        raise NotUnderstood(
            f"no kind of cause {kind!r}", field="detail.kind", value=kind, allowed=", ".join(sorted(kinds))
        )
    if blown is not None and blown not in {
        one.number for one in standing(_entries(request, plan_id)) if one.kind == "blown"
    }:
        raise NotUnderstood(
            f"entry {blown} is no fuse that blew", field="detail.blown", value=blown,
            allowed="the number of an entry that says a fuse blew",
        )  # fmt: skip


def noted_of(entries: list[Entry]) -> list[Noted]:
    """Entries that stand, as aftercare reads them."""
    return [
        Noted(one.number, one.kind, one.subject, one.was, one.text, one.who, one.made_at, one.revision, one.detail)
        for one in standing(entries)
    ]


def _check_odometer(request: Request, plan_id: str, entry: NewEntry) -> None:
    """An odometer that reads less than before is asked about: typed wrong, or replaced."""
    value = entry.detail.get("odometer_km")
    if not isinstance(value, int | float) or entry.detail.get("odometer_replaced") is True:
        return
    made_at = (entry.made_at or request.app.state.clock()).astimezone(UTC).isoformat()
    before = odometer_km([one for one in noted_of(_entries(request, plan_id)) if one.made_at <= made_at])
    if before is not None and value < before:
        raise NotUnderstood(
            f"the odometer read {before:g} km before; was it replaced?",
            field="detail.odometer_km",
            value=value,
            allowed=f"{before:g} or more, or odometer_replaced besides",
        )


def _is_a_step(request: Request, plan_id: str, entry: NewEntry) -> bool:
    """Whether a tick names a step there is, or was: one that waited while the plan changed speaks of what it read."""
    order = order_of_work(plan_of(request, plan_id))
    every = [*order.steps, *order.power_up]
    if any(entry.subject == step.id or any(entry.subject == mark.id for mark in step.made_of) for step in every):
        return True
    words = {step.id.partition(":")[0] for step in every} | {"piece"}
    return bool(entry.was) and entry.subject.partition(":")[0] in words


@router.get("/record.csv", operation_id="downloadRecordCsv", response_class=Response, responses=_CSV)
def download_record_csv(request: Request, plan_id: str) -> Response:
    """The record as a table."""
    headers = {"content-disposition": f'attachment; filename="record-{plan_id}.csv"'}
    return Response(
        record_csv([asdict(one) for one in _entries(request, plan_id)]),
        media_type="text/csv; charset=utf-8",
        headers=headers,
    )


@router.get("/record.json", operation_id="downloadRecordJson", response_class=Response)
def download_record_json(request: Request, plan_id: str) -> Response:
    """The record as JSON."""
    body = json.dumps([asdict(one) for one in _entries(request, plan_id)], ensure_ascii=False, indent=2) + "\n"
    headers = {"content-disposition": f'attachment; filename="record-{plan_id}.json"'}
    return Response(body, media_type="application/json", headers=headers)


def ticks_of(entries: list[Entry]) -> list[Tick]:
    """What is done, as the order of work reads it."""
    return [
        Tick(one.number, one.subject, one.was, one.text, one.who, one.made_at)
        for one in standing(entries)
        if one.kind == "done"
    ]


@dataclass(slots=True)
class OrderAnswer:
    """The order of work and how far it is; by step what its meter should say, and what a typed reading means."""

    progress: Progress
    expected: dict[str, Expected]
    judged: dict[str, Judged]


@router.get("/order", operation_id="getOrder")
def get_order(request: Request, plan_id: str) -> OrderAnswer:
    """The order of work, and how far it is by the record."""
    plan, ticks = plan_of(request, plan_id), ticks_of(_entries(request, plan_id))
    order = order_of_work(plan)
    expected = power_up_readings(plan, order)
    read = [tick for tick in ticks if tick.step in expected and tick.text.strip()]
    judged = {tick.step: judge(tick.text, expected[tick.step]) for tick in read}
    return OrderAnswer(progress(order, ticks), expected, judged)


class SincePrinted(BaseModel):
    """What changed in the cut list since it was last printed; `printed_at` is empty where it never was."""

    printed_at: str
    who: str
    revision: int
    changes: list[CutChange]


@router.get("/cut-list/since", operation_id="getCutSince")
def get_cut_since(request: Request, plan_id: str) -> SincePrinted:
    """The difference between the cut list as it was last printed and as it stands."""
    printed = [
        one for one in standing(_entries(request, plan_id)) if one.kind == "printed" and one.subject == "cut-list"
    ]
    if not printed:
        return SincePrinted(printed_at="", who="", revision=0, changes=[])
    last = printed[-1]
    now = plan_of(request, plan_id)
    then = parse_plan(store_of(request).get_revision(plan_id, last.revision))
    same = then == now
    changes = [] if same else cut_changes(cut_list(then).pieces, cut_list(now).pieces)
    return SincePrinted(printed_at=last.made_at, who=last.who, revision=last.revision, changes=changes)
