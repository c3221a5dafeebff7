"""Files to take away over HTTP."""

from __future__ import annotations

from functools import partial
from typing import Annotated

from fastapi import APIRouter, Query, Request, Response
from starlette.concurrency import run_in_threadpool

from lucernis.api.answers import answers_of, store_of, unjudged
from lucernis.api.heavy import done
from lucernis.errors import NotFound
from lucernis.exports.files import FILES, make_file
from lucernis.exports.paper import PaperSize

router = APIRouter(prefix="/api/plans/{plan_id}/files", tags=["files"])


def _link(request: Request, plan_id: str, name: str) -> str:
    """What a code on a paper opens: of a label its run, of a lid the log of the vehicle."""
    job = f"{request.base_url}plan/{plan_id}"
    return f"{job}/log" if name == "fuse-map.pdf" else f"{job}/circuits?run="


@router.get("/{name}", operation_id="downloadFile", response_class=Response)
async def download_file(
    request: Request,
    plan_id: str,
    name: str,
    paper: Annotated[PaperSize, Query(description="Paper size of a PDF")] = "a4",
    state: Annotated[str | None, Query(description="Operating state of a netlist or a picture")] = None,
    subject: Annotated[str | None, Query(description="Run of a fuse window, load of a pinch chart")] = None,
    qr: Annotated[
        bool, Query(description="Labels and the fuse map with a code that opens run or log at this address")
    ] = False,
) -> Response:
    """The plan, a table, a paper or a netlist."""
    if name not in FILES:
        raise NotFound(f"no file {name!r}", field="name", value=name, allowed=", ".join(FILES))
    stored = await run_in_threadpool(store_of(request).get, plan_id)
    plan = await run_in_threadpool(answers_of(request).plan, stored)
    open_vans = await run_in_threadpool(unjudged, request)
    made = partial(
        make_file,
        name,
        plan,
        revision=stored.revision,
        date=stored.made_at[:10],
        paper=paper,
        state=state,
        subject=subject,
        link=_link(request, plan_id, name) if qr else "",
        judged=plan_id not in open_vans,
    )
    body = await done(request, made)
    kind = FILES[name]
    shown = "inline" if kind.inline else "attachment"
    headers = {"content-disposition": f'{shown}; filename="{kind.file_name(plan)}"'}
    return Response(body, media_type=kind.media_type, headers=headers)
