"""A figure's curves as they are shown in a list of studies: a few points of each."""

import numpy as np

from hourglass.analysis.shared.figure.description import Figure
from hourglass.analysis.shared.figure.marks import Line
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.core.arrays import evenly_placed

MAX_LINES, MAX_POINTS = 4, 40


class ThumbnailLine(FrozenModel):
    """A step line with a tone: x as shares of the axis, y as shares of the height."""

    tone: int
    x: list[float]
    y: list[float]


class Thumbnail(FrozenModel):
    """The first lines of a figure's first track."""

    lines: list[ThumbnailLine]


def thumbnail(figure: Figure | None) -> Thumbnail | None:
    """The curves of a figure over time; None where it has none."""
    if figure is None or figure.time is None or not figure.tracks or figure.high <= figure.low:
        return None
    track = figure.tracks[0]
    lines = [mark for mark in track.marks if isinstance(mark, Line) and mark.step]
    made = [one for one in (_line(line, figure) for line in lines[:MAX_LINES]) if one]
    return Thumbnail(lines=made) if made else None


def _line(line: Line, figure: Figure) -> ThumbnailLine | None:
    x, y = np.asarray(line.x, dtype=np.float64), np.asarray(line.y, dtype=np.float64)
    there = np.isfinite(x) & np.isfinite(y)
    x, y = x[there], y[there]
    if x.size == 0 or y.min() < 0 or y.max() > 1:
        return None
    pick = evenly_placed(x.size, MAX_POINTS)
    share = (x[pick] - figure.low) / (figure.high - figure.low)
    end = line.end if line.end is not None else float(x[-1])
    ends = (end - figure.low) / (figure.high - figure.low)
    return ThumbnailLine(
        tone=line.tone,
        x=[round(float(v), 4) for v in (*share, ends)],
        y=[round(float(v), 4) for v in (*y[pick], y[-1])],
    )
