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
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.apply import NOTHING_MADE, Made, Step, StepEffect, apply_steps
from hourglass.cohort.steps.broken import broken_blocks
from hourglass.cohort.table import NoSuchColumnError, Table
from hourglass.study.code import code_of
from hourglass.study.hashes import hash_of
from hourglass.study.recent import Recent
from hourglass.study.repository import BlobStore
from hourglass.study.study import Study
from hourglass.study.turns import LONG_ROWS, Turn

log = structlog.get_logger("hourglass")
MAKES_TABLES = ("hourglass.cohort.parquet", "hourglass.cohort.steps.apply")
MAKES_COHORTS = (*MAKES_TABLES, "hourglass.cohort.steps.broken", "hourglass.cohort.followup")
"""The modules that a table after its steps, and a cohort, are made by."""
NO_FILE = Blocker("This study has no file yet: choose one in Prepare.", None)
_tables: Recent[Table] = Recent("tables")
_applied: Recent[tuple[Table, tuple[StepEffect, ...]]] = Recent("tables after steps")
_row_times: Recent[RowTimes | None] = Recent("times of rows")
_cohorts: Recent[Cohort | tuple[Blocker, ...]] = Recent("cohorts")


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
        return hash_of(code_of(*MAKES_COHORTS), self.table_sha256, self._stated_steps, stated)

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
        if self.table_sha256 is None:
            return (NO_FILE,)
        return _cohorts.get(self.hash, self._form)

    def _apply(self) -> tuple[Table, tuple[StepEffect, ...]]:
        made = NOTHING_MADE if self.formulas is None else self.formulas(self)
        table, effects = apply_steps(self.table(), self.steps, made)
        for effect in effects:
            if effect.fault:
                log.error("a step could not be carried out", step=effect.name, fault=effect.fault)
        return table, effects

    def _form(self) -> Cohort | tuple[Blocker, ...]:
        after, effects = self.applied()
        broken = broken_blocks(effects)
        if broken:
            return tuple(broken)
        try:
            return form_cohort(after, self.follow_up)
        except NoSuchColumnError as error:
            return (Blocker(f"The statement is broken: {error}.", None),)


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
        formulas=formulas,
    )
