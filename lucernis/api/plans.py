"""Plans over HTTP: shelf, edits, undo, history. Thin: translates between HTTP, store and core."""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from typing import Annotated, Any

import jsonpatch
import jsonpointer
from fastapi import APIRouter, Header, Path, Query, Request, Response
from fastapi.concurrency import run_in_threadpool
from pydantic import Field
from starlette.exceptions import HTTPException

from lucernis.api.answers import answers_of, not_a_searched_van, not_while_searched, plan_of, report_of, store_of
from lucernis.api.cards import shelf
from lucernis.api.door import MOST_BODY_BYTES
from lucernis.api.envelope import envelope
from lucernis.api.heavy import done
from lucernis.api.incoming import DOCUMENT_BODY, RawBody, ReadPlan, read_plan
from lucernis.api.rights import device_of
from lucernis.api.shapes import (
    ENVELOPE_ANSWER,
    Edits,
    HistoryDetail,
    HistoryLine,
    NewPlan,
    PatchOperation,
    RevisionName,
    ShelfCard,
)
from lucernis.api.workshop import weather_named
from lucernis.core.energy.days import scene_of
from lucernis.core.energy.working_days import days_working
from lucernis.core.evaluation.compare import Comparison, compare_sets
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.evaluation.mends import tried_mends
from lucernis.core.evaluation.preview import Preview, preview
from lucernis.core.layout.edited import edited
from lucernis.core.report import Fix, Working
from lucernis.core.sizing.sized import sized_plan
from lucernis.errors import BadDocument, EditRefused, FieldProblem, NotFound, StaleRevision, TooLarge
from lucernis.plan.blank import blank_plan
from lucernis.plan.cells import CellContext
from lucernis.plan.changes import describe_changes, summary_line
from lucernis.plan.document import VERSION, parse_plan, plan_document
from lucernis.plan.identity import names_places, place_of
from lucernis.plan.loads_csv import LoadsPreview, preview_loads
from lucernis.plan.merging import merge
from lucernis.plan.model import Plan
from lucernis.plan.rules import plan_rules
from lucernis.store.plans import PlanStore
from lucernis.store.revisions import HistoryRow, StoredPlan

Document = dict[str, Any]
# How often a change is tried again where others write at the same moment.
_TRIES = 5
router = APIRouter(prefix="/api/plans", tags=["plans"])


def current_of(stored: StoredPlan) -> dict[str, Any]:
    """The document of a stored plan in the present version of the format."""
    if stored.document.get("version") == VERSION:
        return stored.document
    return plan_document(parse_plan(stored.document))


def expected_revision(if_match: str | None) -> int:
    """The revision an edit was made against, from its If-Match header.

    Raises
    ------
    HTTPException
        428 if it is missing or no number.
    """
    clean = (if_match or "").strip().removeprefix("W/").strip('"')
    if not (clean.isascii() and clean.isdigit()) or len(clean) > 9:
        raise HTTPException(428, "Send If-Match with the number of the revision the edit was made on.")
    return int(clean)


def head_of(store: PlanStore, plan_id: str, if_match: str | None) -> StoredPlan:
    """The newest revision, refused with both sides told if it is not the expected one."""
    expected = expected_revision(if_match)
    head = store.get(plan_id)
    if head.revision != expected:
        error = StaleRevision(
            f"the plan is at revision {head.revision}, the edit was made on {expected}", current_revision=head.revision
        )
        if 1 <= expected < head.revision:
            older = plan_document(parse_plan(store.get_revision(plan_id, expected)))
            error.changes = describe_changes(older, current_of(head))
        raise error
    return head


IfMatch = Annotated[str | None, Header(alias="If-Match")]
Patch = Annotated[list[PatchOperation], Field(max_length=1000)]
RevisionNumber = Annotated[int, Path(ge=1, le=1_000_000_000)]
Before = Annotated[int, Query(ge=1, le=1_000_000_001)]
Key = Annotated[str | None, Header(alias="Idempotency-Key", min_length=8, max_length=80, pattern="^[A-Za-z0-9_-]+$")]


@router.get("", operation_id="listPlans")
def list_plans(request: Request, archived: bool = False) -> list[ShelfCard]:
    """The shelf of jobs, each with its open findings."""
    device = device_of(request)
    cards = shelf(request, archived=archived)
    return [one for one in cards if device is None or device.role != "reader" or one.plan_id == device.plan_id]


@router.post("", operation_id="createPlan", responses=ENVELOPE_ANSWER, response_model=None)
def create_plan(request: Request, new: NewPlan) -> Response:
    """A new plan with a battery, a main fuse and one block."""
    plan = blank_plan(new.name, practice_set=new.practice_set, body=new.body)
    return envelope(request, store_of(request).create(plan_document(plan), f"{new.name} begun"), plan)


@router.post(
    "/import", operation_id="importPlan", openapi_extra=DOCUMENT_BODY, responses=ENVELOPE_ANSWER, response_model=None
)
async def import_plan(request: Request, body: RawBody) -> Response:
    """Take a plan document in as a new plan."""
    read = await done(request, read_plan, body, by="intake")
    return await run_in_threadpool(_imported, request, read)


def _imported(request: Request, read: ReadPlan) -> Response:
    not_a_searched_van(request, read.document)
    plan = read.plan
    stored = store_of(request).create(plan_document(plan), f"{plan.job.name} imported")
    return envelope(request, stored, plan, read.report)


@router.get("/{plan_id}", operation_id="getPlan", responses=ENVELOPE_ANSWER, response_model=None)
def get_plan(request: Request, plan_id: str) -> Response:
    """A plan and its report."""
    return envelope(request, store_of(request).get(plan_id))


def carry_out(
    request: Request, plan_id: str, if_match: str | None, key: str | None, change: Callable[[Document], Plan]
) -> Response:
    """Make a change on the newest revision, also where others have edited since it was composed: what touches other
    fields stands beside theirs, and what touches the same is refused with both values.

    Raises
    ------
    StaleRevision
        If both changed the same field, or the plan has no such revision.
    """
    expected, store = expected_revision(if_match), store_of(request)
    for _ in range(_TRIES):
        if store.has_made(plan_id, key):
            return envelope(request, store.get(plan_id))
        head = store.get(plan_id)
        before = current_of(head)
        if head.revision == expected:
            plan = change(before)
        else:
            stale = StaleRevision(
                f"the plan is at revision {head.revision}, the edit was made on {expected}",
                current_revision=head.revision,
            )
            if not 1 <= expected < head.revision:
                raise stale
            base = plan_document(parse_plan(store.get_revision(plan_id, expected)))
            found = merge(base, plan_document(change(base)), before)
            if found.conflicts:
                stale.changes = found.conflicts
                raise stale
            if found.done_already:
                return envelope(request, head)
            plan = change(before)
        document = plan_document(plan)
        if document == before:
            return envelope(request, head, plan)
        # What cannot be computed is not stored.
        report = report_of(plan)
        try:
            stored = store.edit(plan_id, head.revision, document, summary_line(before, document), key)
            return envelope(request, stored, plan, report)
        except StaleRevision:
            # Somebody was quicker between reading and writing: look again at what they did.
            continue
    raise StaleRevision("others edit faster than this change can be made", current_revision=head.revision)


@router.patch("/{plan_id}", operation_id="patchPlan", responses=ENVELOPE_ANSWER, response_model=None)
def patch_plan(request: Request, plan_id: str, patch: Patch, if_match: IfMatch = None, key: Key = None) -> Response:
    """Change fields by RFC 6902 JSON Patch against the full document. Besides places, a path may name an item of a
    list by what it is known by, as `/runs/id:r7/length_m`: then it meets the same item whatever others have done."""
    operations = [one.model_dump(by_alias=True, exclude_unset=True) for one in patch]
    # A place in a list is only that of the revision the patch was composed on.
    by_place = any(names_places(one[name]) for one in operations for name in ("path", "from") if one.get(name))
    store = store_of(request)
    if by_place and not store.has_made(plan_id, key):
        head_of(store, plan_id, if_match)

    def change(document: Document) -> Plan:
        # The library's own copy is a deep copy in Python; through JSON it is several times quicker.
        changed = json.loads(json.dumps(document))
        copied = 0
        try:
            for one in operations:
                placed = one | {name: place_of(changed, one[name]) for name in ("path", "from") if name in one}
                if one["op"] == "copy":
                    # A list copied into itself doubles: a few dozen times would fill any memory.
                    copied += len(json.dumps(jsonpointer.resolve_pointer(changed, placed.get("from", ""))))
                    if copied > MOST_BODY_BYTES:
                        raise TooLarge("the patch copies more than a plan may hold", field="patch")
                changed = jsonpatch.apply_patch(changed, [placed], in_place=True)
        except (jsonpatch.JsonPatchException, jsonpointer.JsonPointerException, TypeError, KeyError) as error:
            raise BadDocument("the patch does not fit", [FieldProblem("#", str(error)[:200])]) from error
        return parse_plan(changed)

    return carry_out(request, plan_id, if_match, key, change)


@router.post("/{plan_id}/edits", operation_id="editPlan", responses=ENVELOPE_ANSWER, response_model=None)
def edit_plan(request: Request, plan_id: str, edits: Edits, if_match: IfMatch = None, key: Key = None) -> Response:
    """Carry out edits by the work, all or none. What others have edited meanwhile stays, as long as it is something
    else; `Idempotency-Key` keeps an edit that is sent again from being done twice."""
    return carry_out(request, plan_id, if_match, key, lambda document: edited(parse_plan(document), edits.edits))


@router.post("/{plan_id}/preview", operation_id="previewEdits")
def preview_edits(request: Request, plan_id: str, edits: Edits, if_match: IfMatch = None) -> Preview:
    """What edits would change; stores nothing."""
    not_while_searched(request, plan_id)
    head = head_of(store_of(request), plan_id, if_match)
    before = parse_plan(head.document)
    after = edited(before, edits.edits)
    changes = describe_changes(plan_document(before), plan_document(after))
    return preview(answers_of(request).answer(head).report, report_of(after), changes)


@router.get("/{plan_id}/mends/{finding}", operation_id="listMends")
async def list_mends(request: Request, plan_id: str, finding: Annotated[str, Path(max_length=120)]) -> list[Fix]:
    """The mends of a finding of the newest revision that do what they say: each was tried on the whole plan, and goes
    with what else it takes. Empty where none does."""
    return await done(request, _mends, request, plan_id, finding, by="trials")


def _mends(request: Request, plan_id: str, finding: str) -> list[Fix]:
    not_while_searched(request, plan_id)
    head = store_of(request).get(plan_id)
    findings = answers_of(request).answer(head).report.findings
    return tried_mends(parse_plan(head.document), finding, findings)


@router.get("/{plan_id}/working/{key}", operation_id="getWorking")
def get_working(request: Request, plan_id: str, key: str) -> Working:
    """How one figure of the newest revision came about: the key is `subject.figure`, that of the days
    `days.N.figure` for N days."""
    not_while_searched(request, plan_id)
    plan = plan_of(request, plan_id)
    of_days = re.fullmatch(r"days\.(\d{1,2})\.\w+", key)
    if of_days is not None:
        # The days are simulated only when they are looked at, and so are their workings.
        sized = sized_plan(plan)
        scene = scene_of(plan, sized)
        weather = weather_named(request, plan.energy.weather)
        working = {} if scene is None else days_working(plan, sized, scene, int(of_days[1]), weather)
    else:
        working = evaluate(plan).working
    if key not in working:
        raise NotFound(f"no working {key!r}", field="key", value=key, allowed="subject.figure of the report")
    return working[key]


@router.post("/{plan_id}/undo", operation_id="undoEdit", responses=ENVELOPE_ANSWER, response_model=None)
def undo_edit(request: Request, plan_id: str, if_match: IfMatch = None, key: Key = None) -> Response:
    """Take the last edit back, as a new revision."""
    store = store_of(request)
    if store.has_made(plan_id, key):
        return envelope(request, store.get(plan_id))
    return envelope(request, store.undo(plan_id, head_of(store, plan_id, if_match).revision, key))


@router.post("/{plan_id}/redo", operation_id="redoEdit", responses=ENVELOPE_ANSWER, response_model=None)
def redo_edit(request: Request, plan_id: str, if_match: IfMatch = None, key: Key = None) -> Response:
    """Do again what was last undone, as a new revision."""
    store = store_of(request)
    if store.has_made(plan_id, key):
        return envelope(request, store.get(plan_id))
    return envelope(request, store.redo(plan_id, head_of(store, plan_id, if_match).revision, key))


@router.get("/{plan_id}/history", operation_id="listHistory")
def list_history(request: Request, plan_id: str, before: Before = 1_000_000_001) -> list[HistoryLine]:
    """A page of what was done to a plan, newest first: a hundred revisions before a number."""
    return [_line(row) for row in store_of(request).history(plan_id, before)]


@router.get("/{plan_id}/named", operation_id="listNamed")
def list_named(request: Request, plan_id: str) -> list[HistoryLine]:
    """Revisions with a name, newest first."""
    return [_line(row) for row in store_of(request).named(plan_id)]


def _line(row: HistoryRow) -> HistoryLine:
    return HistoryLine(
        revision=row.revision,
        kind=row.kind,
        origin=row.origin,
        summary=row.summary,
        made_at=row.made_at,
        name=row.name,
    )


@router.put("/{plan_id}/history/{revision}/name", operation_id="nameRevision", status_code=204)
def name_revision(request: Request, plan_id: str, revision: RevisionNumber, wanted: RevisionName) -> None:
    """Give a revision a name, or take it back; the revision stays as it is."""
    store_of(request).name(plan_id, revision, wanted.name.strip())


@router.get("/{plan_id}/history/{revision}", operation_id="getHistoryDetail")
def history_detail(request: Request, plan_id: str, revision: RevisionNumber) -> HistoryDetail:
    """Every field a revision changed against the one before it."""
    store = store_of(request)
    # Through the model, so that revisions of an older format compare with later ones.
    after = plan_document(parse_plan(store.get_revision(plan_id, revision)))
    before = plan_document(parse_plan(store.get_revision(plan_id, max(1, revision - 1))))
    changes = [] if revision == 1 else describe_changes(before, after)
    return HistoryDetail(revision=revision, changes=changes)


@router.post(
    "/{plan_id}/history/{revision}/restore",
    operation_id="restoreRevision",
    responses=ENVELOPE_ANSWER,
    response_model=None,
)
def restore_revision(
    request: Request, plan_id: str, revision: RevisionNumber, if_match: IfMatch = None, key: Key = None
) -> Response:
    """Make an older revision the newest again, as an edit that can be undone."""
    store = store_of(request)
    if store.has_made(plan_id, key):
        return envelope(request, store.get(plan_id))
    head = head_of(store, plan_id, if_match)
    document = store.get_revision(plan_id, revision)
    return envelope(request, store.edit(plan_id, head.revision, document, f"Back to revision {revision}", key))


@router.post("/{plan_id}/archive", operation_id="archivePlan", status_code=204)
def archive_plan(request: Request, plan_id: str) -> None:
    """Take a plan off the shelf; nothing is deleted."""
    store_of(request).archive(plan_id, archived=True)


@router.post("/{plan_id}/unarchive", operation_id="unarchivePlan", status_code=204)
def unarchive_plan(request: Request, plan_id: str) -> None:
    """Put a plan back on the shelf."""
    store_of(request).archive(plan_id, archived=False)


@router.get("/{plan_id}/compare", operation_id="comparePractice")
def compare_practice(request: Request, plan_id: str, set: str) -> Comparison:  # noqa: A002 - the query's name
    """What another practice set would change."""
    not_while_searched(request, plan_id)
    return compare_sets(plan_of(request, plan_id), set)


@router.post(
    "/{plan_id}/loads-csv",
    operation_id="previewLoads",
    openapi_extra={"requestBody": {"required": True, "content": {"text/csv": {"schema": {"type": "string"}}}}},
)
def preview_loads_csv(request: Request, plan_id: str, body: RawBody) -> LoadsPreview:
    """Read a CSV of loads and say of each cell whether it can be taken; stores nothing."""
    plan = plan_of(request, plan_id)
    if not body:
        raise EditRefused("file: empty", field="file", allowed="a CSV file with a heading line")
    return preview_loads(body, cell_context(plan))


def cell_context(plan: Plan) -> CellContext:
    """What the meaning of a typed text depends on in this plan."""
    return CellContext(
        preference=plan.units,
        size_system=plan_rules(plan).values.size_system,
        places={place.name.casefold(): place.id for place in plan.places},
        confirmed=False,
    )
