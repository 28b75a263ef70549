"""Bodies of requests: no larger than what they are for, and sent without long pauses."""

import asyncio
import re
import time

from starlette.datastructures import Headers
from starlette.exceptions import HTTPException
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from hourglass.api.problems import Problem, respond
from hourglass.cohort.words import grouped

MIB = 2**20
FILE = re.compile(r"^/api/studies/[^/]+/(file|next-file)$")
"""What takes whole files, within a limit that it words itself."""
PLAN = re.compile(r"^/api/studies/[^/]+/(plan-in-place|plan-fit|steps\.json)$")
MAX_BODY, MAX_PLAN_BODY = 1 * MIB, 5 * MIB
PAUSE = 20.0
"""Seconds that a body may pause."""
SLOWEST = 20_000
"""Bytes a second that a body must come in with, after :data:`PAUSE`, all in all."""


class Bodies:
    """ASGI middleware that refuses a body that is too large before it is parsed, or comes too slowly."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        of_file = FILE.match(scope["path"]) is not None
        most = MAX_PLAN_BODY if PLAN.match(scope["path"]) else MAX_BODY
        named = Headers(scope=scope).get("content-length", "")
        if not of_file and named.isdigit() and int(named) > most:
            await respond(_too_large(most))(scope, receive, send)
            return
        begun, taken, whole = time.monotonic(), 0, False

        async def bounded() -> Message:
            nonlocal taken, whole
            if whole:
                return await receive()  # all that comes now is that the caller has gone
            try:
                message = await asyncio.wait_for(receive(), PAUSE)
            except TimeoutError:
                raise HTTPException(408, TOO_SLOW) from None
            taken += len(message.get("body", b""))
            whole = not message.get("more_body", False)
            if not of_file and taken > most:
                raise HTTPException(413, _too_large(most).detail)
            spent = time.monotonic() - begun
            if not whole and spent > PAUSE and taken < SLOWEST * (spent - PAUSE):
                raise HTTPException(408, TOO_SLOW)
            return message

        await self._app(scope, bounded, send)


TOO_SLOW = "The request came in too slowly and was broken off. Nothing was changed: try again."


def _too_large(most: int) -> Problem:
    return Problem(
        type="urn:hourglass:too-large",
        title="The request is too large",
        status=413,
        detail=f"A request of this kind holds at most {grouped(most // MIB)} MB. Nothing was changed.",
    )
