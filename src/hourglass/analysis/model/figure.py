"""The figure of Model: the hazard ratios as a table with their picture."""

import math
from collections.abc import Callable
from typing import Literal

import numpy as np

from hourglass.analysis.model.readings import CoefficientReading, RatioReading, TermReading
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.cell import Cell, WorkingsOf, figure, words
from hourglass.analysis.shared.cohort_summary import over_follow_up
from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.description import Figure, TextColumn, Track
from hourglass.analysis.shared.figure.marks import AnyMark, Bars, Points, Rule
from hourglass.cohort.followup import Cohort

LEAST_REACH, MOST_REACH = 2.2, 100.0
"""Ratios up to which, and not beyond which, the axis reaches on both sides of 1."""
ALONE_BELOW = 0.28
"""How far below its adjusted ratio a ratio on its own is drawn, in rows."""

Row = tuple[Cell, CoefficientReading | None]


def model_figure(cohort: Cohort, name: str, tracks: list[Track], *, timed: bool) -> Figure:
    """Tracks of a model: ratios and curves have horizontal axes of their own, predictions that of time."""
    found = over_follow_up(cohort, name, tracks, None)
    return found if timed else found.model_copy(update={"time": None})


def ratio_track(terms: list[TermReading]) -> Track:
    """A row a ratio, those of a term with several under its name."""
    rows = [row for term in terms for row in _rows(term)]
    reach = _reach([c for _, c in rows if c is not None])
    return Track(
        id="ratios",
        title="Hazard ratios",
        axis=Axis(
            low=-0.5,
            high=len(rows) - 0.5,
            form="category",
            categories=[label.text for label, _ in rows],
        ),
        across=Axis(
            low=1 / reach, high=reach, form="ratio", label="← slower · hazard ratio · faster →"
        ),
        grouped=False,
        marks=_marks([c for _, c in rows]),
        columns=[
            TextColumn(head="", side="left", cells=[label for label, _ in rows], share=16),
            _column("against", "left", rows, lambda c: words(c.against), 14),
            _column("hazard ratio", "right", rows, _ratio, 8),
            _column("interval", "right", rows, lambda c: words(c.adjusted.interval), 13),
            _column("p", "right", rows, _p, 7),
            _column("on its own", "right", rows, _alone, 17),
        ],
        note="◆ adjusted, with its interval · ○ on its own, in the same rows.",
    )


def _rows(term: TermReading) -> list[Row]:
    if not term.headed:
        return [(words(term.name, strong=True), c) for c in term.coefficients]
    return [
        (words(term.name, strong=True), None),
        *((words(c.label or c.against), c) for c in term.coefficients),
    ]


def _column(
    head: str,
    side: Literal["left", "right"],
    rows: list[Row],
    cell: Callable[[CoefficientReading], Cell],
    share: int,
) -> TextColumn:
    """A cell for each coefficient, none beside the name of a category."""
    cells = [None if c is None else cell(c) for _, c in rows]
    return TextColumn(head=head, side=side, cells=cells, share=share)


def _ratio(c: CoefficientReading) -> Cell:
    reading = c.adjusted
    if reading.ratio is None:
        return words(reading.worded, wordy=True)
    opens = None
    if c.column is not None:
        opens = WorkingsOf(figure="hazard-ratio", about={"column": c.column})
    return figure(wording.ratio(reading.ratio), reading.ratio, workings=opens)


def _p(c: CoefficientReading) -> Cell:
    return figure(wording.p_value(c.adjusted.p), c.adjusted.p)


def _alone(c: CoefficientReading) -> Cell:
    return words(wording.BLANK if c.alone.ratio is None else c.alone.worded)


def _reach(told: list[CoefficientReading]) -> float:
    """How far a log axis goes to hold the intervals, not stretched by one that is very wide."""
    limits = [v for c in told for v in (c.adjusted.lower, c.adjusted.upper, c.alone.ratio)]
    logs = [abs(math.log(v)) for v in limits if v is not None and v > 0 and math.isfinite(v)]
    return math.exp(min(1.05 * max([math.log(LEAST_REACH), *logs]), math.log(MOST_REACH)))


def _marks(rows: list[CoefficientReading | None]) -> list[AnyMark]:
    def values(of: str, alone: bool = False) -> np.ndarray:
        readings: list[RatioReading | None] = [
            None if c is None else (c.alone if alone else c.adjusted) for c in rows
        ]
        found = [None if r is None else getattr(r, of) for r in readings]
        return np.array([math.nan if v is None else v for v in found], dtype=np.float64)

    place = np.arange(len(rows), dtype=np.float64)
    there = (
        np.isfinite(values("ratio")) | np.isfinite(values("lower")) | np.isfinite(values("upper"))
    )
    return [
        Rule(label="no difference", at=1, upright=True),
        Bars(
            label="interval, adjusted",
            at=place[there],
            low=values("lower")[there],
            high=values("upper")[there],
            upright=False,
        ),
        Points(
            label="on its own", glyph="ring", x=values("ratio", alone=True), y=place + ALONE_BELOW
        ),
        Points(label="adjusted", glyph="diamond", x=values("ratio"), y=place),
    ]
