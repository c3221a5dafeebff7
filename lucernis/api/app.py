"""Builds the application: routers, errors, the door, the pages."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from fastapi import FastAPI
from fastapi.openapi.utils import get_openapi
from starlette.exceptions import HTTPException
from starlette.responses import FileResponse, Response
from starlette.staticfiles import StaticFiles

from lucernis import __version__
from lucernis.api import consumers, downloads, parts, pictures, plans, power, stateless, workshop
from lucernis.api.door import Door, DoorRules
from lucernis.api.problems import install_problems, problem_openapi
from lucernis.store.database import Database
from lucernis.store.parts import PartStore
from lucernis.store.plans import PlanStore
from lucernis.store.workshop import WorkshopStore

WEB = Path(__file__).resolve().parent.parent / "web"


def create_app(database: Database, *, rules: DoorRules | None = None, web: Path = WEB) -> FastAPI:
    """The application over an opened database.

    Parameters
    ----------
    database : Database
        Already opened, its schema up to date.
    rules : DoorRules, optional
        Who may talk to it; this machine only by default.
    web : Path
        Folder of the built pages.

    Returns
    -------
    FastAPI
        Ready to serve.
    """
    # The stock documentation pages load scripts from elsewhere, so they are off.
    app = FastAPI(title="Lucernis", version=__version__, docs_url=None, redoc_url=None, openapi_url="/api/openapi.json")
    app.state.plans = PlanStore(database)
    app.state.parts = PartStore(database)
    app.state.workshop = WorkshopStore(database)
    app.include_router(plans.router)
    app.include_router(downloads.router)
    app.include_router(pictures.router)
    app.include_router(power.router)
    app.include_router(parts.router)
    app.include_router(workshop.router)
    app.include_router(consumers.router)
    app.include_router(stateless.router)
    install_problems(app)
    app.add_middleware(Door, rules=rules or DoorRules())

    def openapi() -> dict[str, Any]:
        if app.openapi_schema is None:
            plain = get_openapi(title=app.title, version=app.version, routes=app.routes)
            app.openapi_schema = problem_openapi(plain)
        return app.openapi_schema

    app.openapi = openapi  # type: ignore[method-assign]
    if (web / "index.html").is_file():
        app.mount("/assets", StaticFiles(directory=web / "assets"), name="assets")

        @app.get("/{path:path}", include_in_schema=False)
        def page(path: str) -> Response:
            """Every address that is not the API opens the one page, so that links and reloads work."""
            if path.startswith(("api/", "assets/")):
                raise HTTPException(404)
            return FileResponse(web / "index.html", headers={"cache-control": "no-cache"})

    return app
