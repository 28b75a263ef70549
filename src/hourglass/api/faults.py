"""Faults of the program: each is logged, answered as a problem, and leaves the connection open."""

import structlog
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from hourglass.api.problems import DISK_FULL, Problem, respond
from hourglass.store.blobs import NO_ROOM

log = structlog.get_logger("hourglass")


class Faults:
    """ASGI middleware for what nothing below it has answered.

    An error that goes on to the server ends the connection, and with it the requests that follow on it.
    """

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        begun = False

        async def watched(message: Message) -> None:
            nonlocal begun
            begun = True
            await send(message)

        try:
            await self._app(scope, receive, watched)
        except Exception as error:
            if scope["type"] != "http" or begun:
                raise  # half an answer can only be broken off
            if isinstance(error, OSError) and error.errno in NO_ROOM:
                log.error("the disk is full", path=scope["path"])
                await respond(DISK_FULL)(scope, receive, send)
                return
            log.error("unforeseen error", path=scope["path"], exc_info=error)
            await respond(_fault())(scope, receive, send)


def _fault() -> Problem:
    """The answer to a fault, with the id of the request, under which the log holds more."""
    request = structlog.contextvars.get_contextvars().get("request", "")
    return Problem(
        type="urn:hourglass:unforeseen",
        title="Something went wrong in the program",
        status=500,
        detail="This is a fault in Olden Hourglass, not in your data. Nothing was changed; the log in the "
        f"program's folder says more under {request or 'this moment'}.",
    )
