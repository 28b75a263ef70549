"""What every step is: data that names itself and can be carried out on a table."""

from abc import abstractmethod
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from hourglass.cohort.table import Column, DateColumn, NumberColumn, Table, TextColumn
from hourglass.cohort.words import grouped
from hourglass.core.errors import HourglassError


class BrokenStepError(HourglassError):
    """A step that cannot be applied to the table as it is; the message gives the reason."""


@dataclass(frozen=True, slots=True)
class RowsLeftOut:
    """Rows that a change of layout has no place for, and why."""

    why: str
    rows: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Done:
    """A table after a step, and what the step did to it.

    Attributes:
        made: in words, what was made (levels, a column).
        note: what one should know.
        other_layout: whether the rows are other rows than before, numbered anew.
        left_out: rows that are not in the other layout, by reason; in any other step those that
            are no longer there are what the step set aside.
    """

    table: Table
    cells_changed: int = 0
    made: str = ""
    note: str = ""
    other_layout: bool = False
    left_out: tuple[RowsLeftOut, ...] = ()


RowNumber = Annotated[int, Field(ge=0, lt=2**63)]
"""A row's number in the file, as the arrays of a table can hold it."""


class StepBase(BaseModel):
    """A step. Its fields are what is kept, exported and edited."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    version: Literal[1] = 1

    @abstractmethod
    def named(self) -> str:
        """The step in words."""

    @abstractmethod
    def on(self, table: Table) -> Done:
        """Carry it out.

        Raises:
            BrokenStepError: when it does not fit the table.
            NoSuchColumnError: when it names a column that is not there.
        """


def number_column(table: Table, name: str) -> NumberColumn:
    """A column that must hold numbers."""
    column = table.column(name)
    if not isinstance(column, NumberColumn):
        raise BrokenStepError(f"{name} does not hold numbers")
    return column


def text_column_of(table: Table, name: str) -> TextColumn:
    """A column that must hold text."""
    column = table.column(name)
    if not isinstance(column, TextColumn):
        raise BrokenStepError(f"{name} has no levels")
    return column


def date_column(table: Table, name: str) -> DateColumn:
    """A column that must hold dates."""
    column = table.column(name)
    if not isinstance(column, DateColumn):
        raise BrokenStepError(f"{name} does not hold dates")
    return column


def keys_of(table: Table, names: Sequence[str]) -> NDArray[np.int64]:
    """(n,) a number for each distinct combination of values; −1 where one of them is missing."""
    if not names:
        raise BrokenStepError("name at least one column that distinguishes rows")
    key = np.zeros(table.size, dtype=np.int64)
    gone = np.zeros(table.size, dtype=bool)
    for name in names:
        column = table.column(name)
        codes = _codes(column)
        gone |= codes < 0
        key = _ranked(key * (codes.max(initial=0) + 2) + codes + 1)
    return np.where(gone, -1, key)


def _ranked(values: NDArray[np.int64]) -> NDArray[np.int64]:
    """(n,) the rank of each whole number ≥ 0 among the distinct ones; no sort where they lie close."""
    most = int(values.max(initial=0))
    if most > 4 * values.size:
        return np.unique(values, return_inverse=True)[1]
    there = np.zeros(most + 1, dtype=bool)
    there[values] = True
    return (np.cumsum(there) - 1)[values]


def along(column: NumberColumn | DateColumn) -> NDArray[np.float64]:
    """(n,) the numbers, or the microseconds of the dates, in whose order the rows of a column stand."""
    return column.values if isinstance(column, NumberColumn) else column.microseconds


def _codes(column: Column) -> NDArray[np.int64]:
    if isinstance(column, TextColumn):
        return column.codes.astype(np.int64)
    codes = np.unique(along(column), return_inverse=True)[1].astype(np.int64)
    codes[column.missing] = -1
    return codes


def new_name(table: Table, name: str, old: str) -> str:
    """The name for a new column, blank for "in place of the old one"; never another column's."""
    name = name.strip() or old
    if name != old and table.has(name):
        raise BrokenStepError(f"there is a column called “{name}” already: choose another name")
    return name


def lost_cells(column: TextColumn | NumberColumn, gone: NDArray[np.bool_]) -> str:
    """What to note of cells that held something and hold nothing now; blank where there are none."""
    lost = np.flatnonzero(gone & ~column.missing)
    if lost.size == 0:
        return ""
    shown = ", ".join(dict.fromkeys(column.cell(int(k)) for k in lost[:200]))[:80]
    return f"{grouped(lost.size)} cells cannot be read so and are missing now: {shown}"
