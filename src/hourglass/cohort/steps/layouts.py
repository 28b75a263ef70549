"""Steps that turn other layouts into rows that each are followed from a start to an end."""

from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from hourglass.cohort.steps.step import (
    BrokenStepError,
    Done,
    RowsLeftOut,
    StepBase,
    date_column,
    keys_of,
    new_name,
    text_column_of,
)
from hourglass.cohort.table import Column, DateColumn, NumberColumn, Table, TextColumn, text_column
from hourglass.cohort.words import grouped


class StackGroups(StepBase):
    """One time column with a status column for each group: a row for each status that is there.

    A row without any status stays, without a group: how it ended is for a person to decide.
    """

    kind: Literal["stack_groups"] = "stack_groups"
    groups: dict[str, str] = Field(min_length=1, max_length=60)
    """The status columns, each with the name of its group."""

    def named(self) -> str:
        return f"Stack {', '.join(self.groups)} into one status with a group"

    def on(self, table: Table) -> Done:
        statuses = [table.column(name) for name in self.groups]
        kinds = {c.kind for c in statuses}
        if len(kinds) > 1:
            raise BrokenStepError("the status columns hold different kinds of values")
        named_ends(self.groups)
        free_names(table, {"status", "group"} - set(self.groups))
        held = np.column_stack([~c.missing for c in statuses])
        without = ~held.any(axis=1)
        group, rows = np.nonzero(np.vstack([held.T, without]))
        there = np.concatenate([~c.missing for c in statuses])
        kept = [c.take(rows) for c in table.columns if c.name not in self.groups]
        levels = tuple(dict.fromkeys(self.groups.values()))
        place = np.array([*(levels.index(g) for g in self.groups.values()), -1], dtype=np.int32)
        made = [
            *kept,
            joined_cells("status", statuses, there, int(without.sum())),
            TextColumn(name="group", codes=place[group], levels=levels),
        ]
        several = int((held.sum(axis=1) > 1).sum())
        notes = [
            f"{grouped(several)} rows hold several statuses: each makes a row" if several else "",
            f"{grouped(int(without.sum()))} rows hold no status: they have no group"
            if without.any()
            else "",
        ]
        now = renumbered(made)
        return Done(
            table=now,
            made=f"{grouped(now.size)} rows",
            note="; ".join(filter(None, notes)),
            other_layout=True,
        )


class GatherRecords(StepBase):
    """A log of dated records: one row for each subject, with the first date of each kind.

    Besides those there are "first seen" and "last seen", the earliest and latest of all.
    """

    kind: Literal["gather_records"] = "gather_records"
    subject: str
    date: str
    record: str

    def named(self) -> str:
        return f"Gather {self.record} by {self.subject}, each with its first {self.date}"

    def on(self, table: Table) -> Done:
        date = date_column(table, self.date)
        kind = text_column_of(table, self.record)
        key = keys_of(table, [self.subject])
        known = np.flatnonzero(key >= 0)
        if known.size == 0:
            raise BrokenStepError("no row has a subject")
        subjects, place_of = np.unique(key[known], return_inverse=True)
        size = subjects.size
        sources = np.full(size, table.size, dtype=np.int64)
        np.minimum.at(sources, place_of, known)
        fixed, varying = _constant_columns(table, key, {self.subject, self.date, self.record})
        columns: list[Column] = [table.column(self.subject).take(sources)]
        columns += [_first_value(table.column(name), known, place_of, size) for name in fixed]
        taken = {c.name for c in columns}
        dated = ~date.missing[known]
        order = np.argsort(date.values[known[dated]], kind="stable")
        rows, place = known[dated][order], place_of[dated][order]
        for name, again in (("first seen", slice(None, None, -1)), ("last seen", slice(None))):
            columns.append(
                _dates_at(_free_name(name, taken), date, rows[again], place[again], size)
            )
        for code, level in enumerate(kind.levels):
            of = kind.codes[rows] == code
            if of.any():
                name = _free_name(f"first {level.strip()}", taken)
                columns.append(_dates_at(name, date, rows[of][::-1], place[of][::-1], size))
        in_file_order = np.argsort(sources, kind="stable")
        made = renumbered([c.take(in_file_order) for c in columns])
        undated = ~np.isin(place_of, place_of[dated])
        nobody, no_date = table.size - known.size, int((~dated & ~undated).sum())
        left_out = [
            RowsLeftOut(f"{self.subject} is blank, so they belong to nobody", nobody),
            RowsLeftOut(f"{self.date} is blank; their subjects have other rows", no_date),
        ]
        notes = [
            f"{grouped(np.unique(place_of[undated]).size)} subjects have no date at all"
            if undated.any()
            else "",
            f"columns that vary within a subject are left out: {', '.join(varying)}"
            if varying
            else "",
        ]
        return Done(
            table=made,
            made=f"{grouped(size)} rows",
            note="; ".join(filter(None, notes)),
            other_layout=True,
            left_out=tuple(left for left in left_out if left.rows),
        )


class FirstBySubject(StepBase):
    """The first of each subject's dates, beside every row of the subject."""

    kind: Literal["first_by_subject"] = "first_by_subject"
    subject: str
    column: str
    into: str = Field(min_length=1, max_length=300)

    def named(self) -> str:
        return f"{self.into}: the first {self.column} of each {self.subject}"

    def on(self, table: Table) -> Done:
        dates = date_column(table, self.column)
        key = keys_of(table, [self.subject])
        there = np.flatnonzero((key >= 0) & ~dates.missing)
        first = np.full(key.max(initial=-1) + 2, np.datetime64("NaT"), dtype=dates.values.dtype)
        order = there[np.argsort(dates.values[there], kind="stable")][::-1]
        first[key[order]] = dates.values[order]
        made = DateColumn(name=new_name(table, self.into, ""), values=first[key])
        return Done(table=table.with_column(made), made="1 column")


def _dates_at(
    name: str, date: DateColumn, rows: NDArray[np.int64], place: NDArray[np.int64], size: int
) -> DateColumn:
    """(size,) the dates of the rows at their places; the last of several at one place stays."""
    found = np.full(size, np.datetime64("NaT"), dtype=date.values.dtype)
    found[place] = date.values[rows]
    return DateColumn(name=name, values=found)


def _free_name(name: str, taken: set[str]) -> str:
    while name in taken:
        name = f"{name} (record)"
    taken.add(name)
    return name


def _first_value(
    column: Column, rows: NDArray[np.int64], place: NDArray[np.int64], size: int
) -> Column:
    """(size,) the one value that each subject's rows hold, missing where none of them does."""
    source = np.full(size, -1, dtype=np.int64)
    source[place] = rows
    held = ~column.missing[rows]
    source[place[held]] = rows[held]
    return column.take(source)


def _constant_columns(
    table: Table, key: NDArray[np.int64], besides: set[str]
) -> tuple[list[str], list[str]]:
    """Columns that hold one value for each subject, and those that vary within one."""
    constant: list[str] = []
    varying: list[str] = []
    for column in table.columns:
        if column.name in besides:
            continue
        own = keys_of(table, [column.name])
        pairs = np.unique(np.column_stack([key, own])[(key >= 0) & (own >= 0)], axis=0)
        one_each = np.unique(pairs[:, 0]).size == pairs.shape[0]
        (constant if one_each else varying).append(column.name)
    return constant, varying


def joined_cells(name: str, columns: list[Column], there: NDArray[np.bool_], blank: int) -> Column:
    """The cells that are there, column after column, and then so many blank ones."""
    first = columns[0]
    if isinstance(first, TextColumn):
        texts = [c.cell(k) for c in columns for k in range(c.missing.size)]
        kept: list[str | None] = [t for t, keep in zip(texts, there, strict=True) if keep]
        return text_column(name, [*kept, *[None] * blank])
    values = np.concatenate([c.values for c in columns if not isinstance(c, TextColumn)])[there]
    if isinstance(first, NumberColumn):
        return NumberColumn(
            name=name,
            values=np.concatenate([values, np.full(blank, np.nan)]),
            decimals=first.decimals,
        )
    nothing = np.full(blank, np.datetime64("NaT"), dtype=values.dtype)
    return DateColumn(name=name, values=np.concatenate([values, nothing]))


def named_ends(names: dict[str, str]) -> None:
    """Refuse columns whose meaning nobody has stated.

    Raises:
        BrokenStepError
    """
    blank = [column for column, name in names.items() if not name.strip()]
    if blank:
        raise BrokenStepError(f"give the meaning of {blank[0] or 'the first column'}")


def free_names(table: Table, names: set[str]) -> None:
    """Refuse to make columns of names that are there.

    Raises:
        BrokenStepError
    """
    there = [name for name in sorted(names) if table.has(name)]
    if there:
        raise BrokenStepError(
            f"there is a column called “{there[0]}” already: rename it in the file"
        )


def renumbered(columns: list[Column]) -> Table:
    """Rows of another layout, numbered from 1."""
    size = columns[0].missing.size
    return Table(tuple(columns), np.arange(1, size + 1))
