"""Small distributions of columns, as shown above the rows in Prepare."""

import os
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np

from hourglass.cohort.table import Column, DateColumn, Kind, NumberColumn, Table, TextColumn

BINS = 14
MOST_LEVELS_SHOWN = 60
"""Levels named in full; of a column with many more only the first few."""
FEW = 8


@dataclass(frozen=True, slots=True)
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


def profile(table: Table) -> tuple[ColumnProfile, ...]:
    """Profiles of all columns, in order."""
    with ThreadPoolExecutor(os.cpu_count()) as threads:
        return tuple(threads.map(_profile, table.columns))


def _profile(column: Column) -> ColumnProfile:
    missing = int(column.missing.sum())
    if isinstance(column, TextColumn):
        found = np.bincount(column.codes[column.codes >= 0], minlength=len(column.levels))
        distinct = int(np.count_nonzero(found))
        named = MOST_LEVELS_SHOWN if distinct <= MOST_LEVELS_SHOWN else FEW
        most = np.argsort(-found, kind="stable")[:named]
        shown = tuple((column.levels[k], int(found[k])) for k in most if found[k])
        return ColumnProfile(column.name, "text", distinct, missing, "", "", (), shown)
    return _spread(column, missing)


def _spread(column: NumberColumn | DateColumn, missing: int) -> ColumnProfile:
    rows = np.flatnonzero(~column.missing)
    if rows.size == 0:
        return ColumnProfile(column.name, column.kind, 0, missing, "", "", (), ())
    values = column.values[rows].astype(np.float64)
    bins, _ = np.histogram(values, BINS)
    return ColumnProfile(
        column.name,
        column.kind,
        int(np.unique(values).size),
        missing,
        column.cell(int(rows[values.argmin()])),
        column.cell(int(rows[values.argmax()])),
        tuple(map(int, bins)),
        (),
    )
