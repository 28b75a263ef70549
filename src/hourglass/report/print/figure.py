"""A figure on paper: the same description that the screen draws, with the points that 0.05 mm can show."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from matplotlib.axes import Axes
from matplotlib.backends.backend_agg import FigureCanvasAgg
from matplotlib.figure import Figure as Paper

from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.description import Figure, Panel
from hourglass.analysis.shared.figure.drawing import Window, drawn
from hourglass.analysis.shared.figure.figure_settings import GroupStyle, arranged, styled
from hourglass.analysis.shared.figure.marks import Area
from hourglass.analysis.shared.figure.ticks import Tick
from hourglass.analysis.shared.figure.tones import TONES, colour, shade
from hourglass.cohort.words import cut
from hourglass.report.print.chosen import chosen_tracks, worded
from hourglass.report.print.fonts import font, width, wrapped
from hourglass.report.print.layout import (
    LABEL_LETTERS,
    LABEL_LINES,
    LINE,
    OWN_AXIS,
    POINTS_PER_MM,
    Layout,
    Placed,
    apart,
    column_widths,
    end_value,
    fitting_ticks,
    layout,
    named_lines,
)
from hourglass.report.print.marks import Ink, draw_mark
from hourglass.report.print.settings import PrintSettings

FINEST = 0.05
"""Millimetres: points nearer than this are not distinguished."""
POINTS_PER_INCH = 72
LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
NARROWEST = 40.0
"""Millimetres that a figure is wide at least."""
PANEL_GAP = 0.03
MIDDLE = 0.33
"""How far the baseline lies under the middle of capitals and figures, in sizes of the font."""


@dataclass(frozen=True, slots=True)
class Printable:
    """A figure with how it is to be printed, and how its groups are drawn."""

    figure: Figure
    settings: PrintSettings
    group_styles: Sequence[GroupStyle] = ()


def paper_of(figures: Sequence[Printable], dpi: int, across: int = 1) -> Paper:
    """Figures laid out and drawn, with letters where there are several.

    Args:
        across: how many stand in a row: in the width of the first of all, as high as the tallest.
    """
    lettered = figures if len(figures) == 1 else [_lettered(f, k) for k, f in enumerate(figures)]
    if across > 1:
        share = max(figures[0].settings.width / across, NARROWEST)
        lettered = [_sized(one, width=share) for one in lettered]
    placed = [_placed(one) for one in lettered]
    if across > 1:
        tallest = max(places.height for _, places in placed) / POINTS_PER_MM
        lettered = [_sized(one, height=tallest) for one in lettered]
        placed = [_placed(one) for one in lettered]
    rows = [placed[k : k + across] for k in range(0, len(placed), across)]
    width = max(sum(places.width for _, places in row) for row in rows)
    heights = [max(places.height for _, places in row) for row in rows]
    height = sum(heights)
    paper = Paper(
        figsize=(width / POINTS_PER_INCH, height / POINTS_PER_INCH), dpi=dpi, facecolor="white"
    )
    FigureCanvasAgg(paper)
    for k, (one, (drawing, places)) in enumerate(zip(lettered, placed, strict=True)):
        row, place = divmod(k, across)
        above = sum(heights[:row])
        left = sum(before.width for _, before in rows[row][:place])
        prefix = "" if len(figures) == 1 else f"{LETTERS[k]}-"
        sheet = Sheet(width, height, above, left, prefix)
        _Page(paper, sheet, drawing, one.settings, places).draw()
    return paper


def _sized(one: Printable, **millimetres: float) -> Printable:
    return replace(one, settings=one.settings.model_copy(update=millimetres))


def _lettered(one: Printable, place: int) -> Printable:
    title = f"{LETTERS[place]}   {one.settings.title}".rstrip()
    return replace(one, settings=one.settings.model_copy(update={"title": title}))


def _placed(one: Printable) -> tuple[Figure, Layout]:
    """The figure drawn with the points that 0.05 mm can show, and where its parts stand."""
    settings = one.settings
    figure = arranged(one.figure, settings.arrangement)
    fresh = worded(styled(figure, one.group_styles, settings.view), settings)
    low = fresh.low if settings.low is None else max(settings.low, fresh.low)
    high = fresh.high if settings.high is None else min(settings.high, fresh.high)
    shown = chosen_tracks(fresh, settings)
    window = Window(
        low,
        high if high > low else low + 1,
        int(settings.width / FINEST),
        frozenset(track.id for track in shown),
    )
    made = drawn(fresh, window, whole=True)
    tracks = [track for t in shown for track in [made.track(t.id)] if track is not None]
    return made, layout(made, tracks, settings)


@dataclass(frozen=True, slots=True)
class Sheet:
    """The paper in points, how far down and to the right a figure begins, and what its ids begin with."""

    width: float
    height: float
    above: float
    left: float
    prefix: str


class _Page:
    """A figure being drawn on its part of the paper."""

    def __init__(
        self, paper: Paper, sheet: Sheet, figure: Figure, settings: PrintSettings, places: Layout
    ) -> None:
        self.paper, self.sheet = paper, sheet
        self.figure, self.settings, self.places = figure, settings, places
        self.size = places.size
        self.ticks = fitting_ticks(
            figure.across, places.right - places.left, self.size, upright=False
        )

    def draw(self) -> None:
        """Draw everything."""
        places = self.places
        for k, line in enumerate(places.title):
            y = (k + 0.9) * LINE * 1.2 * self.size
            self._write(0, y, line, size=1.2 * self.size, weight=600)
        for placed in places.tracks:
            self._title(placed)
            if placed.track.counts:
                self._counts(placed)
            elif placed.track.panels:
                self._panels(placed)
            else:
                self._strip(placed)
        if any(placed.track.across is None for placed in places.tracks):
            self._axis(self.figure.across, places.axis_top)
        for k, line in enumerate(reversed(places.caption)):
            y = places.height - (k + 0.7) * LINE * self.size
            self._write(0, y, line, tone=shade("quiet"))

    def _write(
        self,
        x: float,
        y: float,
        words: str,
        *,
        size: float | None = None,
        weight: int = 400,
        tone: str | None = None,
        anchor: str = "left",
    ) -> None:
        """Words at a place of the paper; ``y`` is their middle."""
        self.paper.text(
            (self.sheet.left + x) / self.sheet.width,
            1 - (self.sheet.above + y + MIDDLE * (size or self.size)) / self.sheet.height,
            words,
            fontproperties=font(size or self.size, weight),
            color=tone or colour(-1),
            ha=anchor,
            va="baseline",
            parse_math=False,
        )

    def _axes(
        self, left: float, right: float, top: float, high: float, up: Axis, across: Axis
    ) -> Axes:
        sheet = self.sheet
        axes = self.paper.add_axes(
            (
                (sheet.left + left) / sheet.width,
                1 - (sheet.above + top + high) / sheet.height,
                (right - left) / sheet.width,
                high / sheet.height,
            )
        )
        axes.set_xscale("log" if across.logarithmic else "linear")
        axes.set_yscale("log" if up.logarithmic else "linear")
        axes.set_xlim(across.low, across.high)
        axes.set_ylim((up.high, up.low) if up.form == "category" else (up.low, up.high))
        axes.set_axis_off()
        return axes

    def _title(self, placed: Placed) -> None:
        track = placed.track
        y = placed.top - (1.0 if not track.columns else 2.4) * self.size
        shape = "" if track.verdict is None else f"{TONES['verdicts'][track.verdict]} "
        self._write(0, y, track.title, weight=600)
        beside = " · ".join(
            word for word in (track.subtitle, f"{shape}{track.verdict_words}".strip()) if word
        )
        if beside:
            from_left = width(track.title, self.size, 600) + 0.8 * self.size
            self._write(from_left, y, beside, tone=shade("quiet"))

    def _strip(self, placed: Placed) -> None:
        track, places = placed.track, self.places
        if track.axis is None:
            return
        across = track.across or self.figure.across
        if track.across is not None:
            placed = replace(placed, height=placed.height - OWN_AXIS * self.size)
            self._axis(track.across, placed.top + placed.height)
        elif placed is not places.tracks[-1]:
            self._axis_line(across, placed.top + placed.height)
        axes = self._axes(places.left, places.right, placed.top, placed.height, track.axis, across)
        self._grid(axes, placed, track.axis)
        ink = Ink(self.settings.preset, self.size, across, track.axis)
        for k, mark in enumerate(track.marks):
            draw_mark(axes, mark, ink, f"{self.sheet.prefix}{track.id}-{k}")
        self._end_labels(placed, track.axis)
        self._worded(placed, track.axis)
        self._columns(placed, track.axis)

    def _panels(self, placed: Placed) -> None:
        track, places = placed.track, self.places
        if track.axis is None:
            return
        count = max(track.abreast, len(track.panels))
        gap = PANEL_GAP * (places.right - places.left)
        each = (places.right - places.left - gap * (count - 1)) / count
        ink = Ink(self.settings.preset, self.size, self.figure.across, track.axis)
        for k, panel in enumerate(track.panels):
            left = places.left + k * (each + gap)
            axes = self._axes(
                left, left + each, placed.top, placed.height, track.axis, self.figure.across
            )
            self._grid(axes, placed, track.axis, labels=k == 0)
            self._panel_words(panel, left, each, placed)
            for m, mark in enumerate(panel.marks):
                draw_mark(axes, mark, ink, f"{self.sheet.prefix}{track.id}-{k}-{m}")

    def _panel_words(self, panel: Panel, left: float, each: float, placed: Placed) -> None:
        tone = self._colour(panel.tone)
        letters = max(int(each / (0.55 * self.size)), 4)
        middle = left + each / 2
        self._write(
            middle,
            placed.top + 0.7 * self.size,
            cut(panel.title, letters),
            tone=tone,
            weight=600,
            anchor="center",
        )
        ticks = fitting_ticks(self.figure.across, each, self.size, upright=False)
        for tick in ticks:
            x = left + each * self._share(tick.at, self.figure.across)
            self._write(
                x, placed.top + placed.height + 0.8 * self.size, tick.label, anchor="center"
            )

    def _grid(self, axes: Axes, placed: Placed, up: Axis, *, labels: bool = True) -> None:
        if up.form == "category":
            across = placed.track.across or self.figure.across
            for tick in fitting_ticks(
                across, self.places.right - self.places.left, self.size, upright=False
            ):
                axes.axvline(tick.at, color=shade("hairline"), linewidth=0.5, zorder=0)
            return
        for tick in fitting_ticks(up, placed.height, self.size, upright=True):
            axes.axhline(tick.at, color=shade("hairline"), linewidth=0.5, zorder=0)
            if labels:
                y = placed.top + placed.height * (1 - self._share(tick.at, up))
                self._write(
                    self.places.left - 0.5 * self.size,
                    y,
                    tick.label,
                    tone=shade("quiet"),
                    anchor="right",
                )

    def _colour(self, tone: int) -> str:
        return colour(tone, self.settings.preset)

    @staticmethod
    def _share(at: float, axis: Axis) -> float:
        """Where a place lies along an axis, from 0 to 1."""
        if axis.logarithmic:
            return math.log(at / axis.low) / math.log(axis.high / axis.low)
        return (at - axis.low) / (axis.high - axis.low)

    def _end_labels(self, placed: Placed, up: Axis) -> None:
        lines = [line for line in named_lines(placed.track) if end_value(line) is not None]
        if not lines:
            return
        words = [wrapped(line.label, LABEL_LETTERS, LABEL_LINES) for line in lines]
        heights = [LINE * self.size * len(one) for one in words]
        if sum(heights) > placed.height:  # a line each where two have no room
            words = [[cut(line.label, LABEL_LETTERS)] for line in lines]
            heights = [LINE * self.size] * len(lines)
        bottom = placed.top + placed.height
        wanted = [
            bottom - placed.height * min(max(self._share(end_value(line) or 0.0, up), 0), 1)
            for line in lines
        ]
        middles = apart(wanted, heights, placed.top, bottom)
        for line, text, middle in zip(lines, words, middles, strict=True):
            first = middle - LINE * self.size * (len(text) - 1) / 2
            for k, one in enumerate(text):
                self._write(
                    self.places.label_left,
                    first + k * LINE * self.size,
                    one,
                    tone=self._colour(line.tone),
                    weight=600,
                )

    def _worded(self, placed: Placed, up: Axis) -> None:
        """What an area is, stated where it is seen: at the upper right of the strip."""
        shaded = [mark for mark in placed.track.marks if isinstance(mark, Area) and mark.caption]
        for k, area in enumerate(shaded):
            self._write(
                self.places.right - 0.4 * self.size,
                placed.top + (0.8 + k * LINE) * self.size,
                f"Shaded: {area.caption}",
                tone=self._colour(area.tone) if area.fill == "full" else shade("quiet"),
                size=0.92 * self.size,
                anchor="right",
            )

    def _columns(self, placed: Placed, up: Axis) -> None:
        """Cells beside the categories, under their heads."""
        track, places = placed.track, self.places
        for side, begin in (("left", 0.0), ("right", places.right + self.size)):
            x = begin
            columns = [column for column in track.columns if column.side == side]
            for column, wide in zip(columns, column_widths(track, side, self.size), strict=True):
                self._write(x, placed.top - 0.9 * self.size, column.head, tone=shade("quiet"))
                for k, cell in enumerate(column.cells):
                    if cell is not None:
                        y = placed.top + placed.height * self._share(k, up)
                        self._write(x, y, cell.text, weight=600 if cell.strong else 400)
                x += wide

    def _counts(self, placed: Placed) -> None:
        track, places = placed.track, self.places
        for k, row in enumerate(track.counts):
            y = placed.top + (k + 0.5) * LINE * 1.15 * self.size
            tone = self._colour(row.tone)
            at = {float(t): n for t, n in zip(row.time, row.number, strict=True)}
            for tick in self.ticks:
                share = self._share(tick.at, self.figure.across)
                x = places.left + (places.right - places.left) * share
                self._write(x, y, formatting.grouped(int(at[tick.at])), tone=tone, anchor="center")
            if len(track.counts) > 1:
                self._write(
                    places.label_left, y, cut(row.label, LABEL_LETTERS), tone=tone, weight=600
                )

    def _axis(self, across: Axis, top: float) -> None:
        """A horizontal axis: its line, its ticks and what it measures."""
        places = self.places
        for tick in self._axis_line(across, top):
            x = places.left + (places.right - places.left) * self._share(tick.at, across)
            self._write(x, top + 1.2 * self.size, tick.label, anchor="center")
        middle = (places.left + places.right) / 2
        self._write(
            middle, top + 2.6 * self.size, across.label, tone=shade("quiet"), anchor="center"
        )

    def _axis_line(self, across: Axis, top: float) -> list[Tick]:
        """The line of a horizontal axis with its ticks; gives them."""
        places = self.places
        ticks = fitting_ticks(across, places.right - places.left, self.size, upright=False)
        axes = self._axes(
            places.left,
            places.right,
            top,
            0.4 * self.size,
            Axis(low=0, high=1, form="number"),
            across,
        )
        axes.plot([across.low, across.high], [1, 1], color=colour(-1), linewidth=0.7, clip_on=False)
        for tick in ticks:
            axes.plot([tick.at, tick.at], [0, 1], color=colour(-1), linewidth=0.7, clip_on=False)
        return ticks
