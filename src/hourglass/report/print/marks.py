"""How each kind of mark is printed."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from matplotlib.axes import Axes

from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.marks import (
    AnyMark,
    Area,
    Bars,
    Histogram,
    Inset,
    Line,
    Points,
    Region,
    Rule,
)
from hourglass.analysis.shared.figure.tones import Preset, colour, dash, shade
from hourglass.core.arrays import FloatArray
from hourglass.report.print.fonts import font

GHOST = 0.25
FILL = {"faint": 0.14, "full": 0.75}
GLYPHS = {"tick": "|", "dot": "o", "disc": "o", "ring": "o", "diamond": "D", "cross": "x"}
PLAIN = {"dot": "dots", "disc": "sand", "ring": "quiet", "diamond": "sand"}
"""What glyphs of no group are drawn in, if not in ink."""
HATCH = "////"


@dataclass(frozen=True, slots=True)
class Ink:
    """What marks are drawn with: tones, the size of words in points, and the axes they lie on."""

    preset: Preset
    size: float
    across: Axis
    up: Axis

    def of(self, mark: Any) -> dict[str, Any]:
        """Colour and strength of a mark."""
        return {"color": colour(mark.tone, self.preset), "alpha": GHOST if mark.ghost else 1.0}


def draw_mark(axes: Axes, mark: AnyMark, ink: Ink, name: str) -> None:
    """Draw a mark; ``name`` becomes its id."""
    PRINTED[type(mark)](axes, mark, ink, name)


def _line(axes: Axes, mark: Line, ink: Ink, name: str) -> None:
    x, (y,) = _points(mark.x, mark.y, step=mark.step, end=mark.end)
    pattern = dash(mark.tone if mark.dash is None else mark.dash)
    style: Any = (0, pattern) if pattern else "solid"
    axes.plot(x, y, linewidth=_wide(ink), linestyle=style, gid=name, zorder=3, **ink.of(mark))


def _area(axes: Axes, mark: Area, ink: Ink, name: str) -> None:
    x, (low, high) = _points(mark.x, mark.low, mark.high, step=mark.step, end=mark.end)
    low, high = (np.clip(v, ink.up.low, ink.up.high) for v in (low, high))
    tone = colour(mark.tone, ink.preset)
    strength = FILL[mark.fill] * (GHOST if mark.ghost else 1.0)
    look: dict[str, Any] = {"facecolor": tone, "alpha": strength, "linewidth": 0}
    if mark.hatched:
        look = {
            "facecolor": "none",
            "edgecolor": tone,
            "hatch": HATCH,
            "linewidth": 0,
            "alpha": 0.5,
        }
    axes.fill_between(x, low, high, gid=name, zorder=1, **look)


def _bars(axes: Axes, mark: Bars, ink: Ink, name: str) -> None:
    run = ink.up if mark.upright else ink.across
    low, high = np.clip(mark.low, run.low, run.high), np.clip(mark.high, run.low, run.high)
    draw = axes.vlines if mark.upright else axes.hlines
    draw(mark.at, low, high, linewidth=0.8 * _wide(ink), gid=name, zorder=2, **ink.of(mark))
    for limit, edge, glyphs in ((mark.low, run.low, "v<"), (mark.high, run.high, "^>")):
        beyond = limit < edge if edge == run.low else limit > edge
        at = mark.at[beyond]
        edges = np.full(at.size, edge)
        x, y, glyph = (at, edges, glyphs[0]) if mark.upright else (edges, at, glyphs[1])
        axes.plot(x, y, glyph, markersize=0.5 * ink.size, linestyle="none", **ink.of(mark))


def _marks(axes: Axes, mark: Points, ink: Ink, name: str) -> None:
    look = ink.of(mark)
    if mark.tone < 0 and mark.glyph in PLAIN:
        look["color"] = shade(PLAIN[mark.glyph])
    size = {"tick": 0.75, "dot": 0.28, "disc": 0.5, "ring": 0.5, "diamond": 0.55, "cross": 0.45}[
        mark.glyph
    ]
    axes.plot(
        mark.x,
        mark.y,
        GLYPHS[mark.glyph],
        markersize=size * ink.size,
        markeredgewidth=0.09 * ink.size if mark.glyph in ("tick", "ring", "cross") else 0,
        markerfacecolor="none" if mark.glyph == "ring" else look["color"],
        linestyle="none",
        gid=name,
        zorder=2.5,
        **look,
    )


def _rule(axes: Axes, mark: Rule, ink: Ink, name: str) -> None:
    tone = shade("sand") if mark.dashed else shade("quiet")
    draw = axes.axvline if mark.upright else axes.axhline
    pattern: Any = (0, (5, 3)) if mark.dashed else "solid"
    draw(mark.at, color=tone, linewidth=0.6 * _wide(ink), linestyle=pattern, gid=name, zorder=1.5)


def _region(axes: Axes, mark: Region, ink: Ink, name: str) -> None:
    axes.axvspan(
        mark.low,
        mark.high,
        facecolor="none",
        edgecolor=shade("quiet"),
        hatch=HATCH,
        linewidth=0,
        alpha=0.5,
        gid=name,
        zorder=0.5,
    )


def _histogram(axes: Axes, mark: Histogram, ink: Ink, name: str) -> None:
    axes.stairs(
        mark.heights,
        mark.edges,
        fill=True,
        linewidth=0,
        gid=name,
        zorder=1,
        **_fainter(ink.of(mark)),
    )


def _fainter(look: dict[str, Any]) -> dict[str, Any]:
    return {**look, "alpha": 0.55 * look["alpha"]}


def _inset(axes: Axes, mark: Inset, ink: Ink, name: str) -> None:
    anchors = {"start": "left", "middle": "center", "end": "right"}
    axes.text(
        mark.x,
        mark.y,
        mark.label,
        fontproperties=font(ink.size),
        ha=anchors[mark.anchor],
        gid=name,
        zorder=4,
        **ink.of(mark),
    )


PRINTED: dict[type, Callable[[Axes, Any, Ink, str], None]] = {
    Line: _line,
    Area: _area,
    Bars: _bars,
    Points: _marks,
    Rule: _rule,
    Region: _region,
    Histogram: _histogram,
    Inset: _inset,
}


def _points(
    x: FloatArray, *values: FloatArray, step: bool, end: float | None
) -> tuple[FloatArray, list[FloatArray]]:
    """The corners of a line, as far as it is defined; a step line is carried on to its end."""
    if step and end is not None:
        until = int(np.searchsorted(x, end, side="right"))
        x, values = x[:until], tuple(value[:until] for value in values)
    gap = np.zeros(x.size, dtype=bool)
    for value in values:
        gap |= ~np.isfinite(value)
    defined = int(np.argmax(gap)) if gap.any() else x.size
    if not step:
        return x[:defined], [value[:defined] for value in values]
    last = x[defined : defined + 1]
    if defined and last.size == 0 and end is not None:
        last = np.array([max(end, x[defined - 1])])
    corners = np.repeat(np.concatenate([x[:defined], last]), 2)[1:]
    if last.size:
        corners = corners[:-1]
    made = [np.repeat(value[:defined], 2) for value in values]
    return corners, [value if last.size else value[:-1] for value in made]


def _wide(ink: Ink) -> float:
    return 0.14 * ink.size
