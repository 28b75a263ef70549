"""Serving: database up, client built, demos there, address printed when it really answers."""

import fcntl
import os
import secrets
import socket
import threading
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager, nullcontext, suppress
from pathlib import Path
from urllib.error import URLError

import psycopg
import uvicorn

from hourglass.api.app import create_app
from hourglass.api.connections import server_options
from hourglass.api.faults import NO_ROOM
from hourglass.api.settings import Settings
from hourglass.cli.cluster import Cluster, own_cluster
from hourglass.cli.environment import settings_of_environment
from hourglass.cli.logs import write_logs
from hourglass.cli.machine import MissingPieceError, build_web, install_page_libraries, say
from hourglass.store.blobs import Blobs
from hourglass.store.collecting import AT_START, WHILE_RUNNING, collect
from hourglass.store.migrate import NewerDatabaseError, opened
from hourglass.store.postgres import Postgres
from hourglass.study.demos import load_missing_demos
from hourglass.study.place import COMMAND

A_DAY = 86_400.0
CANNOT_START = 2
"""What starting ends with where something is to be put right first."""
LOOK_AFTER_EVERY = 2.0
"""Seconds between looks at whether our database server is still there."""


def serve() -> int:
    """Serve until told to stop; returns the exit status."""
    try:
        named = os.environ.get("DATABASE_URL") or None
        settings = settings_of_environment(named)
        var = own_folder(settings.var.absolute())
        write_logs(var / "log")
        with only_one(var), listening(settings.port) as door, _database(var, named) as address:
            port = door.getsockname()[1]
            settings = settings.model_copy(
                update={
                    "database_url": address,
                    "var": var,
                    "port": port,
                    "token": token_for_programs(var, settings.token or secrets.token_urlsafe(32)),
                }
            )
            build_web()
            install_page_libraries()
            _prepare(settings)
            threading.Thread(target=_keep_tidy, args=(settings,), daemon=True).start()
            config = uvicorn.Config(create_app(settings), **server_options())
            threading.Thread(target=_announce, args=(settings,), daemon=True).start()
            uvicorn.Server(config).run(sockets=[door])
    except KeyboardInterrupt:
        pass
    except (MissingPieceError, NewerDatabaseError) as reason:
        say(str(reason))
        return CANNOT_START
    except psycopg.Error as reason:
        say(f"The database does not answer: {str(reason).strip()}")
        return CANNOT_START
    except OSError as reason:
        if reason.errno not in NO_ROOM:
            raise
        say("The disk is full. Make room on it, and start Olden Hourglass again.")
        return CANNOT_START
    say("Stopped.")
    return 0


def _prepare(settings: Settings) -> None:
    """Bring the database up to date, with the demo studies that nobody has deleted."""
    with opened(settings.database_url) as db:
        blobs = Blobs(settings.var / "files")
        collect(db, blobs, AT_START)
        for name in load_missing_demos(Postgres(lambda: nullcontext(db)), blobs):
            say(f"Loaded the demo study “{name}”.")


def _keep_tidy(settings: Settings) -> None:
    """Once a day let go of what was deleted some days ago."""
    while True:
        time.sleep(A_DAY)
        with (
            suppress(psycopg.Error, NewerDatabaseError),
            opened(settings.database_url) as db,
        ):  # tomorrow again
            collect(db, Blobs(settings.var / "files"), WHILE_RUNNING)


def own_folder(var: Path) -> Path:
    """The folder of the program's data, made if need be, for this account alone.

    Raises:
        MissingPieceError: when it cannot be written, saying what to do.
    """
    try:
        var.mkdir(parents=True, exist_ok=True)
        (var / "lock").touch()
        var.chmod(0o711 if os.geteuid() == 0 else 0o700)  # PostgreSQL's account goes through it
        for folder in (var / "log", var / "files"):
            folder.mkdir(exist_ok=True)
            folder.chmod(0o700)
    except OSError as reason:
        raise MissingPieceError(
            f"Nothing can be kept in {var}: {reason.strerror}. Name a folder that you can write with "
            "HOURGLASS_VAR."
        ) from None
    return var


@contextmanager
def only_one(var: Path) -> Iterator[None]:
    """Hold the folder's lock, so that two programs never share one cluster."""
    with (var / "lock").open("w") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            raise MissingPieceError(
                f"Olden Hourglass is already running with its data in {var}."
            ) from None
        yield


@contextmanager
def _database(var: Path, named: str | None) -> Iterator[str]:
    """The address of a database: the one named, or our own cluster's."""
    if named is not None:
        yield named
        return
    cluster = own_cluster(var)
    ended = threading.Event()
    try:
        address = cluster.start()
        keeper = threading.Thread(target=_look_after, args=(cluster, address, ended), daemon=True)
        keeper.start()
        yield address
    finally:
        ended.set()
        cluster.stop()


def _look_after(cluster: Cluster, address: str, ended: threading.Event) -> None:
    """Start our database server again, on its old port, should it be killed."""
    while not ended.wait(LOOK_AFTER_EVERY):
        if not cluster.running() and not ended.is_set():
            say("The database server was gone; starting it again.")
            try:
                cluster.start(int(address.rsplit(":", 1)[1].split("/", maxsplit=1)[0]))
            except MissingPieceError as reason:
                say(str(reason))


@contextmanager
def listening(port: int) -> Iterator[socket.socket]:
    """A socket on this machine alone; port 0 takes one that is free."""
    with socket.socket() as door:
        door.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            door.bind(("127.0.0.1", port))
        except PermissionError:
            raise MissingPieceError(
                f"Port {port} is not for this account. Choose one above 1023: PORT=8010 {COMMAND} start"
            ) from None
        except OSError:
            raise MissingPieceError(
                f"Port {port} is taken by another program. Choose another: PORT=8010 {COMMAND} start"
            ) from None
        yield door


def token_for_programs(var: Path, token: str) -> str:
    """Write this start's token where programs of this account find it."""
    file = var / "token"
    file.unlink(missing_ok=True)
    file.touch(0o600)
    file.write_text(token, encoding="ascii")
    return token


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
