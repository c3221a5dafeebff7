"""Backups and whole jobs over HTTP: what is kept, brought back, taken away and brought in."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Request, Response
from fastapi.concurrency import run_in_threadpool

from lucernis.api.answers import not_a_searched_van, store_of
from lucernis.api.envelope import envelope
from lucernis.api.heavy import done
from lucernis.api.incoming import RawBody, ReadJob, read_job
from lucernis.api.photos import photos_of
from lucernis.api.record import record_of
from lucernis.api.rights import decides
from lucernis.api.shapes import ENVELOPE_ANSWER, BackupCard, Keeping
from lucernis.store.backups import Backup, Backups, Keeper, Kept
from lucernis.store.database import Database
from lucernis.store.jobs import take_out

router = APIRouter(prefix="/api", tags=["keeping"])
_BYTES: dict[str, Any] = {
    "requestBody": {
        "required": True,
        "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
    }
}


def _database(request: Request) -> Database:
    found: Database = request.app.state.database
    return found


def _backups(request: Request) -> Backups:
    found: Backups = request.app.state.backups
    return found


def _card(one: Backup) -> BackupCard:
    return BackupCard(
        name=one.name,
        made_at=one.made_at,
        why=one.why,
        size_bytes=one.size_bytes,
        plans=one.plans,
        problem=one.problem,
        missing_pictures=one.missing_pictures,
    )


@router.get("/keeping", operation_id="getKeeping")
def get_keeping(request: Request) -> Keeping:
    """Where plans are kept, what a person should know of that, and the backups, newest first."""
    database, backups = _database(request), _backups(request)
    keeper: Keeper | None = request.app.state.keeper
    kept = keeper.supervise() if keeper is not None else Kept()
    return Keeping(
        path=str(database.path),
        folder=str(backups.folder),
        read_only=database.read_only,
        notes=[missing] if (missing := backups.missing_plans()) else [],
        backups=[_card(one) for one in backups.list_backups()],
        size_bytes=backups.size_bytes(),
        kept_at=kept.good_at,
        problem=kept.problem,
    )


@router.post("/backups", operation_id="makeBackup")
def make_backup(request: Request) -> BackupCard:
    """Copy all plans now; the copy is opened and checked."""
    return _card(_backups(request).make())


@router.post("/backups/{name}/restore", operation_id="restoreBackup")
def restore_backup(request: Request, name: str) -> BackupCard:
    """Bring a backup back in the place of everything that is there; answers with the backup made of that before."""
    decides(request, "which backup is brought back")
    made = _backups(request).restore(name)
    request.app.state.kept_cards.clear()
    return _card(made)


@router.get(
    "/plans/{plan_id}/job",
    operation_id="takeJobOut",
    response_class=Response,
    responses={200: {"content": {"application/zip": {"schema": {"type": "string", "format": "binary"}}}}},
)
def take_job_out(request: Request, plan_id: str) -> Response:
    """The job with its history as a zip."""
    body = take_out(_database(request), store_of(request), photos_of(request), record_of(request), plan_id)
    headers = {"content-disposition": f'attachment; filename="job-{plan_id}.zip"'}
    return Response(body, media_type="application/zip", headers=headers)


@router.post("/jobs", operation_id="bringJobIn", openapi_extra=_BYTES, responses=ENVELOPE_ANSWER, response_model=None)
async def bring_job_in(request: Request, body: RawBody) -> Response:
    """Take a job with its history in as a new plan."""
    job = await done(request, read_job, body, by="intake")
    return await run_in_threadpool(_brought_in, request, job)


def _brought_in(request: Request, job: ReadJob) -> Response:
    """All of a job in one transaction: everything was read, judged and fitted before."""
    not_a_searched_van(request, job.newest.document)
    with _database(request).writing():
        stored = store_of(request).bring_in(job.revisions, job.text)
        record_of(request).bring_in(stored.plan_id, job.entries)
        for subject, kind, note, made_at, picture in job.pictures:
            photos_of(request).keep_photo(stored.plan_id, subject, kind, note, picture, made_at)
    return envelope(request, stored, job.newest.plan, job.newest.report)
