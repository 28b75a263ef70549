"""A figure as it is drawn: the tracks requested, over the window requested, as a pixel can show it."""

import math
from collections.abc import Callable, Collection
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.description import Figure, Track
from hourglass.analysis.shared.figure.marks import AnyMark, Area, Bars, CountRow, Line, Points
from hourglass.analysis.shared.figure.thinning import (
    MAX_POINTS,
    POINTS_NEVER_THINNED,
    kept_of_points,
    kept_of_steps,
)
from hourglass.analysis.shared.figure.ticks import places
from hourglass.core.arrays import FloatArray

COLUMNS, ROWS = 900, 500
"""Pixels across and up that a figure is thinned for unless somebody states otherwise."""
FINENESS = 1e-5
"""Share of an axis to which the points of a thinned mark are rounded: far below a pixel."""
DIGITS = 6
"""And along a logarithmic axis, their significant digits."""
MAX_TICKS = 500
MAX_NUMBERS = 100_000
"""An answer with so many numbers weighs less than 300 kB when it is compressed."""
MIN_COLUMNS = 200


@dataclass(frozen=True, slots=True)
class Window:
    """What is drawn: from where to where, for how many pixels, which tracks, how many points of a mark."""

    low: float
    high: float
    columns: int = COLUMNS
    tracks: Collection[str] | None = None
    points: int = MAX_POINTS


def drawn(figure: Figure, window: Window | None = None, *, whole: bool = False) -> Figure:
    """The figure over a window, its axes with their ticks, its marks thinned.

    Tracks that are not requested keep their titles alone; without a window all of the axis is drawn,
    with the tracks that are shown at first. Unless ``whole``, the figure fits into one answer.
    """
    if window is None:
        window = Window(figure.low, figure.high)
    made = _drawn(figure, window)
    numbers = _weight(made)
    if (
        numbers > MAX_NUMBERS and not whole
    ):  # many groups of many times each: what fits into one answer
        share = MAX_NUMBERS / numbers
        fewer = max(int(window.columns * share), MIN_COLUMNS)
        made = _drawn(figure, replace(window, columns=fewer, points=int(MAX_POINTS * share)))
    return made


def _weight(figure: Figure) -> int:
    """How many numbers the marks hold; those of points count twice, for they compress worse."""
    marks = [m for t in figure.tracks for m in (*t.marks, *(m for p in t.panels for m in p.marks))]
    return sum(
        (2 if isinstance(mark, Points) else 1) * np.size(getattr(mark, name))
        for mark in marks
        for name in type(mark).model_fields
    )


def _drawn(figure: Figure, window: Window) -> Figure:
    across = figure.across.between(window.low, window.high).ticked()
    wanted = window.tracks
    return figure.model_copy(
        update={
            "across": across,
            "tracks": [
                _track(track, across, window)
                if (track.shown if wanted is None else track.id in wanted)
                else _left_out(track)
                for track in figure.tracks
            ],
        }
    )


def _left_out(track: Track) -> Track:
    return Track(
        id=track.id,
        title=track.title,
        axis=track.axis,
        across=track.across,
        grouped=track.grouped,
        shown=track.shown,
        drawn=False,
        height=track.height,
        parts=track.parts,
    )


def _track(track: Track, across: Axis, window: Window) -> Track:
    axis = None if track.axis is None else track.axis.ticked()
    own = None if track.across is None else track.across.ticked()
    along = own or across
    at = np.array(places(across.ticks))
    narrow = replace(window, columns=max(window.columns // (len(track.panels) or 1), 1))
    return track.model_copy(
        update={
            "axis": axis,
            "across": own,
            "marks": [thinned(mark, along, axis, window) for mark in track.drawn_of(track.marks)],
            "panels": [
                panel.model_copy(
                    update={
                        "marks": [
                            thinned(mark, along, axis, narrow)
                            for mark in track.drawn_of(panel.marks)
                        ]
                    }
                )
                for panel in track.panels
            ],
            "counts": [_at_ticks(row, at) for row in track.counts],
        }
    )


def _at_ticks(row: CountRow, at: FloatArray) -> CountRow:
    return row.model_copy(update={"time": at, "number": row.at(at)})


def thinned(mark: AnyMark, across: Axis, axis: Axis | None, window: Window) -> AnyMark:
    """A mark with the points that the window's pixels can show of it."""
    thin = THINNED.get(type(mark))
    return mark if thin is None or axis is None else thin(mark, across, axis, window)


def _line(mark: Line, across: Axis, axis: Axis, window: Window) -> Any:
    x, (y,) = _defined(mark.x, mark.y)
    kept = kept_of_steps(x, [y], across.low, across.high, window.columns)
    return _with(mark, kept, x=(x, across), y=(y, axis))


def _area(mark: Area, across: Axis, axis: Axis, window: Window) -> Any:
    x, (low, high) = _defined(mark.x, mark.low, mark.high)
    kept = kept_of_steps(x, [low, high], across.low, across.high, window.columns)
    return _with(mark, kept, x=(x, across), low=(low, axis), high=(high, axis))


def _points(mark: Points, across: Axis, axis: Axis, window: Window) -> Any:
    place: Callable[[FloatArray], FloatArray] = np.log if axis.logarithmic else np.asarray
    wide: Callable[[FloatArray], FloatArray] = np.log if across.logarithmic else np.asarray
    (left, right) = wide(np.array([across.low, across.high]))
    (low, high) = place(np.array([axis.low, axis.high]))
    x, y = wide(mark.x), place(mark.y)
    inside = int(np.sum((x >= left) & (x <= right) & (y >= low) & (y <= high)))
    most = MAX_TICKS if mark.glyph == "tick" else window.points
    kept = kept_of_points(x, y, window.columns, ROWS, (left, right, low, high), most)
    made = _with(mark, kept, x=(mark.x, across), y=(mark.y, axis))
    rows = [mark.rows[k] for k in kept] if mark.rows else []
    shown = None if inside == kept.size or mark.glyph == "tick" else inside
    return made.model_copy(update={"rows": rows, "of": shown})


def _bars(mark: Bars, across: Axis, axis: Axis, window: Window) -> Any:
    if not mark.upright:
        return mark
    kept = kept_of_steps(mark.at, [mark.low, mark.high], across.low, across.high, window.columns)
    return _with(mark, kept, at=(mark.at, across), low=(mark.low, axis), high=(mark.high, axis))


THINNED: dict[type, Callable[[Any, Axis, Axis, Window], Any]] = {
    Line: _line,
    Area: _area,
    Points: _points,
    Bars: _bars,
}
"""How marks are thinned that may have many points; others are drawn as they are."""


def _with(mark: Any, kept: np.ndarray, **arrays: tuple[FloatArray, Axis]) -> Any:
    """The mark with the points kept, rounded where some were left out."""
    whole = next(iter(arrays.values()))[0].size <= POINTS_NEVER_THINNED
    return mark.model_copy(
        update={
            name: values[kept] if whole else _rounded(values[kept], along)
            for name, (values, along) in arrays.items()
        }
    )


def _rounded(values: FloatArray, along: Axis) -> FloatArray:
    if along.logarithmic:
        return np.array([float(f"{v:.{DIGITS}g}") for v in values.tolist()])
    span = along.high - along.low or 1.0
    return np.round(values, math.ceil(-math.log10(span * FINENESS)))


def _defined(x: FloatArray, *values: FloatArray) -> tuple[FloatArray, list[FloatArray]]:
    """A line from where it is first defined, as a band is from the first event on, with the first point
    at which it is no longer."""
    gap = np.zeros(x.size, dtype=bool)
    for value in values:
        gap |= ~np.isfinite(value)
    start = int(np.argmin(gap)) if x.size else 0
    rest = gap[start:]
    end = start + int(np.argmax(rest)) + 1 if rest.any() else x.size
    return x[start:end], [value[start:end] for value in values]
