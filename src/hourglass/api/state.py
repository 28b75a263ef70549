"""The running program: what the routes work with."""

import time
from collections.abc import Iterator
from contextlib import contextmanager
from functools import partial
from typing import Any, cast

from psycopg import Connection, connect
from psycopg.rows import dict_row
from psycopg_pool import ConnectionPool, PoolTimeout

from hourglass.analysis.registry import STAGES
from hourglass.analysis.shared.stage import Stages
from hourglass.api import reading_process
from hourglass.api.problems import ProblemError
from hourglass.api.reading_process import FileReader
from hourglass.api.settings import MIB, Settings
from hourglass.report.pieces.piece import Pieces
from hourglass.report.pieces.registry import PIECES
from hourglass.store.blobs import Blobs
from hourglass.store.postgres import Postgres
from hourglass.store.rows import Db
from hourglass.study.in_process import InProcess
from hourglass.study.processes import Processes
from hourglass.study.recent import keep_within
from hourglass.study.results import Results
from hourglass.study.study import Study
from hourglass.study.work import Executor

PRELOADED = (*reading_process.PRELOADED, "hourglass.study.tasks", "hourglass.analysis.registry")
"""There is one server that processes are forked from: the list that is set last is the one it loads."""


LOOK_AFTER, MAX_WAIT_CHARACTERS = 3.0, 30.0
"""Seconds after which it is seen whether there is a database, and of waiting for a connection."""


class State:
    """The database, the files, the results and the executors, for as long as the server runs.

    Attributes:
        repository, blobs: where studies and bytes are kept.
        results: found or computed.
        waiting: runs what waits on other work.
    """

    def __init__(
        self, settings: Settings, stages: Stages = STAGES, pieces: Pieces = PIECES
    ) -> None:
        self.settings, self.stages, self.pieces = settings, stages, pieces
        self.blobs = Blobs(settings.var / "files")
        self.reader = FileReader(settings.limits, settings.reading_memory, settings.reading_seconds)
        self._pool: ConnectionPool[Any] = ConnectionPool(
            settings.database_url,
            min_size=1,
            max_size=8,
            timeout=LOOK_AFTER,
            open=False,
            kwargs={"autocommit": True, "row_factory": dict_row, "connect_timeout": 5},
            check=ConnectionPool.check_connection,
        )
        self.repository = Postgres(self.db)
        remembered = settings.memory_mb * MIB
        keep_within(remembered)
        self.waiting = InProcess(threads=16)
        self._executor: Executor = (
            Processes(
                settings.processes,
                PRELOADED,
                settings.work_memory_mb * MIB,
                partial(keep_within, remembered),
            )
            if settings.processes
            else InProcess()
        )
        self.results = Results(self.repository, self.blobs, self._executor, stages)

    def open(self) -> None:
        """Begin to use the database."""
        self._pool.open()

    def close(self) -> None:
        """Stop work and let go of the database."""
        self.results.close()
        self._executor.close()
        self.waiting.close()
        self._pool.close()

    @contextmanager
    def db(self) -> Iterator[Db]:
        """A connection; each statement is its own transaction unless one is opened.

        Raises:
            PoolTimeout: when others need all of them for too long.
            OperationalError: when the database does not answer.
        """
        connection = self._connection()
        try:
            with connection:
                yield cast(Db, connection)
        finally:
            self._pool.putconn(connection)

    def _connection(self) -> Connection[Any]:
        until = time.monotonic() + MAX_WAIT_CHARACTERS
        while True:
            try:
                found: Connection[Any] = self._pool.getconn()
                return found
            except PoolTimeout:
                # All are in use, or there is no database: one more connection finds out, and is let go.
                connect(self.settings.database_url, connect_timeout=2).close()
                if time.monotonic() > until:
                    raise


def having_file(study: Study) -> Study:
    """The study, which must have its file."""
    if study.file is None:
        raise ProblemError(
            409, "no-file", "No file yet", "This study has no file yet: choose one in Prepare."
        )
    return study
