"""The hazard ratios as a table with their picture: what the page draws."""

from pydantic import Field

from hourglass.analysis.model.readings import CoefficientReading, RatioReading, TermReading
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.cell import Cell, WorkingsOf, figure, words
from hourglass.analysis.shared.typed import Typed


class ForestRow(Typed):
    """A coefficient, or (``heading``) the category that the rows below belong to.

    ``cells`` are the ratio, its interval and p, or one that says why there is none; ``point``,
    ``low``, ``high`` and ``alone_point`` are where they are drawn.
    """

    label: str
    heading: bool = False
    below_heading: bool = False
    against: str = ""
    cells: list[Cell] = Field(default_factory=list)
    alone: str = ""
    point: float | None = None
    low: float | None = None
    high: float | None = None
    alone_point: float | None = None


def forest(terms: list[TermReading]) -> list[ForestRow]:
    """A row a coefficient; the levels of a category stand under its name."""
    rows = []
    for term in terms:
        if term.category:
            rows.append(ForestRow(label=term.name, heading=True))
        rows += [_row(c, term.category) for c in term.coefficients]
    return rows


def _row(c: CoefficientReading, category: bool) -> ForestRow:
    return ForestRow(
        label=c.label,
        below_heading=category,
        against=c.against,
        cells=_cells(c.adjusted, c.column),
        alone="none" if c.alone.ratio is None else c.alone.worded,
        point=c.adjusted.ratio,
        low=c.adjusted.lower,
        high=c.adjusted.upper,
        alone_point=c.alone.ratio,
    )


def _cells(reading: RatioReading, column: int) -> list[Cell]:
    if reading.ratio is None:
        return [words(reading.worded, wordy=True)]
    opens = WorkingsOf(figure="hazard-ratio", about={"column": column})
    return [
        figure(wording.ratio(reading.ratio), reading.ratio, workings=opens),
        words(reading.interval),
        figure(wording.p_value(reading.p), reading.p),
    ]
