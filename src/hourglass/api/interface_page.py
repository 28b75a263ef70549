"""A page that describes the interface for programs; its scripts come with the program."""

from pathlib import Path

import fastapi_offline
from fastapi import FastAPI
from fastapi.responses import HTMLResponse, Response
from fastapi.staticfiles import StaticFiles

FILES = Path(fastapi_offline.__file__).parent / "static"
PAGE = """<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>Olden Hourglass: interface for programs</title>
<link rel="stylesheet" href="/interface-files/swagger-ui.css">
</head>
<body>
<main id="interface"></main>
<script src="/interface-files/swagger-ui-bundle.js"></script>
<script src="/interface-files/start.js"></script>
</body>
</html>
"""
START = """SwaggerUIBundle({
    url: "/api/openapi.json",
    dom_id: "#interface",
    deepLinking: true,
    validatorUrl: null,
});
"""
"""A script of its own: the policy of pages allows none in them."""


def serve_interface_page(app: FastAPI) -> None:
    """Serve the page, and its scripts beside it."""

    @app.get("/api/docs", include_in_schema=False)
    def page() -> HTMLResponse:
        return HTMLResponse(PAGE)

    @app.get("/interface-files/start.js", include_in_schema=False)
    def start() -> Response:
        return Response(START, media_type="text/javascript")

    app.mount("/interface-files", StaticFiles(directory=FILES))
