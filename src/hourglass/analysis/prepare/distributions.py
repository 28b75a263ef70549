"""How a column is distributed in groups, and how it goes with follow-up."""

import numpy as np
from numpy.typing import NDArray

from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.cohort.bins import bin_edges
from hourglass.cohort.followup import Cohort
from hourglass.cohort.steps.numbers import band_names, quantile_edges
from hourglass.cohort.table import Column, DateColumn, NumberColumn, TextColumn
from hourglass.core.arrays import evenly_placed
from hourglass.core.rates import rate

BINS = 24
POINTS = 160
MAX_BANDS = 12


class GroupDistribution(FrozenModel):
    """A group's share at or below each ``x``, and its share in each bin."""

    label: str
    known: int
    x: list[float]
    at_or_below: list[float]
    bins: list[float]


class Distribution(FrozenModel):
    """A number's distribution in every group, over common bins."""

    column: str
    label: str
    edges: list[float]
    groups: list[GroupDistribution]


class RelationBand(FrozenModel):
    """A level, or a quarter of a number: rows, events, time followed, events per unit of time."""

    label: str
    rows: int
    events: int
    time: float
    rate: float | None


class Relation(FrozenModel):
    """How often the event came at each level of a column."""

    column: str
    label: str
    bands: list[RelationBand]


def distribution(column: NumberColumn, groups: list[tuple[str, NDArray[np.int64]]]) -> Distribution:
    """Cumulative distributions and histograms over one set of bins."""
    every = np.concatenate([column.values[rows] for _, rows in groups]) if groups else column.values
    known = every[~np.isnan(every)]
    edges = bin_edges(known, BINS, column.decimals) if known.size else None
    if edges is None:
        one = float(known[0]) if known.size else 0.0
        edges = np.array([one, one + 1.0])
    found = []
    for label, rows in groups:
        values = np.sort(column.values[rows])
        values = values[~np.isnan(values)]
        if values.size == 0:
            found.append(GroupDistribution(label=label, known=0, x=[], at_or_below=[], bins=[]))
            continue
        distinct, first = np.unique(values, return_index=True)
        share = np.append(first[1:], values.size) / values.size
        pick = evenly_placed(distinct.size, POINTS)
        bins = np.histogram(values, edges)[0] / values.size
        found.append(
            GroupDistribution(
                label=label,
                known=int(values.size),
                x=[float(v) for v in distinct[pick]],
                at_or_below=[float(v) for v in share[pick]],
                bins=[float(v) for v in bins],
            )
        )
    name = column.label or column.name
    return Distribution(
        column=column.name, label=name, edges=[float(e) for e in edges], groups=found
    )


def relation(cohort: Cohort, column: Column) -> Relation | None:
    """Events per time followed, at each level or in each quarter; None for other columns."""
    data = cohort.follow_up
    labels, code = _bands(column, data.count)
    if not labels:
        return None
    entry = np.zeros(data.exit.size) if data.entry is None else np.maximum(data.entry, 0.0)
    time = (data.exit - entry) * data.count
    event = data.event() * data.count
    if column.missing.any():
        labels, code = [*labels, "missing"], np.where(column.missing, len(labels), code)
    here = np.where(code < 0, len(labels), code)
    rows, events, followed = (
        np.bincount(here, weights=each, minlength=len(labels) + 1)
        for each in (data.count, event, time)
    )
    bands = [
        RelationBand(
            label=label,
            rows=int(rows[k]),
            events=int(events[k]),
            time=float(followed[k]),
            rate=rate(int(events[k]), float(followed[k])).value,
        )
        for k, label in enumerate(labels)
    ]
    return Relation(column=column.name, label=column.label or column.name, bands=bands)


def _bands(column: Column, count: NDArray[np.int64]) -> tuple[list[str], NDArray[np.int64]]:
    if isinstance(column, TextColumn):
        there = [
            k for k, n in enumerate(np.bincount(column.codes[column.codes >= 0], minlength=1)) if n
        ]
        if not 2 <= len(there) <= MAX_BANDS:
            return [], np.zeros(0, dtype=np.int64)
        place = np.full(len(column.levels) + 1, -1)
        place[there] = np.arange(len(there))
        return [column.levels[k] for k in there], place[column.codes]
    if isinstance(column, DateColumn):
        return [], np.zeros(0, dtype=np.int64)
    known = np.repeat(column.values, count)
    known = known[~np.isnan(known)]
    if known.size == 0:
        return [], np.zeros(0, dtype=np.int64)
    edges = quantile_edges(known, [0.25, 0.5, 0.75])
    if edges.size == 0:
        return [], np.zeros(0, dtype=np.int64)
    labels = list(band_names([f"{e:.6g}" for e in edges]))
    return labels, np.searchsorted(edges, column.values, side="right").astype(np.int64)
