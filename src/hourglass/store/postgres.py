"""Studies kept in PostgreSQL: the database's form of :class:`hourglass.study.keeping.Keeping`."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import AbstractContextManager, contextmanager, nullcontext
from typing import Any, Self
from uuid import UUID

from hourglass.cohort.reading.packed import PackedReading
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.plan import PlacedStep
from hourglass.store import analyses, exports, steps, studies
from hourglass.store.queries import query
from hourglass.store.rows import Db, one
from hourglass.study.keeping import Computed, Headline, NewDecision, NewFile
from hourglass.study.study import Study, StudyLine


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

    def create(self, name: str, demo: str | None = None) -> UUID:
        with self._connect() as db:
            return studies.create_study(db, name, demo)

    def rename(self, study: UUID, name: str) -> None:
        with self._connect() as db:
            one(db, "rename_study", id=study, name=name)

    def delete(self, study: UUID) -> None:
        with self._connect() as db:
            one(db, "delete_study", id=study)

    def load(self, study: UUID) -> Study:
        with self._connect() as db:
            return studies.load_study(db, study)

    def lock(self, study: UUID) -> None:
        with self._connect() as db:
            one(db, "lock_study", id=study)

    def put_follow_up(self, study: UUID, statement: FollowUpStatement) -> None:
        with self._connect() as db:
            studies.put_follow_up(db, study, statement)

    def add_analysis(
        self, study: UUID, stage: str, name: str, body: Mapping[str, Any] | None
    ) -> int:
        with self._connect() as db:
            return analyses.add_analysis(db, study, stage, name, body)

    def put_statement(self, analysis: int, body: Mapping[str, Any]) -> None:
        with self._connect() as db:
            analyses.put_statement(db, analysis, body)

    def arrange_analysis(
        self, analysis: int, name: str, position: int, needs: Mapping[str, int]
    ) -> None:
        with self._connect() as db:
            analyses.arrange_analysis(db, analysis, name, position, needs)

    def remove_analysis(self, analysis: int) -> None:
        with self._connect() as db:
            analyses.remove_analysis(db, analysis)

    def open_analysis(self, analysis: int) -> None:
        with self._connect() as db:
            analyses.open_analysis(db, analysis)

    def find_result(self, analysis: int, part: str, hash: str) -> bytes | None:
        with self._connect() as db:
            return analyses.find_result(db, analysis, part, hash)

    def keep_result(self, analysis: int, part: str, hash: str, computed: Computed) -> None:
        with self._connect() as db:
            analyses.keep_result(db, analysis, part, hash, computed)

    def find_drawing(self, study: UUID, key: str) -> bytes | None:
        with self._connect() as db:
            return analyses.find_drawing(db, study, key)

    def figure_settings(self, study: UUID, view: str) -> Mapping[str, Any] | None:
        with self._connect() as db:
            return analyses.figure_settings(db, study, view)

    def put_figure_settings(self, study: UUID, view: str, settings: Mapping[str, Any]) -> None:
        with self._connect() as db:
            analyses.put_figure_settings(db, study, view, settings)

    def headlines(self, study: UUID) -> dict[int, Headline]:
        with self._connect() as db:
            return analyses.headlines(db, study)

    def add_export(self, study: UUID, file: NewFile, accepted: bool) -> int:
        with self._connect() as db:
            return exports.add_export(db, study, file, accepted)

    def change_reading(self, export: int, table_sha256: str, reading: PackedReading) -> None:
        with self._connect() as db:
            exports.change_reading(db, export, table_sha256, reading)

    def accept_export(self, study: UUID, export: int) -> None:
        with self._connect() as db:
            exports.accept_export(db, study, export)

    def forget_waiting_export(self, study: UUID) -> None:
        with self._connect() as db:
            db.execute(query("forget_waiting_export"), {"id": study})

    def revise(self, export: int, what: str, placed: Sequence[PlacedStep]) -> None:
        with self._connect() as db:
            steps.revise(db, export, what, placed)

    def undo(self, export: int, by: int) -> None:
        with self._connect() as db:
            steps.undo(db, export, by)

    def record(self, study: UUID, decision: NewDecision) -> int:
        with self._connect() as db:
            return studies.record(db, study, decision)

    def mark_withdrawn(self, study: UUID, decision: int) -> None:
        with self._connect() as db:
            one(db, "withdraw_decision", id=study, decision=decision)
