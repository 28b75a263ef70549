"""Printing a figure's description as SVG: the same tracks the screen draws, in ink on paper."""

import math
from collections.abc import Callable, Iterable
from xml.sax.saxutils import escape, quoteattr

import numpy as np

from hourglass.analysis.shared import wording
from hourglass.analysis.shared.figure import Area, Figure, Line, Marks, Track
from hourglass.analysis.shared.wording import plain

Scale = Callable[[float], float]
WIDTH, LEFT, RIGHT = 760, 108, 130
HEIGHT, ROW, TITLE = 250, 18, 22
INK, PAPER_LINE, QUIET = "#1F2B33", "#DCD4C1", "#5E6B70"
TONES = ("#9A5B13", "#1F6A73", "#6E4A7E", "#5F6F2B", "#4C6076", "#7B2D34")
DASHES = ("7 3", "", "2 3", "10 3 2 3", "4 2", "1 2")


def draw(figure: Figure, tracks: Iterable[str]) -> str:
    """The named tracks of a figure as one SVG element; its name is the accessible title."""
    shown = [t for t in figure.tracks if t.id in set(tracks)]
    ticks = time_ticks(figure.end, figure.unit == "months")
    pieces, y = [], 10.0
    for track in shown:
        if track.axis is not None:
            pieces.append(_strip(figure, track, y))
            y += HEIGHT + TITLE
        else:
            pieces.append(_counts(figure, track, ticks, y))
            y += 22 + ROW * len(track.counts)
    pieces.append(_time_axis(figure, ticks, y))
    height = y + 44
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" role="img" viewBox="0 0 {WIDTH} {height:.0f}" '
        f"aria-label={quoteattr(figure.name)} font-family=\"'Source Sans 3', sans-serif\" "
        f'font-size="12"><title>{escape(figure.name)}</title>{"".join(pieces)}</svg>'
    )


def time_ticks(end: float, months: bool = False, most: int = 8) -> list[float]:
    """Round times from 0 to the end; months go by threes, sixes and twelves."""
    if end <= 0:
        return [0.0]
    by_months = next((s for s in (1, 3, 6, 12, 24, 60, 120) if months and end / s <= most), None)
    if by_months is not None:
        return [float(by_months * k) for k in range(int(end / by_months) + 1)]
    power = 10 ** math.floor(math.log10(end / most))
    steps = [m * power for m in (1, 2, 2.5, 3, 5, 6, 10, 12, 20)]
    step = next(s for s in steps if end / s <= most)
    return [step * k for k in range(int(end / step + 1e-9) + 1)]


def _x(figure: Figure, t: float) -> float:
    return LEFT + (WIDTH - LEFT - RIGHT) * t / (figure.end or 1)


def _strip(figure: Figure, track: Track, above: float) -> str:
    assert track.axis is not None
    top = above + TITLE
    low, high = track.axis.low, track.axis.high

    def y(value: float) -> float:
        return top + (HEIGHT - 16) * (1 - (value - low) / (high - low))

    pieces = [_text(4, above + 8, track.title, weight=600)]
    for share in np.linspace(low, high, 6):
        at = y(float(share))
        pieces.append(
            f'<line x1="{LEFT}" x2="{WIDTH - RIGHT}" y1="{at:.1f}" y2="{at:.1f}" '
            f'stroke="{PAPER_LINE}"/>'
        )
        pieces.append(_text(LEFT - 6, at + 4, f"{100 * share:.0f}%", anchor="end", fill=QUIET))
    pieces += [_area(figure, area, y) for area in track.areas]
    pieces += [_line(figure, line, y) for line in track.lines]
    pieces += [_marks(figure, marks, y) for marks in track.marks]
    pieces += _end_labels(figure, track.lines, y)
    return "".join(pieces)


def _steps(
    x: list[float], values: list[float | None], end: float | None
) -> list[tuple[float, float]]:
    """Corner points of a step function, up to its end or to where it is no longer defined."""
    points: list[tuple[float, float]] = []
    for k, value in enumerate(values):
        if value is None:
            break
        until = x[k + 1] if k + 1 < len(x) else (x[k] if end is None else end)
        if end is not None:
            until = min(until, end)
        points += [(x[k], value), (max(until, x[k]), value)]
    return points


def _line(figure: Figure, line: Line, y: Scale) -> str:
    path = " ".join(
        f"{'L' if k else 'M'}{_x(figure, t):.1f} {y(v):.1f}"
        for k, (t, v) in enumerate(_steps(line.x, line.y, line.end))
    )
    dash = DASHES[line.tone % len(DASHES)] if line.tone >= 0 else ""
    return (
        f'<path d="{path}" fill="none" stroke="{_colour(line.tone)}" stroke-width="1.8"'
        f"{f' stroke-dasharray={quoteattr(dash)}' if dash else ''}/>"
    )


def _area(figure: Figure, area: Area, y: Scale) -> str:
    high = _steps(area.x, area.high, area.end)
    low = _steps(area.x, area.low, area.end)
    points = [*high, *reversed(low)]
    path = " ".join(f"{_x(figure, t):.1f},{y(min(max(v, 0), 1)):.1f}" for t, v in points)
    return f'<polygon points="{path}" fill="{_colour(area.tone)}" fill-opacity="0.13"/>'


def _marks(figure: Figure, marks: Marks, y: Scale) -> str:
    path = " ".join(
        f"M{_x(figure, t):.1f} {y(v) - 4:.1f}v8"
        for t, v in zip(marks.x, marks.y, strict=True)
        if v is not None
    )
    return f'<path d="{path}" stroke="{_colour(marks.tone)}" stroke-width="0.8"/>'


def _end_labels(figure: Figure, lines: list[Line], y: Scale) -> list[str]:
    """The name of each curve at its end, moved apart where they would overlap."""
    if len(lines) < 2:
        return []
    ends = sorted(
        ((y([v for v in line.y if v is not None][-1]), line) for line in lines),
        key=lambda end: end[0],
    )
    pieces, last = [], -math.inf
    for at, line in ends:
        last = max(at, last + 15)
        pieces.append(
            _text(WIDTH - RIGHT + 6, last + 4, line.label, fill=_colour(line.tone), weight=600)
        )
    return pieces


def _counts(figure: Figure, track: Track, ticks: list[float], top: float) -> str:
    pieces = [_text(4, top + 14, track.title, weight=600)]
    for k, row in enumerate(track.counts):
        at = top + 14 + ROW * k
        for t in ticks:
            later = [n for u, n in zip(row.time, row.number, strict=True) if u >= t]
            n = later[0] if later else 0
            pieces.append(
                _text(
                    _x(figure, t),
                    at,
                    f"{wording.grouped(n)}",
                    anchor="middle",
                    fill=_colour(row.tone),
                )
            )
        if len(track.counts) > 1:
            pieces.append(_text(WIDTH - RIGHT + 6, at, row.label, fill=_colour(row.tone)))
    return "".join(pieces)


def _time_axis(figure: Figure, ticks: list[float], top: float) -> str:
    right = WIDTH - RIGHT
    pieces = [f'<line x1="{LEFT}" x2="{right}" y1="{top}" y2="{top}" stroke="{INK}"/>']
    for t in ticks:
        x = _x(figure, t)
        pieces.append(f'<line x1="{x:.1f}" x2="{x:.1f}" y1="{top}" y2="{top + 4}" stroke="{INK}"/>')
        pieces.append(_text(x, top + 17, plain(t), anchor="middle"))
    pieces.append(
        _text((LEFT + right) / 2, top + 36, figure.time_label, anchor="middle", fill=QUIET)
    )
    return "".join(pieces)


def _colour(tone: int) -> str:
    return INK if tone < 0 else TONES[tone % len(TONES)]


def _text(
    x: float, y: float, words: str, anchor: str = "start", fill: str = INK, weight: int = 400
) -> str:
    return (
        f'<text x="{x:.1f}" y="{y:.1f}" text-anchor="{anchor}" fill="{fill}" '
        f'font-weight="{weight}">{escape(words)}</text>'
    )
