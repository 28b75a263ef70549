"""Where things stand on the paper, in points from the upper left corner."""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.description import Figure, Track
from hourglass.analysis.shared.figure.marks import Line
from hourglass.analysis.shared.figure.ticks import Tick
from hourglass.report.print.fonts import width, wrapped
from hourglass.report.print.settings import PrintSettings

POINTS_PER_MM = 72 / 25.4
LABEL_LETTERS, LABEL_LINES = 24, 2
PANEL_TICKS = 1.5
"""The room under panels for their ticks, in sizes of the font."""
LABEL_GAP = 1.4
LINE = 1.25
"""Height of a line of words, in sizes of its font."""
ROOM, STRIP = 0.52, 0.24
"""Height of a track that takes the room, and of another, as shares of the plot's width."""
ROW, THIN_ROW = 1.7, 0.6
"""Height of a category with cells beside it, and of one without, in sizes of the font."""
OWN_AXIS = 3.6
"""Room under a strip for a horizontal axis of its own, in sizes of the font."""
LEAST_HEIGHT = 12.0
"""Of a strip, however low the figure is requested to be."""
LEAST_PLOT = 0.3
"""Share of the paper that the plot has at least, however long its labels are."""
MIN_LETTER_SHARE = 0.75
"""How small letters may become, as a share of what was requested, so that cells find room."""


@dataclass(frozen=True, slots=True)
class Placed:
    """A track with the place of its strip: its title stands above ``top``."""

    track: Track
    top: float
    height: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Layout:
    """Places of everything, in points.

    Attributes:
        width, height: of the paper.
        left, right: of the strips; ``label_left`` is where their end labels begin.
        size: of the words.
        title: lines above everything; ``caption``: lines below.
        tracks: in order; ``axis_top`` is where the horizontal axis lies.
    """

    width: float
    height: float
    left: float
    right: float
    size: float
    title: tuple[str, ...]
    caption: tuple[str, ...]
    tracks: tuple[Placed, ...]
    axis_top: float

    @property
    def label_left(self) -> float:
        """Where end labels begin."""
        return self.right + LABEL_GAP * self.size


def layout(figure: Figure, tracks: Sequence[Track], settings: PrintSettings) -> Layout:
    """Place some tracks of a figure on paper of the requested width."""
    paper = settings.width * POINTS_PER_MM
    size = _size(tracks, paper, settings.font)
    left, right = _margins(tracks, paper, size)
    plot = right - left
    title = _lines(settings.title, paper, 1.2 * size)
    caption = _lines(_caption(figure, tracks) if settings.caption else "", paper, size)
    above = LINE * 1.2 * size * len(title) + (0.5 * size if title else 0)
    shared = any(track.across is None and not track.panels for track in tracks)
    below = (3.6 * size if shared else 0.0) + (
        LINE * size * len(caption) + 1.2 * size if caption else 0.4 * size
    )
    natural = [_height(track, plot, size) for track in tracks]
    heads = [_head(track, size) for track in tracks]
    feet = [PANEL_TICKS * size if track.panels else 0.0 for track in tracks]
    if settings.height is not None:
        words = [head + foot for head, foot in zip(heads, feet, strict=True)]
        natural = _fitted(tracks, natural, words, settings.height * POINTS_PER_MM - above - below)
    y, placed = above, []
    for track, high, head, foot in zip(tracks, natural, heads, feet, strict=True):
        y += head
        placed.append(Placed(track, y, high))
        y += high + foot
    return Layout(
        width=paper,
        height=y + below,
        left=left,
        right=right,
        size=size,
        title=title,
        caption=caption,
        tracks=tuple(placed),
        axis_top=y + 0.4 * size,
    )


def _size(tracks: Sequence[Track], paper: float, size: float) -> float:
    """The size of letters at which the cells beside every track find room, down to a share of it."""
    for track in tracks:
        sides = ("left", "right") if track.columns else ()
        needed = sum(sum(column_widths(track, side, size)) + size for side in sides)
        if needed > (1 - LEAST_PLOT) * paper:
            size = max(size * (1 - LEAST_PLOT) * paper / needed, MIN_LETTER_SHARE * size)
    return size


def _caption(figure: Figure, tracks: Sequence[Track]) -> str:
    """The statement, and how to read what is printed."""
    notes = [note.rstrip(".") for note in (*(track.notes for track in tracks), figure.note) if note]
    return " ".join([figure.name, *(f"{note}." for note in notes)])


def fitting_ticks(axis: Axis, length: float, size: float, *, upright: bool) -> list[Tick]:
    """The most ticks whose labels do not touch along ``length`` points."""

    def room(label: str) -> float:
        return 3.2 * size if upright else width(label, size) + 2.4 * size

    return first_fitting(axis.ticks, room, length)


def first_fitting(
    levels: list[list[Tick]], room: Callable[[str], float], length: float
) -> list[Tick]:
    """The first list whose labels find room along a length, else the last."""
    fits = (level for level in levels if sum(room(tick.label) for tick in level) <= length)
    return next(fits, levels[-1] if levels else [])


def apart(
    wanted: Sequence[float], heights: Sequence[float], top: float, bottom: float
) -> list[float]:
    """Middles of labels of some heights, as near as can be to where they are wanted, none on another."""
    order = sorted(range(len(wanted)), key=lambda k: wanted[k])
    found, edge = [0.0] * len(wanted), top
    for k in order:
        found[k] = max(wanted[k], edge + heights[k] / 2)
        edge = found[k] + heights[k] / 2
    edge = bottom
    for k in reversed(order):
        found[k] = min(found[k], edge - heights[k] / 2)
        edge = found[k] - heights[k] / 2
    return found


def named_lines(track: Track) -> list[Line]:
    """The lines whose ends bear their names."""
    return [mark for mark in track.marks if isinstance(mark, Line) and mark.named]


def _margins(tracks: Sequence[Track], paper: float, size: float) -> tuple[float, float]:
    left, right = 2.0 * size, 1.2 * size
    for track in tracks:
        if track.axis is not None and track.axis.form != "category":
            ticks = [tick.label for level in track.axis.ticks for tick in level]
            left = max([left, *(width(label, size) + size for label in ticks)])
        labels = [line.label for line in named_lines(track)]
        if len(track.counts) > 1:
            labels += [row.label for row in track.counts]
        shown = [line for label in labels for line in wrapped(label, LABEL_LETTERS, LABEL_LINES)]
        right = max([right, *(width(line, size, 600) + (LABEL_GAP + 0.4) * size for line in shown)])
        left = max(left, sum(column_widths(track, "left", size)) + size)
        right = max(right, sum(column_widths(track, "right", size)) + size)
    over = left + right - (1 - LEAST_PLOT) * paper
    if over > 0:
        left, right = left - over * left / (left + right), right - over * right / (left + right)
    return left, paper - right


def column_widths(track: Track, side: str, size: float) -> list[float]:
    """How wide the cells beside a track are."""
    found = []
    for column in track.columns:
        if column.side == side:
            words = [cell.text for cell in column.cells if cell is not None and not cell.wordy]
            found.append(max(width(word, size, 600) for word in [column.head, *words]) + 1.5 * size)
    return found


def _head(track: Track, size: float) -> float:
    """Room above a strip for its title; counts have theirs beside the first row."""
    heads = 1.4 * size if track.columns else 0
    return 2.2 * size + heads


def _height(track: Track, plot: float, size: float) -> float:
    if track.counts:
        return LINE * 1.15 * size * len(track.counts) + 0.4 * size
    own = 0.0 if track.across is None else OWN_AXIS * size
    if track.axis is not None and track.axis.form == "category":
        return (ROW if track.columns else THIN_ROW) * size * len(track.axis.categories) + own
    if track.across is not None:
        return STRIP * plot + own
    return (ROOM if track.height == "room" else STRIP) * plot


def _fitted(
    tracks: Sequence[Track], natural: list[float], heads: list[float], whole: float
) -> list[float]:
    """Heights that fill a given whole: those of plots stretched, those of words kept."""
    stretched = [not track.counts for track in tracks]
    kept = sum(heads) + sum(h for h, s in zip(natural, stretched, strict=True) if not s)
    now = sum(h for h, s in zip(natural, stretched, strict=True) if s) or 1.0
    factor = (whole - kept) / now
    return [
        max(h * factor, LEAST_HEIGHT) if s else h for h, s in zip(natural, stretched, strict=True)
    ]


def _lines(words: str, paper: float, size: float) -> tuple[str, ...]:
    """Words broken where the paper ends."""
    if not words:
        return ()
    found = [""]
    for word in words.split():
        longer = f"{found[-1]} {word}".strip()
        if found[-1] and width(longer, size) > paper - 2 * size:
            found.append(word)
        else:
            found[-1] = longer
    return tuple(found)


def end_value(line: Line) -> float | None:
    """The last value that a line has."""
    known = [v for v in line.y.tolist() if math.isfinite(v)]
    return known[-1] if known else None
