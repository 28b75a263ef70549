"""Steps that make numbers, or bands of numbers."""

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from hourglass.cohort.formula.evaluate import formula_column
from hourglass.cohort.formula.tokens import MAX_FORMULA_CHARACTERS, FormulaError
from hourglass.cohort.statement import DAYS_IN, TimeUnit
from hourglass.cohort.steps.step import (
    BrokenStepError,
    Done,
    StepBase,
    date_column,
    new_name,
    number_column,
)
from hourglass.cohort.table import DAY, MICRO, Column, NumberColumn, Table, TextColumn
from hourglass.cohort.words import grouped
from hourglass.core.progress import ProgressCallback, no_progress


class SplitNumber(StepBase):
    """Split a number into bands: at stated points, at its median, or at its quantiles."""

    kind: Literal["split_number"] = "split_number"
    column: str
    by: Literal["points", "median", "quantiles"] = "points"
    points: tuple[float, ...] = Field(default=(), max_length=100)
    bands: int = Field(default=4, ge=2, le=100)
    into: str = Field(default="", max_length=300)

    def named(self) -> str:
        match self.by:
            case "points":
                where = "at " + ", ".join(f"{p:g}" for p in self.points)
            case "median":
                where = "at its median"
            case _:
                where = f"into {self.bands} bands of equal size"
        return f"Split {self.column} {where}"

    def on(self, table: Table) -> Done:
        column = number_column(table, self.column)
        name = new_name(table, self.into or f"{self.column}, split", self.column)
        known = ~column.missing
        edges = self._edges(column.values[known], column.name)
        codes = np.searchsorted(edges, column.values, side="right").astype(np.int32)
        codes[~known] = -1
        levels = band_names([column.written(float(e)) for e in edges])
        bands = TextColumn(
            name=name, codes=codes, levels=levels, label=column.label, unit=column.unit
        )
        fewer = self.by == "quantiles" and len(levels) < self.bands
        note = "equal values fall together, so there are fewer bands" if fewer else ""
        return Done(
            table=table.with_column(bands), cells_changed=0, made=f"{len(levels)} levels", note=note
        )

    def _edges(self, known: NDArray[np.float64], name: str) -> NDArray[np.float64]:
        if known.size == 0:
            raise BrokenStepError(f"{name} holds no number to split")
        if self.by == "points":
            if not self.points or not np.isfinite(self.points).all():
                raise BrokenStepError("give the points to split at")
            return np.unique(self.points)
        shares = [0.5] if self.by == "median" else [k / self.bands for k in range(1, self.bands)]
        edges = quantile_edges(known, shares)
        if edges.size == 0:
            raise BrokenStepError(f"{name} cannot be split there: its values are all on one side")
        return edges


def quantile_edges(known: NDArray[np.float64], shares: Sequence[float]) -> NDArray[np.float64]:
    """The distinct quantiles that leave values on both sides; an edge belongs to the band above."""
    edges = np.unique(np.quantile(known, shares))
    return np.asarray(edges[(edges > known.min()) & (edges <= known.max())])


def band_names(edges: list[str]) -> tuple[str, ...]:
    """Names that state on which side of an edge its own value lies."""
    inner = [f"{a} to under {b}" for a, b in pairwise(edges)]
    return (f"under {edges[0]}", *inner, f"{edges[-1]} and over")


class Transform(StepBase):
    """Rescale or transform a number."""

    kind: Literal["transform"] = "transform"
    column: str
    by: Literal["per", "log", "square root", "centre"] = "per"
    per: float = Field(default=10.0, gt=0, allow_inf_nan=False)
    into: str = Field(default="", max_length=300)

    def named(self) -> str:
        what = {
            "per": f"per {self.per:g}",
            "log": "its natural logarithm",
            "square root": "its square root",
            "centre": "its distance from the mean",
        }[self.by]
        return f"{self.column}: {what}"

    def on(self, table: Table) -> Done:
        column = number_column(table, self.column)
        default = {"per": f"{self.column} per {self.per:g}", "centre": f"{self.column}, centred"}
        name = new_name(
            table, self.into or default.get(self.by, f"{self.by} of {self.column}"), self.column
        )
        x, note = column.values, ""
        with np.errstate(invalid="ignore", divide="ignore", over="ignore"):
            match self.by:
                case "per":
                    values = x / self.per
                case "log":
                    values = np.where(x > 0, np.log(x), np.nan)
                case "square root":
                    values = np.sqrt(np.where(x >= 0, x, np.nan))
                case _:
                    if column.missing.all():
                        raise BrokenStepError(f"{column.name} holds no number")
                    mean = float(np.mean(x[~column.missing]))
                    values, note = x - mean, f"the mean is {mean:.6g}"
        values = np.where(np.isfinite(values), values, np.nan)
        lost = int((np.isnan(values) & ~column.missing).sum())
        if lost:
            note = f"{grouped(lost)} values have none and are missing now"
        made = NumberColumn(
            name=name, values=values, decimals=min(column.decimals + 3, 10), label=column.label
        )
        return Done(table=table.with_column(made), cells_changed=0, made="1 column", note=note)


class TimeBetween(StepBase):
    """A number from two dates, such as the age at the start."""

    kind: Literal["time_between"] = "time_between"
    start: str
    end: str
    unit: TimeUnit = "years"
    into: str = Field(min_length=1, max_length=300)

    def named(self) -> str:
        return f"{self.into}: {self.unit} from {self.start} to {self.end}"

    def on(self, table: Table) -> Done:
        start, end = date_column(table, self.start), date_column(table, self.end)
        values = (end.microseconds - start.microseconds) / (DAYS_IN[self.unit] * DAY * MICRO)
        made = NumberColumn(
            name=new_name(table, self.into, ""), values=values, decimals=2, unit=self.unit
        )
        with np.errstate(invalid="ignore"):
            below = int((values < 0).sum())
        note = f"{grouped(below)} are below 0: the end comes first" if below else ""
        return Done(table=table.with_column(made), cells_changed=0, made="1 column", note=note)


class NewColumn(StepBase):
    """A column by a formula."""

    kind: Literal["new_column"] = "new_column"
    name: str = Field(min_length=1, max_length=300)
    formula: str = Field(min_length=1, max_length=MAX_FORMULA_CHARACTERS)

    def named(self) -> str:
        return f"{self.name} = {self.formula}"

    def on(self, table: Table) -> Done:
        return self.with_column(table, self.column_of(table))

    @property
    def column(self) -> str:
        """What the column is called."""
        return self.name.strip()

    def column_of(self, table: Table, progress: ProgressCallback = no_progress) -> Column:
        """The column that the formula makes, which may take long.

        Raises:
            BrokenStepError: when the formula does not fit the table.
        """
        try:
            return formula_column(self.column, self.formula, table, progress)
        except FormulaError as error:
            raise BrokenStepError(str(error)) from None

    def with_column(self, table: Table, made: Column) -> Done:
        """The table with the column that the formula made."""
        if table.has(made.name):
            old = table.column(made.name)
            made = replace(made, label=old.label, unit=old.unit)
        gone = int(made.missing.sum())
        note = f"missing in {grouped(gone)} rows" if gone else ""
        return Done(table=table.with_column(made), cells_changed=0, made="1 column", note=note)
