"""Studies kept in PostgreSQL: the database's form of :class:`hourglass.study.repository.Keeping`."""

from collections.abc import Callable, Iterator, Mapping
from contextlib import AbstractContextManager, contextmanager, nullcontext
from dataclasses import replace
from datetime import datetime
from typing import Any, Self
from uuid import UUID

from psycopg.types.json import Jsonb

from hourglass.store import analyses, extracts, history, studies
from hourglass.store.queries import query
from hourglass.store.rows import Db, one
from hourglass.study.history import NewDecision
from hourglass.study.repository import Deletion, Headline, KeptResult, NewFile
from hourglass.study.study import StaleError, Study, StudyLine, StudySnapshot


class Postgres:
    """Each method takes a connection, does its work and gives the connection back."""

    def __init__(self, connect: Callable[[], AbstractContextManager[Db]]) -> None:
        self._connect = connect

    @contextmanager
    def transaction(self) -> Iterator[Self]:
        """All work done through what this gives is one transaction."""
        with self._connect() as db, db.transaction():
            yield type(self)(lambda: nullcontext(db))

    def studies(self) -> list[StudyLine]:
        with self._connect() as db:
            return studies.list_studies(db)

    def create(self, name: str, demo: str | None = None, at: datetime | None = None) -> UUID:
        with self._connect() as db:
            return studies.create_study(db, name, demo, at)

    def delete(self, study: Study) -> None:
        with self._connect() as db:
            given = {"id": study.id, "seen": study.revision}
            if db.execute(query("delete_study"), given).fetchone() is None:
                raise StaleError(studies.load_study(db, study.id), study.revision)

    def figure_presets(self) -> dict[str, dict[str, Any]]:
        with self._connect() as db:
            return {row["name"]: row["settings"] for row in db.execute(query("figure_presets"))}

    def put_figure_preset(self, name: str, settings: Mapping[str, Any]) -> None:
        with self._connect() as db:
            given = {"name": name, "settings": Jsonb(dict(settings))}
            db.execute(query("put_figure_preset"), given)

    def delete_figure_preset(self, name: str) -> None:
        with self._connect() as db:
            db.execute(query("delete_figure_preset"), {"name": name})

    def deletions(self) -> list[Deletion]:
        with self._connect() as db:
            return [Deletion(**row) for row in db.execute(query("deletions"))]

    def restore(self, study: UUID, revision: int | None = None) -> None:
        with self._connect() as db:
            one(db, "restore_study", id=study, revision=revision)

    def load(self, study: UUID) -> Study:
        with self._connect() as db:
            return studies.load_study(db, study)

    def append(
        self, study: Study, entry: NewDecision, snapshot: StudySnapshot, at: datetime | None = None
    ) -> Study:
        study.refuse_decided_meanwhile(entry.action)
        with self._connect() as db:
            try:
                # In one transaction: its lock on the study keeps others from changing what is read.
                with db.transaction():
                    history.log(db, study.id, entry, snapshot, study.revision, at)
                    now = studies.load_study(db, study.id)
                    return replace(now, meanwhile=study.meanwhile)
            except history.RevisionGoneError:
                raise StaleError(studies.load_study(db, study.id), study.revision) from None

    def snapshot_at(self, study: UUID, decision: int) -> StudySnapshot:
        with self._connect() as db:
            return history.snapshot_at(db, study, decision)

    def last_with_extract(self, study: UUID, extract: int) -> StudySnapshot | None:
        with self._connect() as db:
            return history.last_with_extract(db, study, extract)

    def begin_analysis(self, study: UUID, stage: str, begun: bool) -> int:
        with self._connect() as db:
            return analyses.begin_analysis(db, study, stage, begun)

    def open_analysis(self, analysis: int) -> None:
        with self._connect() as db:
            analyses.open_analysis(db, analysis)

    def find_numbers(self, analysis: int, part: str, hash: str) -> str | None:
        with self._connect() as db:
            return analyses.find_numbers(db, analysis, part, hash)

    def keep_result(
        self, analysis: int, part: str, hash: str, result: KeptResult, revision: int = 0
    ) -> None:
        with self._connect() as db:
            analyses.keep_result(db, analysis, part, hash, result, revision)

    def numbers(self) -> set[str]:
        with self._connect() as db:
            return analyses.names_of_numbers(db)

    def demos_loaded(self) -> set[str]:
        with self._connect() as db:
            return studies.demos_loaded(db)

    def note_demo(self, demo: str) -> None:
        with self._connect() as db:
            studies.note_demo(db, demo)

    def headlines(self, study: UUID) -> dict[int, Headline]:
        with self._connect() as db:
            return analyses.headlines(db, study)

    def add_extract(self, study: UUID, file: NewFile, waiting: bool) -> int:
        with self._connect() as db:
            return extracts.add_extract(db, study, file, waiting)

    def forget_waiting_export(self, study: UUID) -> None:
        with self._connect() as db:
            extracts.forget_waiting_export(db, study)
