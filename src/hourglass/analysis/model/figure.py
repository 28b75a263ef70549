"""The figure of Model: the hazard ratios as a table with their picture."""

import math
from collections.abc import Callable
from typing import Literal

import numpy as np

from hourglass.analysis.model.model_comparison import ComparedModel, change
from hourglass.analysis.model.ratio_axis import on_one_ratio_axis, ratio_axis
from hourglass.analysis.model.ratios import no_ratio
from hourglass.analysis.model.readouts import CoefficientReadout, RatioReadout, TermReadout
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import Cell, WorkingsOf, number_cell, p_cell, words
from hourglass.analysis.shared.cohort_summary import over_follow_up
from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.description import Figure, TextColumn, Track
from hourglass.analysis.shared.figure.marks import AnyMark, Bars, Points, Rule
from hourglass.analysis.shared.figure_groups import figure_groups
from hourglass.analysis.shared.groups import Groups
from hourglass.cohort.followup import Cohort
from hourglass.core.arrays import FloatArray

ALONE_BELOW = 0.28
"""How far below its adjusted ratio a ratio on its own is drawn, in rows."""

LABEL_CHARACTERS = 18
"""Letters of a label that find room in the usual first column."""
NOT_HERE = no_ratio("aliased", "")
Row = tuple[Cell, CoefficientReadout | None]


def model_figure(
    cohort: Cohort, name: str, tracks: list[Track], start: float | None, levels: Groups | None
) -> Figure:
    """Tracks of a model: ratios and curves have horizontal axes of their own, predictions that of time.

    ``start`` is where the sand line stands; None where no track is over time. ``levels`` are those that
    its curves distinguish.
    """
    groups = [] if start is None or levels is None else figure_groups(levels)
    found = over_follow_up(cohort, name, on_one_ratio_axis(tracks), start, groups=groups)
    return found if start is not None else found.model_copy(update={"time": None})


def ratio_track(terms: list[TermReadout], ci: str, other: ComparedModel | None = None) -> Track:
    """A row a ratio, those of a term with several under its name; the other model's beside each."""
    rows = [row for term in terms for row in _rows(term)]
    there = None
    note = "◆ adjusted, with its interval · ○ unadjusted, in the same rows."
    last = [_column("unadjusted", "right", rows, _alone, 17)]
    if other is not None:
        rows, there = _aligned(terms, other)
        note = f"◆ this model, with its interval · ○ model {other.letter}."
        last = _other_columns(rows, there, other.letter)
    longest = max((len(label.text) for label, _ in rows), default=0)
    wide, against = (24, 13) if other is None else (20, 10)
    first = 15 if longest <= LABEL_CHARACTERS else wide
    second = [None if c is None else c.alone for _, c in rows] if there is None else there
    return Track(
        id="ratios",
        title="Hazard ratios",
        axis=Axis(
            low=-0.5,
            high=len(rows) - 0.5,
            form="category",
            categories=[label.text for label, _ in rows],
        ),
        across=ratio_axis(_logs([c.adjusted for _, c in rows if c is not None], second)),
        grouped=False,
        marks=_marks([None if c is None else c.adjusted for _, c in rows], second, other),
        columns=[
            TextColumn(head="", side="left", cells=[label for label, _ in rows], share=first),
            _column("against", "left", rows, lambda c: words(c.against), against),
            _column("hazard ratio", "right", rows, _ratio, 8),
            _column(ci, "right", rows, lambda c: words(c.adjusted.interval), 12),
            _column("p", "right", rows, _p, 8),
            *last,
        ],
        note=note,
    )


def _rows(term: TermReadout) -> list[Row]:
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
    cell: Callable[[CoefficientReadout], Cell],
    share: int,
) -> TextColumn:
    """A cell for each coefficient, none beside the name of a category."""
    cells = [None if c is None else cell(c) for _, c in rows]
    return TextColumn(head=head, side=side, cells=cells, share=share)


def _ratio(c: CoefficientReadout) -> Cell:
    reading = c.adjusted
    if reading.ratio is None:
        return words(reading.worded or formatting.BLANK, wordy=bool(reading.worded))
    opens = None
    if c.column is not None:
        opens = WorkingsOf(figure="hazard-ratio", about={"column": c.column})
    return number_cell(reading.shown, reading.ratio, workings=opens)


def _p(c: CoefficientReadout) -> Cell:
    return p_cell(c.adjusted.p)


def _alone(c: CoefficientReadout) -> Cell:
    return words(formatting.BLANK if c.alone.ratio is None else c.alone.worded)


def _aligned(
    terms: list[TermReadout], other: ComparedModel
) -> tuple[list[Row], list[RatioReadout | None]]:
    """The rows of this model with the other's ratios, then the rows that the other has alone."""
    rows: list[Row] = []
    there: list[RatioReadout | None] = []
    for term in terms:
        for label, c in _rows(term):
            found = None if c is None else other.ratio_of(term.name, c)
            rows.append((label, c))
            there.append(None if found is None else found.adjusted)
    own = {(t.name, c.label, c.comparison) for t in terms for c in t.coefficients}
    for term in other.read.terms:
        alone = [c for c in term.coefficients if (term.name, c.label, c.comparison) not in own]
        for label, c in _rows(term.model_copy(update={"coefficients": alone})) if alone else []:
            rows.append((label, None if c is None else c.model_copy(update={"adjusted": NOT_HERE})))
            there.append(None if c is None else c.adjusted)
    return rows, there


def _other_columns(
    rows: list[Row], there: list[RatioReadout | None], letter: str
) -> list[TextColumn]:
    """The other model's ratio with its interval, and how far this one lies from it."""
    shown, changes = list[Cell | None](), list[Cell | None]()
    for (_, c), other in zip(rows, there, strict=True):
        if c is None:
            shown.append(None)
            changes.append(None)
            continue
        there_is = other is not None and other.ratio is not None
        shown.append(words(other.worded if other is not None and there_is else formatting.BLANK))
        changes.append(words(change(c.adjusted.ratio, other.ratio if other is not None else None)))
    return [
        TextColumn(head=f"in {letter}", side="right", cells=shown, share=17),
        TextColumn(head="change", side="right", cells=changes, share=9),
    ]


def _logs(own: list[RatioReadout], others: list[RatioReadout | None]) -> FloatArray:
    """Logarithms of this model's limits and of the other's ratios, where there are any above 0."""
    limits = [v for r in own for v in (r.lower, r.upper)]
    limits += [r.ratio for r in others if r is not None]
    return np.array([math.log(v) for v in limits if v], dtype=np.float64)


def _marks(
    own: list[RatioReadout | None], others: list[RatioReadout | None], beside: ComparedModel | None
) -> list[AnyMark]:
    def values(of: str, readings: list[RatioReadout | None]) -> np.ndarray:
        found = [None if r is None else getattr(r, of) for r in readings]
        return np.array([math.nan if v is None else v for v in found], dtype=np.float64)

    place = np.arange(len(own), dtype=np.float64)
    lower, upper = values("lower", own), values("upper", own)
    there = np.isfinite(values("ratio", own)) | np.isfinite(lower) | np.isfinite(upper)
    ring = "unadjusted" if beside is None else f"model {beside.letter}"
    return [
        Rule(label="no difference", at=1, upright=True),
        Bars(
            label="interval, adjusted",
            at=place[there],
            low=lower[there],
            high=upper[there],
            upright=False,
        ),
        Points(label=ring, glyph="ring", x=values("ratio", others), y=place + ALONE_BELOW),
        Points(label="adjusted", glyph="diamond", x=values("ratio", own), y=place),
    ]
