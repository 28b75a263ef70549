"""Where requests meet studies: loads a study, forms its cohort once, finds or computes results."""

from collections import OrderedDict
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from threading import Lock
from typing import Any, Generic, TypeVar, cast
from uuid import UUID

from psycopg.rows import dict_row
from psycopg_pool import ConnectionPool

from hourglass.analysis.preparation import broken_blocks
from hourglass.analysis.registry import default_statement
from hourglass.analysis.statements import Stage, Statement
from hourglass.api.reading_process import FileReader
from hourglass.api.settings import Settings
from hourglass.api.work import Workshop
from hourglass.cohort.derive import Block
from hourglass.cohort.followup import Cohort, form_cohort
from hourglass.cohort.parquet import from_parquet
from hourglass.cohort.steps.apply import StepEffect, apply_steps
from hourglass.cohort.table import NoSuchColumnError, Table
from hourglass.store.blobs import Blobs
from hourglass.store.results import cohort_hash
from hourglass.store.rows import Db
from hourglass.store.studies import Study, load_study

KEPT_IN_MEMORY = 4
V = TypeVar("V")
NO_FILE = Block("This study has no file yet: choose one in Prepare.", None)


class Recent(Generic[V]):
    """The last few values made, by key."""

    def __init__(self, most: int) -> None:
        self._most, self._lock = most, Lock()
        self._values: OrderedDict[str, V] = OrderedDict()

    def get(self, key: str, make: Callable[[], V]) -> V:
        """The value of a key, made if it is not there."""
        with self._lock:
            if key in self._values:
                self._values.move_to_end(key)
                return self._values[key]
        value = make()
        with self._lock:
            self._values[key] = value
            while len(self._values) > self._most:
                self._values.popitem(last=False)
        return value

    def peek(self, key: str) -> V | None:
        """The value of a key, if it is there."""
        with self._lock:
            return self._values.get(key)


class Desk:
    """The server's working state: database, files, work under way, and what was read last."""

    def __init__(self, settings: Settings) -> None:
        self.settings = settings
        self.blobs = Blobs(settings.var / "files")
        self.workshop = Workshop()
        self.reader = FileReader(settings.limits, settings.reading_memory, settings.reading_seconds)
        self._pool: ConnectionPool[Any] = ConnectionPool(
            settings.database_url,
            min_size=1,
            max_size=8,
            timeout=5,
            open=False,
            kwargs={"autocommit": True, "row_factory": dict_row, "connect_timeout": 5},
            check=ConnectionPool.check_connection,
        )
        self._tables: Recent[Table] = Recent(KEPT_IN_MEMORY)
        self.answers: Recent[Any] = Recent(KEPT_IN_MEMORY)
        self._applied: Recent[tuple[Table, tuple[StepEffect, ...]]] = Recent(KEPT_IN_MEMORY)
        self._cohorts: Recent[Cohort | tuple[Block, ...]] = Recent(KEPT_IN_MEMORY)

    def open(self) -> None:
        """Begin to use the database."""
        self._pool.open()

    def close(self) -> None:
        """Stop work and let go of the database."""
        self.workshop.close()
        self._pool.close()

    @contextmanager
    def db(self) -> Iterator[Db]:
        """A connection, each statement its own transaction unless told otherwise."""
        with self._pool.connection() as connection:
            yield cast(Db, connection)

    def study(self, study: UUID) -> Study:
        """All that is kept of a study."""
        with self.db() as db:
            return load_study(db, study)

    def table(self, study: Study) -> Table:
        """The table as read from the study's file, which it must have."""
        assert study.file is not None
        name = study.file.table_sha256
        return self._tables.get(name, lambda: from_parquet(self.blobs.get(name)))

    def applied(self, study: Study) -> tuple[Table, tuple[StepEffect, ...]]:
        """The table as the study's steps have left it, and what each that is on did."""
        return self._applied.get(
            cohort_hash(study), lambda: apply_steps(self.table(study), study.active)
        )

    def after_steps(self, study: Study) -> Table:
        """The table as the study's steps have left it."""
        return self.applied(study)[0]

    def cohort(self, study: Study) -> Cohort | tuple[Block, ...]:
        """The study's cohort, or what must be decided first."""
        if study.file is None:
            return (NO_FILE,)
        return self._cohorts.get(cohort_hash(study), lambda: self._form(study))

    def _form(self, study: Study) -> Cohort | tuple[Block, ...]:
        after, effects = self.applied(study)
        broken = broken_blocks(effects)
        if broken:
            return tuple(broken)
        try:
            return form_cohort(after, study.follow_up)
        except NoSuchColumnError as error:
            return (Block(f"The statement is broken: {error}.", None),)

    @staticmethod
    def statement(study: Study, stage: Stage, cohort: Cohort) -> Statement:
        """A stage's statement: the study's own, or the one it starts from."""
        own = study.statements.get(stage)
        return default_statement(stage, cohort) if own is None else own
