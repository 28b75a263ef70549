"""Steps that give a row what stands elsewhere: in the row above, or in another column."""

from dataclasses import replace
from typing import Literal

import numpy as np
from pydantic import Field

from hourglass.cohort.steps.step import BrokenStepError, Done, StepBase, new_name
from hourglass.cohort.table import Table, TextColumn, text_column


class FillDown(StepBase):
    """Give each blank cell of a column what the last filled cell above it holds."""

    kind: Literal["fill_down"] = "fill_down"
    column: str

    def named(self) -> str:
        return f"Fill {self.column} down from the row above"

    def on(self, table: Table) -> Done:
        column = table.column(self.column)
        gone = column.missing
        last = np.maximum.accumulate(np.where(gone, -1, np.arange(table.size)))
        if not gone.any():
            raise BrokenStepError(f"{column.name} has no blank cell")
        filled = gone & (last >= 0)
        made = replace(
            column.take(np.where(last < 0, np.arange(table.size), last)),
            as_written=column.as_written,
        )
        left = int((gone & ~filled).sum())
        note = f"{left} at the top have nothing above them and stay blank" if left else ""
        return Done(table.with_column(made), int(filled.sum()), note=note)


class FirstKnown(StepBase):
    """Make a column of the first of several columns that holds something, row by row."""

    kind: Literal["first_known"] = "first_known"
    columns: tuple[str, ...] = Field(min_length=1, max_length=10)
    into: str = Field(min_length=1, max_length=300)

    def named(self) -> str:
        return f"{self.into}: the first of {', '.join(self.columns)} that holds something"

    def on(self, table: Table) -> Done:
        into = new_name(table, self.into, "")
        texts: list[str | None] = [None] * table.size
        for name in self.columns:
            column = table.column(name)
            for k in np.flatnonzero(~column.missing):
                if texts[k] is None:
                    texts[k] = column.cell(int(k))
        made: TextColumn = text_column(into, texts)
        levels = len(made.levels)
        return Done(
            table.with_column(made),
            int((~made.missing).sum()),
            made=f"{levels} {'level' if levels == 1 else 'levels'}",
        )
