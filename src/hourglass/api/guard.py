"""Only this machine, only from our own pages: Host and Origin are checked before anything else."""

from starlette.datastructures import Headers, MutableHeaders
from starlette.middleware.trustedhost import TrustedHostMiddleware
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from hourglass.api.problems import Problem, respond

SAFE_METHODS = frozenset({"GET", "HEAD", "OPTIONS"})
POLICY = (
    "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; "
    "font-src 'self' data:; frame-src 'self'; frame-ancestors 'self'; base-uri 'none'; form-action 'self'; "
    "object-src 'none'"
)
STRANGE_HOST = Problem(
    type="urn:hourglass:strange-host",
    title="Strange host",
    status=421,
    detail="This server answers only to names of the machine it runs on.",
)
STRANGE_ORIGIN = Problem(
    type="urn:hourglass:strange-origin",
    title="Strange origin",
    status=403,
    detail="Requests that change something are taken only from Olden Hourglass's own pages.",
)
ANSWER = "hourglass.answer"


class Guard:
    """ASGI middleware that refuses strange hosts and origins, and sets protective headers."""

    def __init__(self, app: ASGIApp, names: tuple[str, ...], origins: frozenset[str]) -> None:
        self._app, self._origins = app, origins
        self._known_hosts = TrustedHostMiddleware(
            self._within, allowed_hosts=names, www_redirect=False
        )

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return

        async def refuse(message: Message) -> None:
            """All that the check of the host sends itself is its refusal, which we word."""
            if message["type"] == "http.response.start":
                await respond(STRANGE_HOST)(scope, receive, send)

        scope[ANSWER] = send
        await self._known_hosts(scope, receive, refuse)

    async def _within(self, scope: Scope, receive: Receive, _: Send) -> None:
        """What comes from a host that is known is answered through the connection's own ``send``."""
        send: Send = scope.pop(ANSWER)
        headers = Headers(scope=scope)
        if self._strange_origin(scope["method"], headers.get("origin")):
            await respond(STRANGE_ORIGIN)(scope, receive, send)
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

    def _strange_origin(self, method: str, origin: str | None) -> bool:
        if method in SAFE_METHODS or origin is None:
            return False
        return origin.lower() not in self._origins
