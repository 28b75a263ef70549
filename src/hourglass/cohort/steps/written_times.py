"""Times written with more than a number: a plus for "still going on", a colon, or two ends in a cell."""

import re
from collections.abc import Callable
from typing import Literal

import numpy as np
from pydantic import Field

from hourglass.cohort.steps.step import (
    BrokenStepError,
    Done,
    StepBase,
    lost_cells,
    new_name,
    text_column_of,
)
from hourglass.cohort.table import NumberColumn, Table, TextColumn, decimals_in

MARKED = re.compile(r"^\s*([>≥]=?)?\s*([+]?\d+(?:\.\d+)?)\s*([+*])?\s*$")
"""A number, and the mark before or after it."""
COLONS = re.compile(r"^\s*(\d+):([0-5]?\d)(?::([0-5]?\d))?\s*$")
TWO_ENDS = re.compile(
    r"^\s*[(\[]?\s*(\d+(?:\.\d+)?)\s*(?:-|–|—|;|,| to )\s*(\d+(?:\.\d+)?)\s*[)\]]?\s*$"
)
Marked = Literal["censored", "event"]
EVENT: Marked = "event"
CENSORED: Marked = "censored"


class TakeMarkApart(StepBase):
    """Read times such as "127+" as a number, and the mark as how they ended."""

    kind: Literal["take_mark_apart"] = "take_mark_apart"
    column: str
    marked: Marked = CENSORED
    into: str = Field(default="", max_length=300)
    """The name of the column of how each ended."""

    def named(self) -> str:
        return f"Take the marks of {self.column} for {self.marked}"

    def on(self, table: Table) -> Done:
        column = text_column_of(table, self.column)
        into = new_name(table, self.into, f"{column.name}, how it ended")
        if table.has(into):
            raise BrokenStepError(f"there is a column called “{into}” already: choose another name")
        found = [MARKED.match(level) for level in column.levels]
        if not any(one and (one[1] or one[3]) for one in found):
            raise BrokenStepError(f"no cell of {column.name} holds a number with a mark")
        values = [np.nan if one is None else float(one[2]) for one in found]
        other = EVENT if self.marked == CENSORED else CENSORED
        words = sorted((EVENT, CENSORED))
        ended = [
            -1 if one is None else words.index(self.marked if one[1] or one[3] else other)
            for one in found
        ]
        made = _number(column, column.name, values, column.unit)
        table = table.with_column(made)
        codes = np.array([*ended, -1], dtype=np.int32)[column.codes]
        table = table.with_column(TextColumn(name=into, codes=codes, levels=tuple(words)))
        return Done(
            table=table,
            cells_changed=int((codes >= 0).sum()),
            made=into,
            note=lost_cells(column, made.missing),
        )


class ReadColons(StepBase):
    """Read times such as "127:45" as numbers."""

    kind: Literal["read_colons"] = "read_colons"
    column: str
    first: Literal["hours", "minutes"] = "hours"
    """What stands before the first colon, and the unit of the numbers."""

    def named(self) -> str:
        return f"Read {self.column} as {self.first} before the colon"

    def on(self, table: Table) -> Done:
        column = text_column_of(table, self.column)
        values = [self._value(COLONS.match(level)) for level in column.levels]
        if not np.isfinite(values).any():
            raise BrokenStepError(f"no cell of {column.name} holds a time with a colon")
        made = _number(column, column.name, values, self.first, decimals=4)
        return Done(
            table=table.with_column(made),
            cells_changed=int((~made.missing).sum()),
            made=f"in {self.first}",
            note=lost_cells(column, made.missing),
        )

    def _value(self, found: re.Match[str] | None) -> float:
        if found is None:
            return np.nan
        return (int(found[1]) * 3600 + int(found[2]) * 60 + int(found[3] or 0)) / 3600


class TakeEndsApart(StepBase):
    """Read cells such as "0-120" as two numbers, each in a column of its own."""

    kind: Literal["take_ends_apart"] = "take_ends_apart"
    column: str
    keep: Literal["both", "first", "second"] = "both"

    def named(self) -> str:
        what = {"both": "both numbers", "first": "the first number", "second": "the second number"}
        return f"Take {what[self.keep]} of {self.column}"

    def on(self, table: Table) -> Done:
        column = text_column_of(table, self.column)
        found = [TWO_ENDS.match(level) for level in column.levels]
        if not any(found):
            raise BrokenStepError(f"no cell of {column.name} holds two numbers")
        kept: tuple[tuple[int, str], ...] = ((1, "start"), (2, "stop"))
        if self.keep != "both":
            kept = (kept[0 if self.keep == "first" else 1],)
        for group, word in kept:
            name = f"{column.name}, {word}"
            if table.has(name):
                raise BrokenStepError(f"there is a column called “{name}” already")
            values = [np.nan if one is None else float(one[group]) for one in found]
            made = _number(column, name, values, column.unit)
            table = table.with_column(made)
        return Done(
            table=table,
            cells_changed=int((~column.missing).sum()),
            made=" and ".join(f"{column.name}, {word}" for _, word in kept),
            note=lost_cells(column, made.missing),
        )


def marked(level: str) -> bool:
    """Whether a text is a number with a mark."""
    found = MARKED.match(level)
    return found is not None and bool(found[1] or found[3])


def plain_or_marked(level: str) -> bool:
    """Whether a text is a number, with or without a mark."""
    return MARKED.match(level) is not None


def with_colon(level: str) -> bool:
    """Whether a text is a time with a colon."""
    return COLONS.match(level) is not None


def two_ends(level: str) -> bool:
    """Whether a text is two numbers, the second no smaller."""
    found = TWO_ENDS.match(level)
    return found is not None and float(found[1]) <= float(found[2])


Fits = Callable[[str], bool]


def _number(
    column: TextColumn, name: str, values: list[float], unit: str, decimals: int | None = None
) -> NumberColumn:
    spread = np.array([*values, np.nan])[column.codes]
    if decimals is None:
        decimals = decimals_in(spread)
    return NumberColumn(name=name, values=spread, decimals=decimals, label=column.label, unit=unit)
