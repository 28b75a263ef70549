"""Steps that say what a column of text means: numbers, or dates in a stated order."""

from typing import Literal

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
from pydantic import Field

from hourglass.cohort.reading.dates import date_cells
from hourglass.cohort.reading.numbers import to_numbers
from hourglass.cohort.steps.step import BrokenStepError, Done, StepBase, text_column_of
from hourglass.cohort.table import DAY, DateColumn, NumberColumn, Table, TextColumn, days_or_seconds

SERIALS_FROM = np.datetime64("1899-12-30", "s")
"""Day 0 of a spreadsheet's calendar, for every date from March 1900 on."""


class ReadAsNumbers(StepBase):
    """Read a text column as numbers; cells that are none become missing."""

    kind: Literal["read_as_numbers"] = "read_as_numbers"
    column: str
    decimal: Literal[".", ","] = "."
    thousands: Literal["", ",", ".", " ", "'"] = ""

    def named(self) -> str:
        mark = " with a decimal comma" if self.decimal == "," else ""
        return f"Read {self.column} as numbers{mark}"

    def on(self, table: Table) -> Done:
        column = text_column_of(table, self.column)
        if self.decimal == self.thousands:
            raise BrokenStepError("one mark cannot be both the decimal mark and the thousands mark")
        values, decimals = to_numbers(_trimmed(column), self.decimal, self.thousands)
        values = np.where(np.isfinite(values), values, np.nan)
        spread = np.append(values, np.nan)[column.codes]
        made = NumberColumn(column.name, spread, decimals, label=column.label, unit=column.unit)
        return Done(table.with_column(made), _changed(column), note=_lost(column, made.missing))


class ReadAsDates(StepBase):
    """Read a column as dates in a stated order; cells that are none become missing."""

    kind: Literal["read_as_dates"] = "read_as_dates"
    column: str
    order: Literal["day first", "month first", "year month day", "spreadsheet days"] = "day first"
    century_from: int = Field(default=1931, ge=1800, le=2100)

    def named(self) -> str:
        return f"Read {self.column} as dates, {self.order}"

    def on(self, table: Table) -> Done:
        column = table.column(self.column)
        if isinstance(column, DateColumn):
            return Done(table, note="it holds dates already")
        if isinstance(column, NumberColumn):
            seconds = self._numbers(column)
            note = _lost(column, np.isnat(seconds))
            changed = int((~column.missing).sum())
        else:
            if self.order not in ("day first", "month first"):
                raise BrokenStepError(
                    f"{column.name} holds text: say which comes first, day or month"
                )
            found = date_cells(_trimmed(column), self.order, self.century_from)
            seconds = np.append(found.seconds, np.datetime64("NaT"))[column.codes]
            note, changed = _lost(column, np.isnat(seconds)), _changed(column)
        made = DateColumn(column.name, days_or_seconds(seconds), label=column.label)
        return Done(table.with_column(made), changed, note=note)

    def _numbers(self, column: NumberColumn) -> np.ndarray:
        if self.order == "spreadsheet days":
            fits = (column.values >= 61) & (column.values < 2_958_466)
            seconds = np.round(np.where(fits, column.values, 0) * DAY).astype("timedelta64[s]")
            return np.where(fits, SERIALS_FROM + seconds, np.datetime64("NaT"))
        if self.order != "year month day":
            raise BrokenStepError(f"{column.name} holds numbers, not written dates")
        whole = np.where((column.values >= 1e7) & (column.values < 1e8), column.values, 0).astype(
            int
        )
        text = pa.array([f"{v // 10_000:04d}-{v // 100 % 100:02d}-{v % 100:02d}" for v in whole])
        return date_cells(text).seconds


def _trimmed(column: TextColumn) -> pa.Array:
    return pc.utf8_trim_whitespace(pa.array(column.levels, pa.string()))


def _changed(column: TextColumn) -> int:
    return int((~column.missing).sum())


def _lost(column: TextColumn | NumberColumn, gone: np.ndarray) -> str:
    """Cells that held something and hold nothing now."""
    lost = np.flatnonzero(gone & ~column.missing)
    if lost.size == 0:
        return ""
    shown = ", ".join(dict.fromkeys(column.cell(int(k)) for k in lost[:200]))[:80]
    return f"{lost.size:,} cells cannot be read so and are missing now: {shown}"
