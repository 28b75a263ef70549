"""Steps that turn other layouts into rows that each are followed from a start to an end."""

from typing import Literal

import numpy as np
from pydantic import Field

from hourglass.cohort.steps.step import (
    BrokenStepError,
    Done,
    StepBase,
    date_column,
    keys_of,
    new_name,
    number_column,
    text_column_of,
)
from hourglass.cohort.table import Column, DateColumn, NumberColumn, Table, TextColumn, text_column


class SpreadTallies(StepBase):
    """One row for each time with tallies of events and censorings: a row for each kind of end.

    The rows made have a column of ends ("ended": event, censored) and one of counts.
    """

    kind: Literal["spread_tallies"] = "spread_tallies"
    tallies: dict[str, str] = Field(min_length=1, max_length=20)
    """The columns of tallies, each with the name of the end it tallies."""

    def named(self) -> str:
        pairs = ", ".join(f"{column} as {end}" for column, end in self.tallies.items())
        return f"Spread the tallies: {pairs}"

    def on(self, table: Table) -> Done:
        taken = [number_column(table, name) for name in self.tallies]
        _named(self.tallies)
        _free(table, {"ended", "how many"} - set(self.tallies))
        names = list(self.tallies.values())
        size, kinds = table.size, len(taken)
        count = np.column_stack([c.values for c in taken]).ravel()
        end = np.tile(np.arange(kinds, dtype=np.int32), size)
        rows = np.repeat(np.arange(size), kinds)
        there = ~(count == 0)
        levels = tuple(dict.fromkeys(names))
        place = np.array([levels.index(name) for name in names], dtype=np.int32)
        columns = [c.take(rows[there]) for c in table.columns if c.name not in self.tallies]
        made: list[Column] = [
            *columns,
            TextColumn("ended", place[end[there]], levels),
            NumberColumn("how many", count[there]),
        ]
        return Done(_renumbered(made), made=f"{int(there.sum()):,} rows")


class StackGroups(StepBase):
    """One time column with a status column for each group: a row for each status that is there."""

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
        _named(self.groups)
        _free(table, {"status", "group"} - set(self.groups))
        size = table.size
        rows = np.tile(np.arange(size), len(statuses))
        group = np.repeat(np.arange(len(statuses), dtype=np.int32), size)
        there = ~np.concatenate([c.missing for c in statuses])
        kept = [c.take(rows[there]) for c in table.columns if c.name not in self.groups]
        levels = tuple(dict.fromkeys(self.groups.values()))
        place = np.array([levels.index(g) for g in self.groups.values()], dtype=np.int32)
        made = [
            *kept,
            _joined("status", statuses, there),
            TextColumn("group", place[group[there]], levels),
        ]
        return Done(_renumbered(made), made=f"{int(there.sum()):,} rows")


class GatherHappenings(StepBase):
    """A log of dated happenings: one row for each subject, with the first date of each kind.

    Besides those there are "first seen" and "last seen", the earliest and latest of all.
    """

    kind: Literal["gather_happenings"] = "gather_happenings"
    subject: str
    date: str
    happening: str

    def named(self) -> str:
        return f"Gather {self.happening} by {self.subject}, each with its first {self.date}"

    def on(self, table: Table) -> Done:
        date = date_column(table, self.date)
        kind = text_column_of(table, self.happening)
        key = keys_of(table, [self.subject])
        usable = np.flatnonzero((key >= 0) & ~date.missing)
        if usable.size == 0:
            raise BrokenStepError("no row has both a subject and a date")
        order = usable[np.argsort(date.values[usable], kind="stable")]
        _, first, place = np.unique(key[order], return_index=True, return_inverse=True)
        size = first.size
        fixed = _constant_columns(table, key, {self.subject, self.date, self.happening})
        sources = np.full(size, table.size, dtype=np.int64)
        np.minimum.at(sources, place, order)
        columns: list[Column] = [table.column(self.subject).take(sources)]
        columns += [table.column(name).take(sources) for name in fixed]
        taken = {c.name for c in columns}
        extremes = (("first seen", order[::-1], place[::-1]), ("last seen", order, place))
        for name, rows, where in extremes:
            found = np.full(size, np.datetime64("NaT"), dtype=date.values.dtype)
            found[where] = date.values[rows]
            columns.append(DateColumn(name, found))
        for code, level in enumerate(kind.levels):
            of = kind.codes[order] == code
            if of.any():
                found = np.full(size, np.datetime64("NaT"), dtype=date.values.dtype)
                found[place[of][::-1]] = date.values[order[of][::-1]]
                name = f"first {level.strip()}"
                columns.append(
                    DateColumn(name if name not in taken else f"{name} (happening)", found)
                )
                taken.add(columns[-1].name)
        in_file_order = np.argsort(sources, kind="stable")
        lost = table.size - usable.size
        note = f"{lost:,} rows without a subject or a date are left out" if lost else ""
        made = _renumbered([c.take(in_file_order) for c in columns])
        return Done(made, made=f"{size:,} rows", note=note)


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
        made = DateColumn(new_name(table, self.into, ""), first[key])
        return Done(table.with_column(made), made="1 column")


def _constant_columns(table: Table, key: np.ndarray, besides: set[str]) -> list[str]:
    """Columns that hold one value for each subject."""
    found = []
    for column in table.columns:
        if column.name in besides:
            continue
        own = keys_of(table, [column.name])
        pairs = np.unique(np.column_stack([key, own])[(key >= 0) & (own >= 0)], axis=0)
        if np.unique(pairs[:, 0]).size == pairs.shape[0]:
            found.append(column.name)
    return found


def _joined(name: str, columns: list[Column], there: np.ndarray) -> Column:
    first = columns[0]
    if isinstance(first, TextColumn):
        texts = [c.cell(k) for c in columns for k in range(c.missing.size)]
        kept = [t for t, keep in zip(texts, there, strict=True) if keep]
        return text_column(name, kept)
    values = np.concatenate([c.values for c in columns if not isinstance(c, TextColumn)])[there]
    if isinstance(first, NumberColumn):
        return NumberColumn(name, values, first.decimals)
    return DateColumn(name, values)


def _named(names: dict[str, str]) -> None:
    blank = [column for column, name in names.items() if not name.strip()]
    if blank:
        raise BrokenStepError(f"say what {blank[0] or 'the first column'} stands for")


def _free(table: Table, names: set[str]) -> None:
    there = [name for name in sorted(names) if table.has(name)]
    if there:
        raise BrokenStepError(
            f"there is a column called “{there[0]}” already: rename it in the file"
        )


def _renumbered(columns: list[Column]) -> Table:
    size = columns[0].missing.size
    return Table(tuple(columns), np.arange(1, size + 1))
