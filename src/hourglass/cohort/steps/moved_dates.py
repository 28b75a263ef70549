"""Dates that were moved on their way here: by a century, or from midnight by a time zone."""

from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from hourglass.cohort.steps.step import BrokenStepError, Done, StepBase, date_column
from hourglass.cohort.table import Dates, Table, in_whole_units

CENTURY = 1_200
"""Months."""


class CenturyEarlier(StepBase):
    """Take the dates of a column that lie after another one for dates of the century before."""

    kind: Literal["century_earlier"] = "century_earlier"
    column: str
    after: str

    def named(self) -> str:
        return f"Read {self.column} a century earlier where it lies after {self.after}"

    def on(self, table: Table) -> Done:
        column, other = date_column(table, self.column), date_column(table, self.after)
        with np.errstate(invalid="ignore"):
            hit = column.microseconds > other.microseconds
        if not hit.any():
            raise BrokenStepError(f"no date of {column.name} lies after {other.name}")
        values = column.values.astype("datetime64[us]")
        values[hit] = a_century_before(values[hit])
        return Done(
            table=table.with_column(replace(column, values=in_whole_units(values))),
            cells_changed=int(hit.sum()),
        )


class WholeDays(StepBase):
    """Take times that are midnights of another time zone for the days that begin there."""

    kind: Literal["whole_days"] = "whole_days"
    column: str
    ahead: int = Field(ge=-12, le=14)
    """How many hours the place is ahead of the times as they are."""

    def named(self) -> str:
        way = "ahead" if self.ahead >= 0 else "behind"
        return f"Take {self.column} for days of a place {abs(self.ahead)} hours {way}"

    def on(self, table: Table) -> Done:
        column = date_column(table, self.column)
        moved = column.values.astype("datetime64[us]") + np.timedelta64(self.ahead, "h")
        days = moved.astype("datetime64[D]")
        return Done(
            table=table.with_column(replace(column, values=days)),
            cells_changed=int((~column.missing).sum()),
        )


def a_century_before(dates: Dates) -> Dates:
    """The same days and months a hundred years earlier; 29 February is the 28th where there was none."""
    months = dates.astype("datetime64[M]")
    into = dates - months.astype("datetime64[us]")
    earlier = months - np.timedelta64(CENTURY, "M")
    longest = (earlier + 1).astype("datetime64[us]") - np.timedelta64(1, "D")
    found: NDArray[np.datetime64] = np.minimum(earlier.astype("datetime64[us]") + into, longest)
    return found
