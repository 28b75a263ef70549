"""The start command: its settings checked, folder, port and database held while the program is served."""

import fcntl
import os
import secrets
import socket
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import psycopg

from hourglass.cli.cluster import Cluster, own_cluster
from hourglass.cli.environment import settings_of_environment
from hourglass.cli.logs import write_logs
from hourglass.cli.machine import MissingPieceError, announce, build_web, install_page_libraries
from hourglass.store.blobs import NO_ROOM
from hourglass.study.place import COMMAND

CANNOT_START = 2
"""What starting ends with where something is to be put right first."""
LOOK_AFTER_EVERY = 2.0
"""Seconds between looks at whether our database server is still there."""


def serve() -> int:
    """Serve until stopped; returns the exit status."""
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
            # It takes seconds to load, and nothing refuses it any more.
            from hourglass.cli.app_server import run

            run(settings, door)
    except KeyboardInterrupt:
        pass
    except MissingPieceError as reason:
        announce(str(reason))
        return CANNOT_START
    except psycopg.Error as reason:
        announce(f"The database does not answer: {str(reason).strip()}")
        return CANNOT_START
    except OSError as reason:
        if reason.errno not in NO_ROOM:
            raise
        announce("The disk is full. Make room on it, and start Olden Hourglass again.")
        return CANNOT_START
    announce("Stopped.")
    return 0


def own_folder(var: Path) -> Path:
    """The folder of the program's data, made if need be, for this account alone.

    Raises:
        MissingPieceError: when it cannot be written, stating what to do.
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
            announce("The database server was gone; starting it again.")
            try:
                cluster.start(int(address.rsplit(":", 1)[1].split("/", maxsplit=1)[0]))
            except MissingPieceError as reason:
                announce(str(reason))


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
