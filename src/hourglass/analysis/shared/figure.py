"""A figure as a description: tracks over one time axis, which a screen or a printer can draw.

A tone is a place in the order of groups (0 the reference); −1 is ink, without a group.
"""

from typing import Literal

import numpy as np
from pydantic import Field

from hourglass.analysis.shared.typed import Numbers, Typed, numbers
from hourglass.analysis.shared.verdict import Verdict
from hourglass.core.arrays import FloatArray

INK = -1


class Line(Typed):
    """A line; a step line holds its value from each x to the next."""

    label: str
    tone: int
    x: list[float]
    y: Numbers
    step: bool = True
    end: float | None = None


class Area(Typed):
    """A band between two lines; gaps where a limit is null."""

    label: str
    tone: int
    x: list[float]
    low: Numbers
    high: Numbers
    step: bool = True
    end: float | None = None


class Marks(Typed):
    """Single points: ticks for censored rows, dots for events."""

    label: str
    tone: int
    glyph: Literal["tick", "dot"]
    x: list[float]
    y: Numbers


class Rule(Typed):
    """A horizontal line at y."""

    y: float
    label: str
    dashed: bool = False


class CountRow(Typed):
    """A group's number at risk: a left-continuous step function of time."""

    label: str
    tone: int
    time: list[float]
    number: list[int]


class Axis(Typed):
    """A vertical axis: from ``low`` to ``high``, with labels as shares, numbers or ratios (log)."""

    low: float
    high: float
    form: Literal["percent", "points", "number", "ratio"]


class Track(Typed):
    """One strip of a figure; a verdict is shown as a shape before its words."""

    id: str
    title: str
    subtitle: str = ""
    verdict: Verdict | None = None
    verdict_words: str = ""
    axis: Axis | None = None
    lines: list[Line] = Field(default_factory=list)
    areas: list[Area] = Field(default_factory=list)
    marks: list[Marks] = Field(default_factory=list)
    rules: list[Rule] = Field(default_factory=list)
    counts: list[CountRow] = Field(default_factory=list)
    note: str = ""


class Figure(Typed):
    """Tracks over one time axis from 0 to ``end``; ``name`` says in a sentence what it shows.

    Attributes:
        unit, decimals: of time, and how many decimals its values have.
        events: the distinct event times, for stepping from one to the next.
        start: where the sand line stands before anybody has moved it.
        first: the tracks shown before anybody has chosen; all when absent.
        note: how to read it.
    """

    name: str
    time_label: str
    unit: str
    decimals: int
    end: float
    events: list[float]
    start: float | None = None
    first: list[str] | None = None
    tracks: list[Track]
    note: str = ""


def line(label: str, tone: int, x: FloatArray, y: FloatArray, end: float) -> Line:
    """A step line."""
    return Line(label=label, tone=tone, x=[float(v) for v in x], y=numbers(y), end=end)


def area(
    label: str, tone: int, x: FloatArray, low: FloatArray, high: FloatArray, end: float
) -> Area:
    """A step band."""
    return Area(
        label=label,
        tone=tone,
        x=[float(v) for v in x],
        low=numbers(low),
        high=numbers(high),
        end=end,
    )


def symmetric(*values: np.ndarray) -> tuple[float, float]:
    """A domain around 0 that holds all finite values, with a little air."""
    finite = np.concatenate([np.ravel(v) for v in values])
    reach = float(np.abs(finite[np.isfinite(finite)]).max(initial=0.0)) or 1.0
    return -1.08 * reach, 1.08 * reach
