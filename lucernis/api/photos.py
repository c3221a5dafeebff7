"""Photos of a job over HTTP."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Query, Request, Response
from starlette.concurrency import run_in_threadpool

from lucernis.api.answers import plan_of, store_of
from lucernis.api.heavy import done
from lucernis.api.incoming import RawBody
from lucernis.errors import NotFound
from lucernis.exports.photos import fit_to_keep
from lucernis.plan.base import plain
from lucernis.store.photos import Photo, PhotoOf, PhotoStore

router = APIRouter(prefix="/api/plans/{plan_id}/photos", tags=["photos"])
_PICTURE: dict[str, Any] = {
    "requestBody": {
        "required": True,
        "content": {"image/jpeg": {"schema": {"type": "string", "format": "binary"}}},
    }
}


def photos_of(request: Request) -> PhotoStore:
    """The photos this application was built with."""
    found: PhotoStore = request.app.state.photos
    return found


@router.get("", operation_id="listPhotos")
def list_photos(request: Request, plan_id: str) -> list[Photo]:
    """Photos of a job, oldest first."""
    store_of(request).get(plan_id)
    return photos_of(request).list_photos(plan_id)


@router.post("", operation_id="keepPhoto", openapi_extra=_PICTURE)
async def keep_photo(
    request: Request,
    plan_id: str,
    subject: Annotated[str, Query(description="Id of what it shows", max_length=40)],
    kind: Annotated[PhotoOf, Query(description="What that is")],
    body: RawBody,
    note: Annotated[str, Query(max_length=400)] = "",
) -> Photo:
    """Keep a photo: made smaller, turned upright, without where it was taken."""
    plan = await run_in_threadpool(plan_of, request, plan_id)
    ids: dict[PhotoOf, set[str]] = {
        "channel": {one.id for one in plan.channels},
        "place": {one.id for one in plan.places},
        "run": {one.id for one in plan.runs},
        "part": {one.id for one in plan.parts},
    }
    if subject not in ids[kind]:
        raise NotFound(f"no {kind} {subject!r} in this plan", field="subject", value=subject, allowed=f"id of a {kind}")
    try:
        note = plain(note)
    except ValueError:
        note = " ".join(note.split())
    picture = await done(request, fit_to_keep, body, by="intake")
    return await run_in_threadpool(photos_of(request).keep_photo, plan_id, subject, kind, note, picture)


@router.get("/{photo_id}", operation_id="getPhoto", response_class=Response)
def get_photo(request: Request, plan_id: str, photo_id: str) -> Response:
    """One photo, as JPEG."""
    picture = photos_of(request).get_photo(plan_id, photo_id)
    return Response(picture, media_type="image/jpeg", headers={"cache-control": "private, max-age=31536000, immutable"})


@router.delete("/{photo_id}", operation_id="removePhoto", status_code=204)
def remove_photo(request: Request, plan_id: str, photo_id: str) -> None:
    """Take a photo away; it can be brought back."""
    photos_of(request).remove_photo(plan_id, photo_id)


@router.post("/{photo_id}/back", operation_id="bringPhotoBack", status_code=204)
def bring_photo_back(request: Request, plan_id: str, photo_id: str) -> None:
    """Bring back a photo that was taken away."""
    photos_of(request).remove_photo(plan_id, photo_id, removed=False)
