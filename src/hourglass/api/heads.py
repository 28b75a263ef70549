"""HEAD: what GET would answer, without its body (RFC 9110, section 9.3.2)."""

from starlette.types import ASGIApp, Message, Receive, Scope, Send


class Heads:
    """ASGI middleware that has HEAD answered by what answers GET."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or scope["method"] != "HEAD":
            await self._app(scope, receive, send)
            return

        async def without_body(message: Message) -> None:
            await send(
                {**message, "body": b""} if message["type"] == "http.response.body" else message
            )

        await self._app({**scope, "method": "GET"}, receive, without_body)
