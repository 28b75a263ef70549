"""A page that describes the interface for programs; its scripts lie with the client."""

from pathlib import Path

from fastapi import FastAPI
from fastapi.responses import HTMLResponse, Response
from fastapi.staticfiles import StaticFiles

from hourglass.study.place import INTERFACE

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


def serve_interface_page(app: FastAPI, client: Path) -> None:
    """Serve the page, and its scripts beside it."""

    @app.get("/api/docs", include_in_schema=False)
    def page() -> HTMLResponse:
        return HTMLResponse(PAGE)

    @app.get("/interface-files/start.js", include_in_schema=False)
    def start() -> Response:
        return Response(START, media_type="text/javascript")

    files = client / INTERFACE
    if files.is_dir():
        app.mount("/interface-files", StaticFiles(directory=files))
