"""Taking a file in: its body to the end, its reading off the event loop and cancelled on hanging up."""

import asyncio
from collections.abc import Callable
from typing import TypeVar
from uuid import uuid4

from fastapi import Request
from starlette.requests import ClientDisconnect

from hourglass.api.problems import ProblemError
from hourglass.api.state import State
from hourglass.cohort.words import grouped
from hourglass.core.progress import CancelledError, ProgressCallback

V = TypeVar("V")
LOOK_EVERY = 0.1


async def body_of(request: Request, limit: int) -> bytes:
    """The body, read to its end even when too large, so that the refusal can be heard."""
    taken, size = bytearray(), 0
    try:
        async for chunk in request.stream():
            size += len(chunk)
            if size <= limit:
                taken += chunk
            else:
                taken.clear()
    except ClientDisconnect:
        raise ProblemError(
            400, "upload-broken", "Upload broken off", "The upload broke off. Nothing was kept."
        ) from None
    if size > limit:
        raise ProblemError(
            413,
            "too-large",
            "The file is too large",
            f"The file has {grouped(round(size / 2**20))} MB; at most "
            f"{grouped(round(limit / 2**20))} MB can be uploaded. "
            "Leave out columns you do not need, or start the program with a higher "
            "HOURGLASS_UPLOAD_LIMIT_MB.",
        )
    return bytes(taken)


async def while_listening(request: Request, state: State, do: Callable[[ProgressCallback], V]) -> V:
    """Run work for a request; should the caller hang up, the work is cancelled at its next step."""
    work = state.results.under_way.start(("upload", uuid4().hex), do, state.waiting)
    waiting = asyncio.wrap_future(work.future)
    try:
        while not waiting.done():
            await asyncio.wait([waiting], timeout=LOOK_EVERY)
            if not waiting.done() and await request.is_disconnected():
                work.cancel()
                break
        found: V = await waiting
        return found
    except CancelledError:
        raise ProblemError(400, "cancelled", "Cancelled", "Cancelled. Nothing was kept.") from None
