"""The web application: API and client from one process."""

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any

from fastapi import FastAPI
from fastapi.responses import FileResponse, Response
from fastapi.routing import APIRoute
from fastapi.staticfiles import StaticFiles
from starlette.middleware.gzip import GZipMiddleware

from hourglass import VERSION
from hourglass.analysis.registry import STAGES
from hourglass.analysis.shared.stage import Stages
from hourglass.api import problems
from hourglass.api.access import Access
from hourglass.api.bodies import Bodies
from hourglass.api.faults import Faults
from hourglass.api.guard import Guard
from hourglass.api.heads import Heads
from hourglass.api.interface_page import serve_interface_page
from hourglass.api.request_log import RequestLog
from hourglass.api.routes import (
    analyses,
    applied,
    decisions,
    drawings,
    figure_presets,
    files,
    health,
    outputs,
    plans,
    prepare,
    steps,
    studies,
    tables,
    trials,
    work,
)
from hourglass.api.settings import NAMES, Settings
from hourglass.api.state import State
from hourglass.report.pieces.piece import Pieces
from hourglass.report.pieces.registry import PIECES


def create_app(settings: Settings, stages: Stages = STAGES, pieces: Pieces = PIECES) -> FastAPI:
    """The application over a migrated database, with its stages and the pieces of its report."""

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        app.state.hourglass = State(settings, stages, pieces)
        app.state.hourglass.open()
        yield
        app.state.hourglass.close()

    app = FastAPI(
        title="Olden Hourglass",
        version=VERSION,
        lifespan=lifespan,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        generate_unique_id_function=_name,
        responses={
            "default": {"model": problems.Problem, "description": "What went wrong, in words"}
        },
    )
    for part in (
        health,
        studies,
        tables,
        files,
        prepare,
        steps,
        decisions,
        drawings,
        figure_presets,
        outputs,
        plans,
        applied,
        work,
    ):
        app.include_router(part.router)
    app.include_router(analyses.router(stages))
    app.include_router(trials.router(stages))
    serve_interface_page(app, settings.web)
    problems.install(app)
    app.add_middleware(Faults)
    app.add_middleware(Bodies)
    app.add_middleware(GZipMiddleware, minimum_size=2000, compresslevel=4)
    app.add_middleware(Heads)
    app.add_middleware(Access, token=settings.token, port=settings.port)
    app.add_middleware(Guard, names=NAMES, origins=settings.origins)
    app.add_middleware(RequestLog)
    _serve_client(app, settings.web)
    return app


class Assets(StaticFiles):
    """Files whose names hold a hash of what is in them: a browser may keep them for good."""

    def file_response(self, *given: Any, **named: Any) -> Response:
        answer = super().file_response(*given, **named)
        answer.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return answer


def _name(route: APIRoute) -> str:
    return route.name


def _serve_client(app: FastAPI, web: Path) -> None:
    """The built client: its files, and its one page for every address it knows."""
    if (web / "assets").is_dir():
        app.mount("/assets", Assets(directory=web / "assets"))

    @app.get("/api/{rest:path}", include_in_schema=False)
    def nowhere(rest: str) -> Response:
        return problems.respond(
            problems.Problem(
                type="urn:hourglass:http-404",
                title="Not found",
                status=404,
                detail=f"There is nothing at /api/{rest}.",
            )
        )

    @app.get("/{rest:path}", include_in_schema=False)
    def page(rest: str) -> Response:
        index = web / "index.html"
        if not index.is_file():
            return Response("The web client has not been built.", 503, media_type="text/plain")
        return FileResponse(index, headers={"Cache-Control": "no-cache"})
