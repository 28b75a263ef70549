"""Only whoever was given this start's token: other accounts of the machine reach the port as well."""

import re
import secrets
from http.cookies import CookieError, SimpleCookie
from urllib.parse import parse_qsl, urlencode

from starlette.datastructures import Headers, MutableHeaders
from starlette.responses import PlainTextResponse, RedirectResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from hourglass.api.problems import Problem, respond
from hourglass.study.place import COMMAND

OPEN = re.compile(r"^/(api/health$|assets/)")
"""What holds nothing of anybody's data."""
OWN_PAGES = ("same-origin", "none")
"""What browsers send with requests of our own pages, and of addresses that people type."""
NO_TOKEN = Problem(
    type="urn:hourglass:no-token",
    title="Not let in",
    status=401,
    detail=f"Open the address that {COMMAND} start printed: it lets you in. Programs send the token that "
    "lies in the program's folder of data as Authorization: Bearer.",
)
STRANGE_PAGE = Problem(
    type="urn:hourglass:strange-page",
    title="Strange page",
    status=403,
    detail="A page of another server asked for this. Only Olden Hourglass's own pages are answered.",
)


class Access:
    """ASGI middleware that requests the token, and keeps data out of caches.

    The address that is printed carries the token once; from there on a cookie has it.
    """

    def __init__(self, app: ASGIApp, token: str, port: int) -> None:
        """Let in whoever has the token; with a blank one, everybody.

        Args:
            app: the application behind this.
            token: of this start of the program.
            port: where the program listens: browsers share cookies between ports.
        """
        self._app, self._token, self._cookie = app, token, f"hourglass-{port}"

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        headers, path = Headers(scope=scope), scope["path"]
        of_data = path.startswith("/api/")
        if of_data and headers.get("sec-fetch-site", "none") not in OWN_PAGES:
            await respond(STRANGE_PAGE)(scope, receive, send)
            return
        query = parse_qsl(scope["query_string"].decode("latin-1"), keep_blank_values=True)
        given = dict(query).get("token")
        if not of_data and self._token and given is not None and self._is_token(given):
            left = urlencode([(name, value) for name, value in query if name != "token"])
            await self._welcome(path + (f"?{left}" if left else ""))(scope, receive, send)
            return
        if self._token and not OPEN.match(path) and not self._let_in(headers):
            refused = respond(NO_TOKEN) if of_data else PlainTextResponse(NO_TOKEN.detail, 401)
            await refused(scope, receive, send)
            return

        async def not_stored(message: Message) -> None:
            if message["type"] == "http.response.start" and of_data:
                MutableHeaders(scope=message).setdefault("Cache-Control", "no-store")
            await send(message)

        await self._app(scope, receive, not_stored)

    def _welcome(self, address: str) -> RedirectResponse:
        answer = RedirectResponse("/" + address.lstrip("/"), 303, {"Cache-Control": "no-store"})
        answer.set_cookie(self._cookie, self._token, httponly=True, samesite="strict", path="/")
        return answer

    def _let_in(self, headers: Headers) -> bool:
        scheme, _, named = headers.get("authorization", "").partition(" ")
        if scheme.lower() == "bearer" and self._is_token(named.strip()):
            return True
        try:
            held = SimpleCookie(headers.get("cookie", "")).get(self._cookie)
        except CookieError:
            return False
        return held is not None and self._is_token(held.value)

    def _is_token(self, given: str) -> bool:
        return secrets.compare_digest(given.encode(), self._token.encode())
