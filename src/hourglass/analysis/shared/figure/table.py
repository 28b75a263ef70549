"""The tables behind a figure: every value it draws, at full precision."""

import math
import re
from collections.abc import Callable, Collection, Iterator
from dataclasses import dataclass

import numpy as np

from hourglass.analysis.shared.cell import Raw
from hourglass.analysis.shared.figure.description import Figure, Track
from hourglass.analysis.shared.figure.marks import (
    AnyMark,
    Area,
    Bars,
    CountRow,
    Histogram,
    Line,
    Points,
)
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.core.arrays import FloatArray

MAX_ROWS = 500
NOISE = 1e-13
"""Share of a column's largest value below which a value is a rounding error of 0."""
LARGEST_WHOLE = 1e15
Column = Callable[[slice], FloatArray]
"""A column's values in some rows."""


@dataclass(frozen=True, slots=True)
class FigureTable:
    """A table of ``length`` rows: heads for reading and keys for other programs, a column each."""

    title: str
    heads: tuple[str, ...]
    keys: tuple[str, ...]
    columns: tuple[Column, ...]
    length: int

    def rows(self, first: int, most: int) -> list[list[Raw]]:
        """Some rows, None where there is no value."""
        part = slice(first, min(first + most, self.length))
        made = [[_exact(v) for v in column(part).tolist()] for column in self.columns]
        return [list(row) for row in zip(*made, strict=True)]


class FigureTablePage(FrozenModel):
    """Some rows of one of a figure's tables, numbers with all their digits; ``titles`` are those of all."""

    titles: list[str]
    heads: list[str]
    first: int
    total: int
    rows: list[list[str]]


def page_of(tables: list[FigureTable], which: int, first: int, most: int) -> FigureTablePage:
    """A page of a table."""
    table = tables[which]
    return FigureTablePage(
        titles=[one.title for one in tables],
        heads=list(table.heads),
        first=first,
        total=table.length,
        rows=[
            ["" if value is None else str(value) for value in row]
            for row in table.rows(first, most)
        ],
    )


def lines_of(table: FigureTable) -> Iterator[list[Raw]]:
    """The keys, then every row."""
    yield [*table.keys]
    for first in range(0, table.length, MAX_ROWS):
        yield from table.rows(first, MAX_ROWS)


def figure_tables(figure: Figure, tracks: Collection[str] | None = None) -> list[FigureTable]:
    """The tables of some tracks of a figure: what is read at every event time, then what is not.

    Never empty, unless the figure draws nothing that has values.
    """
    shown = [t for t in figure.tracks if (t.shown if tracks is None else t.id in tracks)]
    tables = _over_time(figure, shown)
    for track in shown:
        for mark in _marks(track):
            made = _own_table(figure, track, mark)
            if made is not None:
                tables.append(made)
    return tables


def _marks(track: Track) -> list[AnyMark]:
    return [*track.marks, *(mark for panel in track.panels for mark in panel.marks)]


def _over_time(figure: Figure, tracks: list[Track]) -> list[FigureTable]:
    """What holds from one time to the next, read at time 0 and at every event time."""
    if figure.time is None:
        return []
    times = np.concatenate([[0.0], figure.time.events.time])
    columns: list[tuple[str, Column]] = []
    for track in tracks:
        for mark in () if track.across else _marks(track):
            named = f"{track.title}: {mark.label}"
            if isinstance(mark, Line) and mark.step:
                columns.append((named, _stepped(times, mark.x, mark.y, mark.end)))
            elif isinstance(mark, Area) and mark.step:
                columns.append((f"{named}, lower", _stepped(times, mark.x, mark.low, mark.end)))
                columns.append((f"{named}, upper", _stepped(times, mark.x, mark.high, mark.end)))
        columns += [(f"{track.title}: {row.label}", _counted(times, row)) for row in track.counts]
    if not columns:
        return []
    return [
        _table("At the event times", [(figure.across.label, _given(times)), *columns], times.size)
    ]


def _own_table(figure: Figure, track: Track, mark: AnyMark) -> FigureTable | None:
    """The table of a mark that has places of its own."""
    along = track.across or figure.across
    title, across = f"{track.title}: {mark.label}", along.label or "value"
    match mark:
        case Line(step=True) if track.across is not None:
            columns = {f"{across}, from": mark.x, mark.label: mark.y}
        case Line(step=False):
            columns = {across: mark.x, mark.label: mark.y}
        case Area(step=False):
            columns = {across: mark.x, "lower": mark.low, "upper": mark.high}
        case Points():
            row = {"row": np.array(mark.rows, dtype=np.float64)} if mark.rows else {}
            columns = {**row, across: mark.x, track.title: mark.y}
        case Bars():
            columns = {track.title: mark.at, "lower": mark.low, "upper": mark.high}
        case Histogram():
            columns = {"from": mark.edges[:-1], "to": mark.edges[1:], "height": mark.heights}
        case _:
            return None
    length = next(iter(columns.values())).size
    return _table(title, [(head, _given(values)) for head, values in columns.items()], length)


def _table(title: str, columns: list[tuple[str, Column]], length: int) -> FigureTable:
    heads = tuple(head for head, _ in columns)
    return FigureTable(title, heads, _keys(heads), tuple(column for _, column in columns), length)


def _keys(heads: tuple[str, ...]) -> tuple[str, ...]:
    """Plain names of columns: small letters and figures, every one once."""
    found: list[str] = []
    for head in heads:
        plain = plain_name(head)
        same = sum(key == plain or key.startswith(f"{plain}_") for key in found)
        found.append(plain if plain not in found else f"{plain}_{same + 1}")
    return tuple(found)


def plain_name(words: str) -> str:
    """Words as a name that other programs can take: small letters and figures."""
    return re.sub(r"[^a-z0-9]+", "_", words.lower()).strip("_") or "column"


def _given(values: FloatArray) -> Column:
    scale = _scale(values)
    return lambda part: _settled(values[part], scale)


def _stepped(times: FloatArray, x: FloatArray, y: FloatArray, end: float | None) -> Column:
    scale, first = _scale(y), np.append(np.nan, y)

    def column(part: slice) -> FloatArray:
        at = times[part]
        found = first[np.searchsorted(x, at, side="right")]
        return _settled(found if end is None else np.where(at > end, np.nan, found), scale)

    return column


def _counted(times: FloatArray, row: CountRow) -> Column:
    return lambda part: row.at(times[part])


def _scale(values: FloatArray) -> float:
    return float(np.abs(values[np.isfinite(values)]).max(initial=0.0))


def _settled(values: FloatArray, scale: float) -> FloatArray:
    """Set values to 0 where they differ from it by no more than rounding at this scale."""
    return np.where(np.abs(values) <= NOISE * scale, 0.0, values)


def _exact(value: float) -> Raw:
    """A number with all its digits, whole ones without a point."""
    if not math.isfinite(value):
        return None
    return int(value) if value == int(value) and abs(value) < LARGEST_WHOLE else value
