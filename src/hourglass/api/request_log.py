"""A line in the log for every request: its id, what it was, how it ended and how long it took.

Never a query, a body or a cell: what people ask about stays with them.
"""

import re
import time
from uuid import uuid4

import structlog
from starlette.datastructures import MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

log = structlog.get_logger("hourglass")
STUDY = re.compile(r"^/api/studies/(?P<study>[0-9a-f-]{36})(?:/(?P<what>[a-z-]+))?")


class RequestLog:
    """ASGI middleware: the id is bound to all lines of a request, and sent as ``X-Request-Id``."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        request, begun, status = uuid4().hex[:12], time.perf_counter(), 500

        async def logged(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = message["status"]
                MutableHeaders(scope=message)["X-Request-Id"] = request
            await send(message)

        found = STUDY.match(scope["path"])
        of_study = {} if found is None else {"study": found["study"], "stage": found["what"] or ""}
        with structlog.contextvars.bound_contextvars(request=request, **of_study):
            try:
                await self._app(scope, receive, logged)
            finally:
                milliseconds = round(1000 * (time.perf_counter() - begun), 1)
                log.info("request", method=scope["method"], status=status, ms=milliseconds)
