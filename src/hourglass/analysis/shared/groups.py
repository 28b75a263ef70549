"""Groups: the levels of a category, in the order they are shown."""

from dataclasses import dataclass

import numpy as np

from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import (
    Column,
    DateColumn,
    NumberColumn,
    Table,
    TextColumn,
    few_values,
    once_for_each,
)
from hourglass.core.arrays import IntArray

MAX_GROUPS = 12
MAX_LEVELS = 60
"""A column with more levels is a name for each row, not a category."""


@dataclass(frozen=True, slots=True)
class Groups:
    """Each row's group, the reference first; −1 where the category is missing.

    ``levels`` are the columns and values that each group is made of; none where a threshold makes it.
    ``tones`` are how they are drawn: the same for a level whichever is the reference here; blank for
    their order.
    """

    column: str
    labels: tuple[str, ...]
    code: IntArray
    levels: tuple[tuple[tuple[str, str], ...], ...] = ()
    tones: tuple[int, ...] = ()

    def tone(self, k: int) -> int:
        """The tone of a group by its place."""
        return self.tones[k] if self.tones else k

    def tone_of(self, label: str) -> int:
        """The tone of a group by its label.

        Raises:
            ValueError: when there is no such group.
        """
        return self.tone(self.labels.index(label))


def is_category(column: Column) -> bool:
    """Whether a column is a category unless stated otherwise: text, or two numbers such as 0 and 1."""
    return isinstance(column, TextColumn) or (
        isinstance(column, NumberColumn) and len(levels_of(column)) == 2
    )


def as_text(column: NumberColumn) -> TextColumn:
    """A number of few values as a category of the values as written."""
    levels = tuple(column.written(float(v)) for v in few_values(column))
    codes = _codes(column, levels).astype(np.int32)
    return TextColumn(
        name=column.name,
        codes=codes,
        levels=levels,
        label=column.label,
        unit=column.unit,
        reference=column.reference,
    )


def numbers(cohort: Cohort) -> list[str]:
    """Number columns that can be split at a threshold: neither the outcome nor the clock."""
    return [
        c.name
        for c in cohort.table.columns
        if isinstance(c, NumberColumn) and c.name not in cohort.statement.spent
    ]


def level_value(column: Column, label: str) -> str:
    """The value of a column that a level's label stands for."""
    return (
        label.removeprefix(_number_level(column, "")) if isinstance(column, NumberColumn) else label
    )


@once_for_each
def levels_of(column: Column) -> tuple[str, ...]:
    """The levels that occur, as they are shown; empty if the column is no category."""
    if isinstance(column, TextColumn):
        return tuple(column.counts())
    if isinstance(column, NumberColumn):
        distinct = few_values(column)
        if distinct.size > 1:
            return tuple(_number_level(column, column.written(float(v))) for v in distinct)
    return ()


def level_counts(cohort: Cohort, name: str) -> dict[str, int]:
    """Subjects with a row at each level, counts included."""
    column = cohort.table.column(name)
    labels = levels_of(column)
    code = _codes(column, labels)
    data = cohort.follow_up
    held = np.where(code < 0, len(labels), code)
    once = slice(None) if data.subject is None else first_of_each(data.subject, held)
    found = np.bincount(held[once], weights=data.count[once], minlength=len(labels) + 1)
    return {label: int(found[k]) for k, label in enumerate(labels)}


def first_of_each(*keys: IntArray) -> IntArray:
    """(m,) the first place of every distinct combination of whole numbers (n,) ≥ 0."""
    combined = np.zeros(keys[0].size, dtype=np.int64)
    for key in keys:
        combined = np.unique(combined * (key.max(initial=0) + 1) + key, return_inverse=True)[1]
    return np.asarray(np.unique(combined, return_index=True)[1])


def categories(cohort: Cohort) -> list[str]:
    """Columns that can form groups: neither the outcome nor the clock."""
    return [
        c.name
        for c in cohort.table.columns
        if c.name not in cohort.statement.spent and 2 <= len(levels_of(c)) <= MAX_GROUPS
    ]


def group_by(table: Table, name: str, reference: str | None) -> Groups:
    """Group rows by a column, the reference level first and the others in their order.

    ``reference`` takes the place of the column's own, which is the first in order where none is set.
    """
    column = table.column(name)
    labels = levels_of(column)
    own = None
    if not isinstance(column, DateColumn):
        own = column.reference
        if own and isinstance(column, NumberColumn):
            own = _number_level(column, own)
    usual = _first(labels, own)
    order = _first(labels, reference) if reference in labels else usual
    place = np.full(len(labels) + 1, -1, dtype=np.int64)
    place[order] = np.arange(len(labels))
    shown = tuple(labels[k] for k in order)
    return Groups(
        name,
        shown,
        place[_codes(column, labels)],
        tuple(((name, level_value(column, v)),) for v in shown),
        tuple(usual.index(k) for k in order),
    )


def _first(labels: tuple[str, ...], one: str | None) -> list[int]:
    """The places of labels, that of one of them before the others."""
    return sorted(range(len(labels)), key=lambda k: labels[k] != one)


def _codes(column: Column, labels: tuple[str, ...]) -> IntArray:
    if isinstance(column, TextColumn):
        place = np.full(len(column.levels) + 1, -1, dtype=np.int64)
        for k, level in enumerate(labels):
            place[column.levels.index(level)] = k
        return place[column.codes]
    if isinstance(column, NumberColumn) and labels:
        distinct = np.unique(column.values[~column.missing])
        code = np.searchsorted(distinct, column.values)
        return np.where(column.missing, -1, code).astype(np.int64)
    return np.full(column.values.size, -1, dtype=np.int64)


def _number_level(column: NumberColumn, value: str) -> str:
    return f"{column.name} {value}"
