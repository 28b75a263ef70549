"""Where a cohort comes from: little enough to hand to another process, which forms it anew."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, fields, replace
from functools import partial
from typing import TypeAlias

import structlog

from hourglass.analysis.prepare.row_follow_up import RowTimes, row_times
from hourglass.cohort.derive import Blocker, derive
from hourglass.cohort.followup import Cohort, form_cohort
from hourglass.cohort.parquet import from_parquet
from hourglass.cohort.records.joined import JoinedCohort, with_records
from hourglass.cohort.records.prepared import FurtherTable
from hourglass.cohort.records.statement import RecordTable
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.apply import NOTHING_MADE, Made, Step, StepEffect, apply_steps
from hourglass.cohort.steps.broken import broken_blocks
from hourglass.cohort.table import NoSuchColumnError, Table
from hourglass.cohort.words import listed
from hourglass.study.code import code_of
from hourglass.study.hashes import hash_of
from hourglass.study.recent import Recent
from hourglass.study.repository import BlobStore
from hourglass.study.study import Study, TableInUse
from hourglass.study.turns import LONG_ROWS, Turn

log = structlog.get_logger("hourglass")
MAKES_TABLES = ("hourglass.cohort.parquet", "hourglass.cohort.steps.apply")
MAKES_COHORTS = (
    *MAKES_TABLES,
    "hourglass.cohort.steps.broken",
    "hourglass.cohort.followup",
    "hourglass.cohort.records.joined",
)
"""The modules that a table after its steps, and a cohort, are made by."""
NO_FILE = Blocker("This study has no file yet: choose one in Prepare.", None)
_tables: Recent[Table] = Recent("tables")
_applied: Recent[tuple[Table, tuple[StepEffect, ...]]] = Recent("tables after steps")
_row_times: Recent[RowTimes | None] = Recent("times of rows")
_cohorts: Recent[JoinedCohort | tuple[Blocker, ...]] = Recent("cohorts")


@dataclass(frozen=True, slots=True, kw_only=True)
class SourceTable:
    """A further table: its bytes by their hash, its steps, and how it is read.

    ``table_sha256`` is None while nobody has added its file.
    """

    table_sha256: str | None
    steps: tuple[Step, ...]
    stated: RecordTable

    @property
    def hashed(self) -> list[object]:
        """All that its rows and what is made of them follow from."""
        steps = [step.model_dump(mode="json") for step in self.steps]
        return [self.table_sha256, steps, self.stated.model_dump(mode="json")]


@dataclass(frozen=True, slots=True, kw_only=True)
class Source:
    """The table, steps and follow-up statement of a study at a moment.

    What is made of them is remembered for a little by the process that made it, under their hash; ``rows``
    is how many the file has. ``formulas`` works the formulas among the steps out, elsewhere perhaps;
    without it they are worked out as they come.
    """

    blobs: BlobStore
    table_sha256: str | None
    steps: tuple[Step, ...]
    follow_up: FollowUpStatement
    rows: int = 0
    tables: tuple[SourceTable, ...] = ()
    formulas: "Formulas | None" = field(default=None, compare=False, repr=False)

    def __reduce__(self) -> tuple[object, ...]:
        # In another process, formulas are worked out there.
        alone = {
            one.name: getattr(self, one.name) for one in fields(self) if one.name != "formulas"
        }
        return partial(Source, **alone), ()

    def with_steps(self, steps: Sequence[Step]) -> "Source":
        """The same table with other steps."""
        return replace(self, steps=tuple(steps))

    @property
    def hash(self) -> str:
        """Hash of everything the cohort follows from: file, steps, follow-up statement, and code."""
        stated = self.follow_up.model_dump(mode="json")
        tables = [one.hashed for one in self.tables]
        return hash_of(
            code_of(*MAKES_COHORTS), self.table_sha256, self._stated_steps, stated, tables
        )

    @property
    def steps_hash(self) -> str:
        """Hash of the table, the steps and the code that carries them out."""
        return hash_of(code_of(*MAKES_TABLES), self.table_sha256, self._stated_steps)

    @property
    def _stated_steps(self) -> list[object]:
        return [step.model_dump(mode="json") for step in self.steps]

    def turn(self, *, long: bool = False) -> Turn:
        """The turn of work on these rows: of whoever's data they are; long where they are many."""
        return Turn(self.table_sha256 or "", long or self.rows > LONG_ROWS)

    def table(self) -> Table:
        """The table as read from the file, which there must be."""
        name = self.table_sha256
        assert name is not None
        return self._read(name)

    def _read(self, name: str) -> Table:
        return _tables.get(name, lambda: from_parquet(self.blobs.get(name)))

    def applied(self) -> tuple[Table, tuple[StepEffect, ...]]:
        """The table as the steps have left it, and what each did."""
        return _applied.get(self.steps_hash, self._apply)

    def after_steps(self) -> Table:
        """The table as the steps have left it."""
        return self.applied()[0]

    def row_times(self) -> RowTimes | None:
        """The times and ends of all rows; None while the statement has open slots."""
        return _row_times.get(
            self.hash, lambda: row_times(derive(self.after_steps(), self.follow_up), self.follow_up)
        )

    def cohort(self) -> Cohort | tuple[Blocker, ...]:
        """The cohort, or what must be decided first."""
        found = self.joined()
        return found.cohort if isinstance(found, JoinedCohort) else found

    def joined(self) -> JoinedCohort | tuple[Blocker, ...]:
        """The cohort with what became of the rows of its further tables, or what must be decided first."""
        if self.table_sha256 is None:
            return (NO_FILE,)
        return _cohorts.get(self.hash, self._form)

    def named_columns(self) -> Table:
        """The table whose columns later stages name: with those of further tables, once joined."""
        found = self.cohort() if self.tables else None
        return found.table if isinstance(found, Cohort) else self.after_steps()

    def further(self, table: SourceTable) -> tuple[Table, tuple[StepEffect, ...]]:
        """A further table as its steps have left it, and what each did."""
        name = table.table_sha256
        assert name is not None
        key = hash_of(code_of(*MAKES_TABLES), *table.hashed[:2])
        return _applied.get(key, lambda: apply_steps(self._read(name), table.steps))

    def _apply(self) -> tuple[Table, tuple[StepEffect, ...]]:
        made = NOTHING_MADE if self.formulas is None else self.formulas(self)
        table, effects = apply_steps(self.table(), self.steps, made)
        for effect in effects:
            if effect.fault:
                log.error("a step could not be carried out", step=effect.name, fault=effect.fault)
        return table, effects

    def _form(self) -> JoinedCohort | tuple[Blocker, ...]:
        after, effects = self.applied()
        broken = broken_blocks(effects)
        if broken:
            return tuple(broken)
        try:
            cohort = form_cohort(after, self.follow_up)
            if not isinstance(cohort, Cohort):
                return cohort
            return self._joined(cohort)
        except NoSuchColumnError as error:
            return (Blocker(f"The statement is broken: {error}.", None),)

    def _joined(self, cohort: Cohort) -> JoinedCohort | tuple[Blocker, ...]:
        logged = any(one.stated.outcomes for one in self.tables)
        if self.follow_up.ended == "records" and not logged:
            sentence = "State in a further table which of its records are the event."
            return (Blocker(sentence, "outcome"),)
        if not self.tables:
            return JoinedCohort(cohort, ())
        tables, broken = [], []
        for one in self.tables:
            if one.table_sha256 is None:
                made = listed([covariate.into for covariate in one.stated.covariates])
                needs = f": {made} is made from it" if made else ""
                broken.append(Blocker(f"Add the file of the table {one.stated.name}{needs}.", None))
                continue
            after, effects = self.further(one)
            broken += broken_blocks(effects)
            tables.append(FurtherTable(after, one.stated))
        if broken:
            return tuple(broken)
        read = self.table()
        known = read if read.has(self.follow_up.subject) else self.after_steps()
        return with_records(cohort, known, tables)


Formulas: TypeAlias = Callable[[Source], Mapping[int, Made]]
"""Works out the formulas among the steps of a source, by the place of their step."""


def source_of(study: Study, blobs: BlobStore, formulas: Formulas | None = None) -> Source:
    """Where a study's cohort comes from now."""
    file = study.file
    name = None if file is None else file.table_sha256
    rows = 0 if file is None else file.rows
    return Source(
        blobs=blobs,
        table_sha256=name,
        steps=study.active,
        follow_up=study.follow_up,
        rows=rows,
        tables=tuple(_table(study, one) for one in study.tables),
        formulas=formulas,
    )


def _table(study: Study, table: TableInUse) -> SourceTable:
    extract = study.extract_of(table)
    name = None if extract is None else extract.table_sha256
    return SourceTable(table_sha256=name, steps=table.steps, stated=table.stated)
