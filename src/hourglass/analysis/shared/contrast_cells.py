"""Cells of rates and of differences of curves, as every table shows them."""

from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import Cell, WorkingsOf, estimate, limits_shown, p_cell, words
from hourglass.analysis.shared.curves import Curve
from hourglass.core.curves.chosen_time import difference_at
from hourglass.core.rates import Rate


def difference_cells(a: Curve, b: Curve, t: float) -> list[Cell]:
    """The difference B − A at a time in points, its interval, its p."""
    apart = difference_at(a.estimate, b.estimate, t)
    limits = "none"
    if apart.lower is not None and apart.upper is not None:
        limits = formatting.interval(formatting.points(apart.lower), formatting.points(apart.upper))
    opens = None
    if apart.estimate is not None:
        opens = WorkingsOf(figure="difference", about={"group": b.place, "t": t})
    return [
        estimate(
            formatting.points(apart.estimate),
            apart.estimate,
            apart.lower,
            apart.upper,
            workings=opens,
            note=apart.blank or "",
        ),
        limits_shown(limits),
        p_cell(apart.p),
    ]


def rate_cell(own: Rate, workings: WorkingsOf | None = None) -> Cell:
    """A rate in events per 100 units of time, its interval under it."""
    if own.value is None or own.lower is None or own.upper is None:
        return words(own.blank or formatting.BLANK)
    limits = formatting.interval(per_100(own.lower), per_100(own.upper))
    return estimate(
        per_100(own.value), own.value, own.lower, own.upper, below=limits, workings=workings
    )


def per_100(rate: float) -> str:
    """A rate in events per 100 units of time: two decimals, three significant digits under 0.1."""
    events = 100 * rate
    if events > 1e300:
        return formatting.INFINITE
    return formatting.ratio(events) if 0 < events < 0.1 else formatting.fixed(events, 2)
