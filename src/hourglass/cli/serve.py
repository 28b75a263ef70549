"""Serving: database up, client built, demos there, address printed when it really answers."""

import fcntl
import os
import socket
import threading
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager, nullcontext
from pathlib import Path
from urllib.error import URLError

import psycopg
import uvicorn
from psycopg.rows import dict_row

from hourglass.api.app import create_app
from hourglass.api.settings import Settings
from hourglass.cli.cluster import Cluster, own_cluster
from hourglass.cli.logs import write_logs
from hourglass.cli.machine import ROOT, MissingPieceError, build_web, install_page_libraries, say
from hourglass.store.blobs import Blobs
from hourglass.store.migrate import NewerDatabaseError, migrate
from hourglass.store.postgres import Postgres
from hourglass.store.studies import purge_studies
from hourglass.study.demos import load_missing_demos

LOOK_AFTER_EVERY = 2.0
"""Seconds between looks at whether our database server is still there."""


def serve() -> int:
    """Serve until told to stop; returns the exit status."""
    port = int(os.environ.get("PORT", "8000"))
    var = Path(os.environ.get("HOURGLASS_VAR", ROOT / "var")).absolute()
    var.mkdir(parents=True, exist_ok=True)
    write_logs(var / "log")
    try:
        with only_one(var), _database(var) as address:
            _require_free(port)
            build_web()
            install_page_libraries()
            settings = Settings(database_url=address, var=var, port=port)
            with psycopg.connect(address, autocommit=True) as connection:
                migrate(connection)
            with psycopg.connect(address, autocommit=True, row_factory=dict_row) as db:
                purge_studies(db)
                keeping = Postgres(lambda: nullcontext(db))
                for name in load_missing_demos(keeping, Blobs(var / "files")):
                    say(f"Loaded the demo study “{name}”.")
            config = uvicorn.Config(
                create_app(settings),
                host="127.0.0.1",
                port=port,
                log_config=None,
                timeout_graceful_shutdown=3,
            )
            threading.Thread(target=_announce, args=(port,), daemon=True).start()
            uvicorn.Server(config).run()
    except KeyboardInterrupt:
        pass
    except (MissingPieceError, NewerDatabaseError) as reason:
        say(str(reason))
        return 1
    except psycopg.OperationalError as reason:
        say(f"The database does not answer: {reason}")
        return 1
    say("Stopped.")
    return 0


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
def _database(var: Path) -> Iterator[str]:
    """The address of a database: the one named by DATABASE_URL, or our own cluster's."""
    named = os.environ.get("DATABASE_URL")
    if named:
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


def _require_free(port: int) -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            raise MissingPieceError(
                f"Port {port} is taken by another program. Choose another: PORT=8010 ./hourglass start"
            ) from None


def _announce(port: int) -> None:
    """Print the address once it answers."""
    address = f"http://127.0.0.1:{port}"
    for _ in range(300):
        try:
            with urllib.request.urlopen(f"{address}/api/health", timeout=2):  # noqa: S310
                print(f"Olden Hourglass is ready at {address}  (Ctrl-C stops it)", flush=True)
                return
        except (URLError, OSError):
            time.sleep(0.1)
