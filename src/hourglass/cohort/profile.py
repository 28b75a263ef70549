"""Small distributions of columns, as shown above the rows in Prepare."""

import os
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from hourglass.cohort.bins import bin_edges
from hourglass.cohort.table import (
    Column,
    DateColumn,
    Kind,
    NumberColumn,
    Table,
    TextColumn,
    once_for_each,
)

BINS = 14
MAX_LEVELS_SHOWN = 60
"""Levels named in full; of a column with many more only the first few."""
MAX_FEW_VALUES = 8


@dataclass(frozen=True, slots=True, kw_only=True)
class ColumnProfile:
    """A column at a glance.

    Attributes:
        distinct: number of different values; ``missing``: rows without one.
        low, high: smallest and largest, as text ("" for text columns).
        bins: counts in equal steps from low to high (numbers and dates).
        levels: the most frequent levels with their counts (text).
    """

    name: str
    kind: Kind
    distinct: int
    missing: int
    low: str
    high: str
    bins: tuple[int, ...]
    levels: tuple[tuple[str, int], ...]


LOOK = 1_000
ROWS_WITHOUT_THREADS = 50_000
"""Below so many rows handing columns to threads costs more than it saves."""


def profile(table: Table) -> tuple[ColumnProfile, ...]:
    """Profiles of all columns, in order."""
    if table.size < ROWS_WITHOUT_THREADS:
        return tuple(map(profile_of, table.columns))
    with ThreadPoolExecutor(os.cpu_count()) as threads:
        return tuple(threads.map(profile_of, table.columns))


@once_for_each
def profile_of(column: Column) -> ColumnProfile:
    missing = int(column.missing.sum())
    if isinstance(column, TextColumn):
        found = np.bincount(column.codes[column.codes >= 0], minlength=len(column.levels))
        distinct = int(np.count_nonzero(found))
        named = MAX_LEVELS_SHOWN if distinct <= MAX_LEVELS_SHOWN else MAX_FEW_VALUES
        most = np.argsort(-found, kind="stable")[:named]
        shown = tuple((column.levels[k], int(found[k])) for k in most if found[k])
        return ColumnProfile(
            name=column.name,
            kind="text",
            distinct=distinct,
            missing=missing,
            low="",
            high="",
            bins=(),
            levels=shown,
        )
    return _spread(column, missing)


@once_for_each
def ordered_values(column: Column) -> NDArray[np.float64]:
    """The known values of a column of numbers or dates, ascending."""
    assert not isinstance(column, TextColumn)
    return np.sort(column.values[~column.missing].astype(np.float64))


@once_for_each
def all_whole(column: NumberColumn) -> bool:
    """Whether all known numbers of a column are whole; the first few settle it where they are not."""
    known = column.values[~column.missing]
    return all(bool((part == np.floor(part)).all()) for part in (known[:LOOK], known))


def _spread(column: NumberColumn | DateColumn, missing: int) -> ColumnProfile:
    values = ordered_values(column)
    if values.size == 0:
        return ColumnProfile(
            name=column.name,
            kind=column.kind,
            distinct=0,
            missing=missing,
            low="",
            high="",
            bins=(),
            levels=(),
        )
    decimals = column.decimals if isinstance(column, NumberColumn) else 0
    edges = bin_edges(values, BINS, decimals)
    inner = np.empty(0, dtype=np.int64) if edges is None else np.searchsorted(values, edges[1:-1])
    bins = np.diff(np.concatenate([[0], inner, [values.size]]))
    return ColumnProfile(
        name=column.name,
        kind=column.kind,
        distinct=1 + int(np.count_nonzero(np.diff(values))),
        missing=missing,
        low=_cell_of(column, values[0]),
        high=_cell_of(column, values[-1]),
        bins=tuple(map(int, bins)),
        levels=(),
    )


def _cell_of(column: NumberColumn | DateColumn, value: float) -> str:
    """A value as a cell shows it."""
    if isinstance(column, NumberColumn):
        return column.written(float(value))
    return replace(column, values=np.array([int(value)]).astype(column.values.dtype)).cell(0)
