"""Small distributions of columns, as shown above the rows in Prepare."""

from dataclasses import dataclass

import numpy as np

from hourglass.cohort.table import Column, DateColumn, Kind, NumberColumn, Table, TextColumn

BINS = 14
MOST_LEVELS_SHOWN = 8


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
    return tuple(_profile(column) for column in table.columns)


def _profile(column: Column) -> ColumnProfile:
    missing = int(column.missing.sum())
    if isinstance(column, TextColumn):
        counts = column.counts()
        most = sorted(counts.items(), key=lambda item: -item[1])[:MOST_LEVELS_SHOWN]
        return ColumnProfile(column.name, "text", len(counts), missing, "", "", (), tuple(most))
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
