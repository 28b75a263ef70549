"""Steps that give a column of text a meaning: numbers, or dates in a stated order."""

import re
from collections.abc import Sequence
from typing import Literal, cast, get_args

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
from numpy.typing import NDArray
from pydantic import Field

from hourglass.cohort.reading.dates import Order, date_cells
from hourglass.cohort.reading.numbers import to_numbers
from hourglass.cohort.steps.file_text import file_text
from hourglass.cohort.steps.step import BrokenStepError, Done, StepBase, lost_cells
from hourglass.cohort.table import (
    DAY,
    AsWritten,
    DateColumn,
    NumberColumn,
    Table,
    TextColumn,
    in_whole_units,
)

SERIAL = re.compile(r"^\s*\d{5}(\.\d+)?\s*$")
SERIALS_FROM = np.datetime64("1899-12-30", "s")
"""Day 0 of a spreadsheet's calendar, for every date from March 1900 on."""


class ReadAsNumbers(StepBase):
    """Read a column as numbers, from the text in the file; cells that are none become missing."""

    kind: Literal["read_as_numbers"] = "read_as_numbers"
    column: str
    decimal: Literal[".", ","] = "."
    thousands: Literal["", ",", ".", " ", "'"] = ""

    def named(self) -> str:
        mark = " with a decimal comma" if self.decimal == "," else ""
        return f"Read {self.column} as numbers{mark}"

    def on(self, table: Table) -> Done:
        column = file_text(table.column(self.column))
        if self.decimal == self.thousands:
            raise BrokenStepError("one mark cannot be both the decimal mark and the thousands mark")
        values, decimals = to_numbers(_trimmed(column), self.decimal, self.thousands)
        values = np.where(np.isfinite(values), values, np.nan)
        spread = np.append(values, np.nan)[column.codes]
        made = NumberColumn(
            name=column.name,
            values=spread,
            decimals=decimals,
            label=column.label,
            unit=column.unit,
            as_written=_as_written(column),
        )
        return Done(
            table=table.with_column(made),
            cells_changed=_changed(column),
            note=lost_cells(column, made.missing),
        )


class ReadAsDates(StepBase):
    """Read a column as dates in a stated order, from the text in the file; other cells become missing."""

    kind: Literal["read_as_dates"] = "read_as_dates"
    column: str
    order: Literal[
        "day first", "month first", "year first", "year month day", "spreadsheet days"
    ] = "day first"
    century_from: int = Field(default=1931, ge=1800, le=2100)
    serials: bool = False
    """Cells that are whole numbers are days since 1900, as a spreadsheet counts them."""
    zone: str = Field(default="", pattern=r"^([+-]\d{2}:\d{2}|as written)?$")
    """The offset of cells that name no time zone; or all "as written", their zones passed over."""

    def named(self) -> str:
        zone = ""
        if self.zone:
            zone = ", times as written" if self.zone == "as written" else f", else at {self.zone}"
        days = ", numbers as a spreadsheet’s days" if self.serials else ""
        return f"Read {self.column} as dates, {self.order}{days}{zone}"

    def on(self, table: Table) -> Done:
        column = table.column(self.column)
        if isinstance(column, DateColumn):
            if column.as_written is None:
                return Done(table=table, note="the file has no other way to read these dates")
            column = file_text(column)
        if isinstance(column, NumberColumn) and self.order in get_args(Order):
            column = file_text(column)
        if isinstance(column, NumberColumn):
            instants = self._numbers(column)
            note = lost_cells(column, np.isnat(instants))
            changed = int((~column.missing).sum())
        else:
            if self.order not in get_args(Order):
                raise BrokenStepError(
                    f"{column.name} holds text: state which comes first, day or month"
                )
            zone = self.zone or "+00:00"
            order = cast(Order, self.order)
            found = date_cells(_there(column), order, self.century_from, zone)
            if found.some_zoned and not self.zone:
                raise BrokenStepError(
                    f"some cells of {column.name} name a time zone and others do not: state which zone "
                    "the others are in, or that all are read as written"
                )
            read = found.instants
            if self.serials:
                read = np.where(np.isnat(read), serial_days(column.levels), read)
            instants = np.append(read, np.datetime64("NaT"))[column.codes]
            note, changed = lost_cells(column, np.isnat(instants)), _changed(column)
        written = _as_written(column) if isinstance(column, TextColumn) else None
        made = DateColumn(
            name=column.name,
            values=in_whole_units(instants),
            label=column.label,
            as_written=written,
        )
        return Done(table=table.with_column(made), cells_changed=changed, note=note)

    def _numbers(self, column: NumberColumn) -> np.ndarray:
        if self.order == "spreadsheet days":
            return _from_serials(column.values)
        if self.order != "year month day":
            raise BrokenStepError(f"{column.name} holds numbers, not written dates")
        whole = np.where((column.values >= 1e7) & (column.values < 1e8), column.values, 0).astype(
            int
        )
        days = [f"{v // 10_000:04d}-{v // 100 % 100:02d}-{v % 100:02d}" for v in whole]
        text = pa.array(days, pa.string())
        return date_cells(text).instants


def serial_days(cells: Sequence[str]) -> NDArray[np.datetime64]:
    """The dates of cells that hold a spreadsheet’s day number; NaT for the others."""
    plain = [float(cell) if SERIAL.match(cell) else np.nan for cell in cells]
    return _from_serials(np.array(plain, dtype=np.float64))


def _from_serials(values: NDArray[np.float64]) -> NDArray[np.datetime64]:
    with np.errstate(invalid="ignore"):
        fits = (values >= 61) & (values < 2_958_466)
    seconds = np.round(np.where(fits, values, 0) * DAY).astype("timedelta64[s]")
    return np.where(fits, SERIALS_FROM + seconds, np.datetime64("NaT"))


def _trimmed(column: TextColumn) -> pa.Array:
    return pc.utf8_trim_whitespace(pa.array(column.levels, pa.string()))


def _there(column: TextColumn) -> pa.Array:
    """The trimmed levels, those that no row has any more being blank."""
    held = np.bincount(column.codes[column.codes >= 0], minlength=len(column.levels)) > 0
    return pc.if_else(pa.array(held), _trimmed(column), "")


def _as_written(column: TextColumn) -> AsWritten:
    return AsWritten(column.codes, pa.array(column.levels, pa.string()))


def _changed(column: TextColumn) -> int:
    return int((~column.missing).sum())
