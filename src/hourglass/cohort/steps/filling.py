"""Steps that give a row what stands elsewhere: in the row above, or in another column."""

from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from hourglass.cohort.steps.step import BrokenStepError, Done, StepBase, new_name
from hourglass.cohort.table import Column, Table, TextColumn


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
        return Done(table=table.with_column(made), cells_changed=int(filled.sum()), note=note)


class FirstKnown(StepBase):
    """Make a column of the first of several columns that holds something, row by row."""

    kind: Literal["first_known"] = "first_known"
    columns: tuple[str, ...] = Field(min_length=1, max_length=10)
    into: str = Field(min_length=1, max_length=300)

    def named(self) -> str:
        return f"{self.into}: the first of {', '.join(self.columns)} that holds something"

    def on(self, table: Table) -> Done:
        into = new_name(table, self.into, "")
        codes = np.full(table.size, -1, dtype=np.int32)
        place: dict[str, int] = {}
        for name in self.columns:
            texts, of_row = _texts(table.column(name))
            places = np.array([place.setdefault(text, len(place)) for text in texts] or [0])
            blank = (codes < 0) & ~table.column(name).missing
            codes[blank] = places[of_row[blank]]
        order = sorted(text for text in place if text)
        rank = {text: k for k, text in enumerate(order)}
        moved = np.array([*(rank.get(text, -1) for text in place), -1], dtype=np.int32)
        made = TextColumn(name=into, codes=moved[codes], levels=tuple(order))
        levels = len(made.levels)
        return Done(
            table=table.with_column(made),
            cells_changed=int((~made.missing).sum()),
            made=f"{levels} {'level' if levels == 1 else 'levels'}",
        )


def _texts(column: Column) -> tuple[list[str], NDArray[np.int64]]:
    """The distinct cells of a column as texts, and (n,) which of them each row holds, where it holds any."""
    if isinstance(column, TextColumn):
        return list(column.levels), column.codes.astype(np.int64)
    _, first, of_row = np.unique(column.values, return_index=True, return_inverse=True)
    return [column.cell(int(k)) for k in first], of_row
