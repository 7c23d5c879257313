"""The application: routers, guards, and the shipped front end."""

from __future__ import annotations

import gc
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import FastAPI
from starlette.exceptions import HTTPException
from starlette.middleware import Middleware
from starlette.middleware.gzip import GZipMiddleware
from starlette.responses import FileResponse, Response
from starlette.staticfiles import StaticFiles
from starlette.types import Scope

from adhaero import __version__
from adhaero.api import (
    breaking,
    cautions,
    compare,
    curves,
    cut,
    faces,
    glue,
    history,
    photos,
    plan,
    problems,
    protocol,
    pulls,
    rigs,
    scheduling,
    shop,
)
from adhaero.api import network as network_routes
from adhaero.api.door import Door
from adhaero.api.security import Guard
from adhaero.workflow.context import AppContext
from adhaero.workflow.demo_process import DEMO
from adhaero.workflow.glue.scheduling import end_all
from adhaero.workflow.network import Network
from adhaero.workflow.rigs import connect

WEBROOT = Path(__file__).parent.parent / "webroot"
PARTS = (
    shop, rigs, plan, cut, glue, scheduling, breaking, pulls, curves, faces, compare, cautions, history, protocol,
    photos, network_routes,
)  # fmt: skip
LOCAL = frozenset({"127.0.0.1", "localhost", "::1"})


class _Assets(StaticFiles):
    """Built files have their content's hash in their name, so a browser may keep them for good."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        response = await super().get_response(path, scope)
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return response


def create_app(context: AppContext | None = None, network: Network | None = None, webroot: Path = WEBROOT) -> FastAPI:
    """The application for a workshop, with the door to it; without them it only describes itself (for generated types).

    Without a door it must not be served: who calls it is whoever made it.
    """

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        served: AppContext | None = app.state.context
        if served is not None:
            served.rig.attach(served.db, served.stamp)
            connect(served)
            # Modules and routes live as long as the server: the collector need not look through them at each turn.
            gc.collect()
            gc.freeze()
            gc.enable()
            gc.set_threshold(10_000, 20, 50)
        yield
        if served is not None:
            end_all(served)
            DEMO.end()
            if network is not None:
                network.end()
            served.rig.close()
            served.db.close()

    app = FastAPI(
        title="Adhaero",
        version=__version__,
        lifespan=lifespan,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        routes=[route for part in PARTS for route in part.router.routes],
        middleware=[
            Middleware(Guard, hosts=LOCAL),
            Middleware(Door, network=network),
            Middleware(GZipMiddleware, minimum_size=2000, compresslevel=1),
        ],
    )
    app.state.context, app.state.network = context, network
    problems.install(app)

    @app.get("/api/{rest:path}", include_in_schema=False)
    def unknown(rest: str) -> Response:
        raise HTTPException(404, f"There is nothing at /api/{rest[:80]}")

    if (webroot / "assets").is_dir():
        app.mount("/assets", _Assets(directory=webroot / "assets"))

    shipped = {f.name for f in webroot.glob("*") if f.is_file()}

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> Response:
        """Every other address is the one page; it finds its own way by the address."""
        if path in shipped:
            return FileResponse(webroot / path, headers={"Cache-Control": "no-cache"})
        if not (webroot / "index.html").is_file():
            raise HTTPException(503, "The front end is not built yet: run 'make demo' or 'make serve'.")
        return FileResponse(webroot / "index.html", headers={"Cache-Control": "no-cache"})

    return app
