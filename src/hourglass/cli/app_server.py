"""The server itself: database up to date, demo studies there, address printed once it answers."""

import socket
import threading
import time
import urllib.request
from contextlib import nullcontext, suppress
from urllib.error import URLError

import psycopg
import uvicorn

from hourglass.api.app import create_app
from hourglass.api.connections import server_options
from hourglass.api.settings import Settings
from hourglass.cli.machine import MissingPieceError, announce
from hourglass.store.blobs import Blobs
from hourglass.store.collecting import AT_START, WHILE_RUNNING, collect
from hourglass.store.migrate import NewerDatabaseError, opened
from hourglass.store.postgres import Postgres
from hourglass.study.demos import load_missing_demos

A_DAY = 86_400.0


def run(settings: Settings, door: socket.socket) -> None:
    """Serve on a socket until the program is stopped.

    Raises:
        MissingPieceError: when a newer program has written the database.
    """
    _prepare(settings)
    threading.Thread(target=_keep_tidy, args=(settings,), daemon=True).start()
    config = uvicorn.Config(create_app(settings), **server_options())
    threading.Thread(target=_announce, args=(settings,), daemon=True).start()
    uvicorn.Server(config).run(sockets=[door])


def _prepare(settings: Settings) -> None:
    """Bring the database up to date, with the demo studies that nobody has deleted."""
    try:
        with opened(settings.database_url) as db:
            blobs = Blobs(settings.var / "files")
            collect(db, blobs, AT_START)
            for name in load_missing_demos(Postgres(lambda: nullcontext(db)), blobs):
                announce(f"Loaded the demo study “{name}”.")
    except NewerDatabaseError as reason:
        raise MissingPieceError(str(reason)) from None


def _keep_tidy(settings: Settings) -> None:
    """Once a day let go of what was deleted some days ago."""
    while True:
        time.sleep(A_DAY)
        with (
            suppress(psycopg.Error, NewerDatabaseError),
            opened(settings.database_url) as db,
        ):  # tomorrow again
            collect(db, Blobs(settings.var / "files"), WHILE_RUNNING)


def _announce(settings: Settings) -> None:
    """Print the address once it answers."""
    address = f"http://127.0.0.1:{settings.port}"
    to_open = f"{address}/?token={settings.token}"
    for _ in range(300):
        try:
            with urllib.request.urlopen(f"{address}/api/health", timeout=2):  # noqa: S310
                print(f"Olden Hourglass is ready at {to_open}  (Ctrl-C stops it)", flush=True)
                return
        except (URLError, OSError):
            time.sleep(0.1)
