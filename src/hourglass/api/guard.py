"""Only this machine, only from our own pages: Host and Origin are checked before anything else."""

from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from hourglass.api.problems import Problem, respond

SAFE_METHODS = frozenset({"GET", "HEAD", "OPTIONS"})
POLICY = (
    "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; "
    "font-src 'self'; frame-src 'self'; frame-ancestors 'self'; base-uri 'none'; form-action 'self'; "
    "object-src 'none'"
)


class Guard:
    """ASGI middleware that refuses strange hosts and origins, and sets protective headers."""

    def __init__(self, app: ASGIApp, hosts: frozenset[str]) -> None:
        self._app = app
        self._hosts = hosts

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        refusal = self._refusal(scope["method"], headers)
        if refusal is not None:
            await respond(refusal)(scope, receive, send)
            return

        async def guarded(message: Message) -> None:
            if message["type"] == "http.response.start":
                out = MutableHeaders(scope=message)
                out.setdefault("Content-Security-Policy", POLICY)
                out.setdefault("X-Content-Type-Options", "nosniff")
                out.setdefault("Referrer-Policy", "no-referrer")
                out.setdefault("Cross-Origin-Resource-Policy", "same-origin")
            await send(message)

        await self._app(scope, receive, guarded)

    def _refusal(self, method: str, headers: Headers) -> Problem | None:
        if headers.get("host", "").lower() not in self._hosts:
            return Problem(
                type="urn:hourglass:strange-host",
                title="Strange host",
                status=421,
                detail="This server answers only to names of the machine it runs on.",
            )
        origin = headers.get("origin")
        if method in SAFE_METHODS or origin is None:
            return None
        if urlsplit(origin).netloc.lower() in self._hosts:
            return None
        return Problem(
            type="urn:hourglass:strange-origin",
            title="Strange origin",
            status=403,
            detail="Requests that change something are taken only from Olden Hourglass's own pages.",
        )
