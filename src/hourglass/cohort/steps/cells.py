"""Steps that write into cells."""

from collections.abc import Collection
from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from hourglass.cohort.steps.step import BrokenStepError, Done, RowNumber, StepBase
from hourglass.cohort.table import (
    Column,
    DateColumn,
    NumberColumn,
    Table,
    TextColumn,
    in_whole_units,
    is_missing_word,
)


class SwapCells(StepBase):
    """Exchange the cells of two date columns in some rows."""

    kind: Literal["swap_cells"] = "swap_cells"
    rows: tuple[RowNumber, ...]
    columns: tuple[str, ...] = Field(min_length=2, max_length=2)

    def named(self) -> str:
        return f"Swap {self.columns[0]} and {self.columns[1]}"

    def on(self, table: Table) -> Done:
        a, b = (table.column(name) for name in self.columns)
        rows = table.positions(self.rows)
        if not (isinstance(a, DateColumn) and isinstance(b, DateColumn)):
            raise BrokenStepError(f"{a.name} and {b.name} are not both dates and cannot be swapped")
        first, second = a.values.astype("datetime64[us]"), b.values.astype("datetime64[us]")
        first[rows], second[rows] = second[rows], first[rows]
        swapped = table
        for column, values in ((a, first), (b, second)):
            swapped = swapped.with_column(replace(column, values=in_whole_units(values)))
        return Done(table=swapped, cells_changed=2 * rows.size)


class CorrectCell(StepBase):
    """Write a new value into one cell; blank text makes it missing."""

    kind: Literal["correct_cell"] = "correct_cell"
    row: RowNumber
    column: str
    value: str = Field(max_length=1000)

    def named(self) -> str:
        return f"Row {self.row}, {self.column}: {self.value.strip() or 'missing'}"

    def on(self, table: Table) -> Done:
        rows = table.positions([self.row])
        column = table.column(self.column)
        note = "" if rows.size else "the row is not there any more"
        return Done(
            table=table.with_column(written(column, rows, self.value)),
            cells_changed=int(rows.size),
            note=note,
        )


class FillMissing(StepBase):
    """Write a value where a column has none."""

    kind: Literal["fill_missing"] = "fill_missing"
    column: str
    by: Literal["value", "median", "most frequent"] = "value"
    value: str = Field(default="", max_length=1000)

    def named(self) -> str:
        what = f"“{self.value}”" if self.by == "value" else f"the {self.by}"
        return f"Fill missing {self.column} with {what}"

    def on(self, table: Table) -> Done:
        column = table.column(self.column)
        gone = np.flatnonzero(column.missing)
        known = np.flatnonzero(~column.missing)
        if self.by == "value":
            if is_missing_word(self.value):
                raise BrokenStepError("give the value that missing cells are filled with")
            return Done(
                table=table.with_column(written(column, gone, self.value)),
                cells_changed=int(gone.size),
            )
        if known.size == 0:
            raise BrokenStepError(f"{column.name} holds no value to take one from")
        if self.by == "median":
            if not isinstance(column, NumberColumn):
                raise BrokenStepError(f"{column.name} has no median: it does not hold numbers")
            text = repr(float(np.median(column.values[known])))
        else:
            data = column.codes if isinstance(column, TextColumn) else column.values
            _, first, count = np.unique(data[known], return_index=True, return_counts=True)
            text = column.cell(int(known[first[count.argmax()]]))
        shown = f"{float(text):g}" if self.by == "median" else text
        note = f"the {self.by} is {shown}; filled cells make the data look surer than they are"
        return Done(
            table=table.with_column(written(column, gone, text)),
            cells_changed=int(gone.size),
            note=note,
        )


class MarkMissing(StepBase):
    """Take certain values of a column for "nothing there"."""

    kind: Literal["mark_missing"] = "mark_missing"
    column: str
    values: tuple[str, ...] = Field(min_length=1, max_length=50)

    def named(self) -> str:
        return f"Take {', '.join(self.values)} in {self.column} for missing"

    def on(self, table: Table) -> Done:
        column = table.column(self.column)
        if isinstance(column, TextColumn):
            hit = np.array([*(level in self.values for level in column.levels), False])[
                column.codes
            ]
            changed: Column = without_levels(
                replace(column, codes=np.where(hit, -1, column.codes)), self.values
            )
        elif isinstance(column, NumberColumn):
            try:
                wanted = [float(v) for v in self.values]
            except ValueError:
                raise BrokenStepError(
                    f"{column.name} holds numbers; the values are not all numbers"
                ) from None
            hit = np.isin(column.values, wanted)
            changed = replace(column, values=np.where(hit, np.nan, column.values))
        else:
            try:
                days = np.array(self.values, dtype="datetime64[D]")
            except ValueError:
                raise BrokenStepError(
                    f"{column.name} holds dates; write them as 2021-04-30"
                ) from None
            hit = np.isin(column.values.astype("datetime64[D]"), days)
            changed = replace(column, values=np.where(hit, np.datetime64("NaT"), column.values))
        return Done(table=table.with_column(changed), cells_changed=int(hit.sum()))


def without_levels(column: TextColumn, levels: Collection[str]) -> TextColumn:
    """The column without levels that no row has."""
    kept = [k for k, level in enumerate(column.levels) if level not in levels]
    place = np.full(len(column.levels) + 1, -1, dtype=np.int32)
    place[kept] = np.arange(len(kept), dtype=np.int32)
    return replace(column, codes=place[column.codes], levels=tuple(column.levels[k] for k in kept))


class GiveBack(StepBase):
    """Take words that were read as missing for values of the column after all."""

    kind: Literal["give_back"] = "give_back"
    column: str
    words: tuple[str, ...] = Field(min_length=1, max_length=50)

    def named(self) -> str:
        return f"Take {', '.join(f'“{word}”' for word in self.words)} in {self.column} for a value"

    def on(self, table: Table) -> Done:
        column = table.column(self.column)
        changed: Column = column
        hit = np.zeros(table.size, dtype=bool)
        for word in self.words:
            rows = np.flatnonzero(column.missing & holds_word(column, word))
            hit[rows] = True
            changed = with_text(changed, rows, word)
        return Done(table=table.with_column(changed), cells_changed=int(hit.sum()))


def missing_words(column: Column) -> dict[str, int]:
    """The words of a column that were read as missing, with how often each stands there."""
    written = column.as_written
    if written is None:
        return {}
    codes = written.codes[column.missing & (written.codes >= 0)]
    found = np.bincount(codes, minlength=len(written.texts))
    words: dict[str, int] = {}
    for k in map(int, np.flatnonzero(found)):
        word = str(written.texts[k].as_py()).strip()
        words[word] = words.get(word, 0) + int(found[k])
    return {word: n for word, n in words.items() if word}


def holds_word(column: Column, word: str) -> NDArray[np.bool_]:
    """(n,) True where the cell in the file is this word."""
    written = column.as_written
    if written is None:
        return np.zeros(column.missing.size, dtype=bool)
    same = np.array([*(str(t).strip() == word for t in written.texts.to_pylist()), False])
    return np.asarray(same[written.codes])


class SetAsideMissing(StepBase):
    """Leave out the rows in which any of some columns is missing."""

    kind: Literal["set_aside_missing"] = "set_aside_missing"
    columns: tuple[str, ...] = Field(min_length=1, max_length=200)

    def named(self) -> str:
        return f"Set aside rows without {' or '.join(self.columns)}"

    def on(self, table: Table) -> Done:
        gone = np.zeros(table.size, dtype=bool)
        for name in self.columns:
            gone |= table.column(name).missing
        return Done(table=table.take(np.flatnonzero(~gone)))


def written(column: Column, rows: np.ndarray, text: str) -> Column:
    """The column with a text written into some rows, a word for missing being missing."""
    return with_text(column, rows, "" if is_missing_word(text) else text)


def with_text(column: Column, rows: np.ndarray, text: str) -> Column:
    """The column with a text written into some rows, read as the column's kind; blank is missing."""
    missing = not text.strip()
    match column:
        case NumberColumn():
            try:
                number = np.nan if missing else float(text)
                if not missing and not np.isfinite(number):
                    raise ValueError
            except ValueError:
                raise BrokenStepError(f"“{text}” is not a number, as {column.name} needs") from None
            values = column.values.copy()
            values[rows] = number
            decimals = len(text.strip().partition(".")[2])
            return replace(column, values=values, decimals=max(column.decimals, min(decimals, 10)))
        case DateColumn():
            try:
                moment = np.datetime64("NaT" if missing else text.strip().replace(" ", "T"), "us")
            except ValueError:
                raise BrokenStepError(
                    f"“{text}” is not a date such as 2021-04-30, as {column.name} needs"
                ) from None
            dates = column.values.astype("datetime64[us]")
            dates[rows] = moment
            return replace(column, values=in_whole_units(dates))
        case TextColumn():
            levels = column.levels if missing or text in column.levels else (*column.levels, text)
            codes = column.codes.copy()
            codes[rows] = -1 if missing else levels.index(text)
            return replace(column, codes=codes, levels=levels)
