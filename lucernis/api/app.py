"""Builds the application: routers, errors, the door, the pages."""

from __future__ import annotations

import mimetypes
import re
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from fastapi import FastAPI
from fastapi.openapi.utils import get_openapi
from starlette.datastructures import Headers
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.responses import FileResponse, Response
from starlette.staticfiles import StaticFiles
from starlette.types import ASGIApp, Receive, Scope, Send

from lucernis import __version__
from lucernis.api import (
    bench,
    build,
    consumers,
    downloads,
    faults,
    keeping,
    layout,
    parts,
    photos,
    pictures,
    plans,
    power,
    proofs,
    prove,
    record,
    school,
    stateless,
    trade,
    words,
    workshop,
)
from lucernis.api.answers import Answers
from lucernis.api.cards import Behind
from lucernis.api.door import Door, DoorRules
from lucernis.api.heavy import Heavy
from lucernis.api.pairing import Pairing
from lucernis.api.pairing import router as router_of_pairing
from lucernis.api.problems import install_problems, problem_openapi
from lucernis.api.proposed import Proposed
from lucernis.store.backups import Backups
from lucernis.store.cards import CardStore
from lucernis.store.database import Database
from lucernis.store.devices import DeviceStore
from lucernis.store.parts import PartStore
from lucernis.store.photos import PhotoStore
from lucernis.store.plans import PlanStore
from lucernis.store.record import RecordStore
from lucernis.store.school import SchoolStore
from lucernis.store.trade import TradeStore
from lucernis.store.workshop import WorkshopStore

WEB = Path(__file__).resolve().parent.parent / "web"
mimetypes.add_type("application/manifest+json", ".webmanifest")


class _Assets(StaticFiles):
    """Built files, compressed when they were built; a name has the hash of what is in it, so that a browser need not
    ask again."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        """A file, in the smallest form the browser understands."""
        accepted = Headers(scope=scope).get("accept-encoding", "")
        for name, ending in (("br", ".br"), ("gzip", ".gz")):
            full, stat = self.lookup_path(path + ending)
            if stat is not None and re.search(rf"(^|[ ,]){name}($|[ ,;])", accepted):
                kind = mimetypes.guess_type(path)[0] or "application/octet-stream"
                answer: Response = FileResponse(full, stat_result=stat, media_type=kind)
                answer.headers["content-encoding"] = name
                break
        else:
            answer = await super().get_response(path, scope)
        answer.headers["cache-control"] = "public, max-age=31536000, immutable"
        answer.headers["vary"] = "accept-encoding"
        return answer


class _Far:
    """Answers to other machines are compressed; to this one they get there quicker as they are."""

    def __init__(self, app: ASGIApp) -> None:
        self._near, self._far = app, GZipMiddleware(app, minimum_size=1000, compresslevel=4)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Let a request through."""
        near = scope.get("state", {}).get("at_host", True) or scope.get("path", "").startswith("/assets")
        far = scope["type"] == "http" and not near
        await (self._far if far else self._near)(scope, receive, send)


def create_app(
    database: Database,
    *,
    pairing: Pairing | None = None,
    heavy: Heavy | None = None,
    intake: Heavy | None = None,
    answers: Answers | None = None,
    clock: Callable[[], datetime] = lambda: datetime.now(UTC),
    web: Path = WEB,
) -> FastAPI:
    """The application over an opened database.

    Parameters
    ----------
    database : Database
        Already opened, its schema up to date.
    pairing : Pairing, optional
        How devices of the network are let in; without it this machine alone may talk to it.
    heavy : Heavy, optional
        Who computes at length; this process itself by default.
    intake : Heavy, optional
        Who reads what comes in from outside; this process itself by default.
    answers : Answers, optional
        What is remembered of plans; its own by default. Going by the text of a plan, it may be shared.
    clock : callable
        The time it is, with its zone: what is due, printed and entered goes by it.
    web : Path
        Folder of the built pages.

    Returns
    -------
    FastAPI
        Ready to serve.
    """
    # The stock documentation pages load scripts from elsewhere, so they are off.
    app = FastAPI(title="Lucernis", version=__version__, docs_url=None, redoc_url=None, openapi_url="/api/openapi.json")
    app.state.clock = clock
    app.state.database, app.state.backups = database, Backups(database, clock)
    app.state.plans = PlanStore(database, clock)
    app.state.answers, app.state.heavy = answers or Answers(), heavy or Heavy(apart=False)
    app.state.intake = intake or Heavy(apart=False)
    # A page of findings asks for the mends of each: short, and many.
    app.state.trials = Heavy(apart=False, most_waiting=400)
    app.state.proposed = Proposed()
    app.state.cards = CardStore(database)
    # Who makes backups by itself, where somebody does.
    app.state.keeper = None
    app.state.kept_cards = {}
    app.state.behind = Behind(app.state.cards, app.state.kept_cards, app.state.intake)
    # Instruments the host itself has asked: devices may ask these and no others.
    app.state.instruments = set()
    devices = app.state.devices = DeviceStore(database, clock)
    app.state.photos = PhotoStore(database, clock)
    app.state.record = RecordStore(database, clock)
    app.state.school = SchoolStore(database, clock)
    app.state.unjudged = None
    app.state.pairing = pairing
    app.state.parts = PartStore(database, clock)
    app.state.workshop = WorkshopStore(database, clock)
    app.state.trade = TradeStore(database, clock)
    app.include_router(keeping.router)
    app.include_router(router_of_pairing)
    app.include_router(plans.router)
    app.include_router(downloads.router)
    app.include_router(pictures.router)
    app.include_router(layout.router)
    app.include_router(photos.router)
    app.include_router(build.router)
    app.include_router(record.router)
    app.include_router(prove.router)
    app.include_router(proofs.router)
    app.include_router(faults.router)
    app.include_router(bench.router)
    app.include_router(power.router)
    app.include_router(parts.router)
    app.include_router(workshop.router)
    app.include_router(trade.router)
    app.include_router(consumers.router)
    app.include_router(school.router)
    app.include_router(words.router)
    app.include_router(stateless.router)
    install_problems(app)
    app.add_middleware(_Far)
    app.add_middleware(Door, rules=DoorRules(known=devices.known if pairing is not None else None))

    def openapi() -> dict[str, Any]:
        if app.openapi_schema is None:
            plain = get_openapi(title=app.title, version=app.version, routes=app.routes)
            app.openapi_schema = problem_openapi(plain)
        return app.openapi_schema

    app.openapi = openapi  # type: ignore[method-assign]
    if (web / "index.html").is_file():
        app.mount("/assets", _Assets(directory=web / "assets"), name="assets")

        @app.get("/sw.js", include_in_schema=False)
        def worker() -> Response:
            """What keeps the page in the browser; always asked for anew, so that a new build is seen."""
            return FileResponse(web / "sw.js", media_type="text/javascript", headers={"cache-control": "no-cache"})

        @app.get("/{path:path}", include_in_schema=False)
        def page(path: str) -> Response:
            """Every address that is not the API opens the one page, so that links and reloads work."""
            if path.startswith(("api/", "assets/")):
                raise HTTPException(404)
            return FileResponse(web / "index.html", headers={"cache-control": "no-cache"})

    return app
