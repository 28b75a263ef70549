"""The picture of follow-up as a figure: a line a row, with how it ended."""

import numpy as np

from hourglass.analysis.prepare.follow_up_lines import FollowUpLine
from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.description import Figure, Track
from hourglass.analysis.shared.figure.marks import AnyMark, Bars, Glyph, Points

ENDINGS: tuple[tuple[int, str, Glyph, int], ...] = (
    (1, "event", "disc", -1),
    (2, "competing", "diamond", 2),
    (0, "censored", "tick", -1),
    (-1, "without a meaning", "cross", -1),
    (-2, "set aside", "cross", -1),
)
"""How a follow-up ends: its status, what it is called, and what it is drawn as."""


def follow_up_figure(lines: list[FollowUpLine], note: str, unit: str) -> Figure:
    """Lines from entry to end, in the order given, each with a glyph for how it ended."""
    place = np.arange(len(lines), dtype=np.float64)
    start = np.array([line.start for line in lines], dtype=np.float64)
    end = np.array([line.end for line in lines], dtype=np.float64)
    status = np.array([line.status for line in lines], dtype=np.int64)
    marks: list[AnyMark] = [Bars(label="followed", at=place, low=start, high=end, upright=False)]
    late = start > 0
    if late.any():
        marks.append(Points(label="delayed entry", glyph="tick", x=start[late], y=place[late]))
    for code, label, glyph, tone in ENDINGS:
        own = status == code
        if own.any():
            marks.append(Points(label=label, tone=tone, glyph=glyph, x=end[own], y=place[own]))
    high = float(end.max(initial=0.0)) or 1.0
    track = Track(
        id="follow_up",
        title="Follow-up of each row",
        axis=Axis(
            low=-0.8,
            high=len(lines) - 0.2,
            form="category",
            categories=[line.label for line in lines],
        ),
        marks=marks,
        note="● event · ◆ competing · a tick: censored · ×: without a meaning, or set aside",
    )
    return Figure(
        name="Follow-up of each row.",
        across=Axis(
            low=0, high=high, form="time", label=f"{unit.capitalize()} of follow-up", unit=unit
        ),
        low=0,
        high=high,
        tracks=[track] if lines else [],
        note=note,
    )
