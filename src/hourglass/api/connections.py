"""Connections: so many for each address, and each states soon what it wants."""

import asyncio
from collections import Counter
from typing import Any, ClassVar

from uvicorn.protocols.http.h11_impl import H11Protocol

MAX_OF_AN_ADDRESS = 256
"""Connections that one address may hold open."""
FOR_THE_HEADERS = 10.0
"""Seconds from the first byte of a request to the end of its headers, and from connecting to it."""


class Connection(H11Protocol):
    """A connection that is closed where its address has too many, or its headers do not end."""

    _of_address: ClassVar[Counter[str]] = Counter()
    _until: asyncio.TimerHandle | None = None

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        """Count the connection, and wait for its first request."""
        super().connection_made(transport)
        self._of_address[self._address()] += 1
        if self._of_address[self._address()] > MAX_OF_AN_ADDRESS:
            transport.close()
            return
        self._wait_for_headers()

    def connection_lost(self, exc: Exception | None) -> None:
        """Count it no more."""
        self._of_address[self._address()] -= 1
        self._stop_waiting()
        super().connection_lost(exc)

    def data_received(self, data: bytes) -> None:
        """Take bytes in; those of a new request have their time."""
        answered = self.cycle is None or self.cycle.response_complete
        before = self.cycle
        super().data_received(data)
        if self.cycle is not before:
            self._stop_waiting()
        elif answered and self._until is None:
            self._wait_for_headers()

    def _wait_for_headers(self) -> None:
        self._until = self.loop.call_later(FOR_THE_HEADERS, self._too_slow)

    def _stop_waiting(self) -> None:
        if self._until is not None:
            self._until.cancel()
            self._until = None

    def _too_slow(self) -> None:
        self._until = None
        self.transport.close()

    def _address(self) -> str:
        return self.client[0] if self.client else ""


def server_options() -> dict[str, Any]:
    """How a server is set up to bear slow and many callers."""
    return {"http": Connection, "ws": "none", "timeout_graceful_shutdown": 3, "log_config": None}
