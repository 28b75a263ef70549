"""Survival curves at the sand line: what is read of them at any time."""

from hourglass.analysis.shared.cautions import CAUTION_BELOW_AT_RISK
from hourglass.analysis.shared.cell import WorkingsOf
from hourglass.analysis.shared.curves import Curve
from hourglass.analysis.shared.figure.series import Series
from hourglass.analysis.shared.frozen_model import number
from hourglass.analysis.shared.sections import ChosenTimes, Few, TimedCell, TimedRow, TimedTable

PAST_THE_END = "A curve is not read past the last time at which anybody was seen."


def curve_series(curve: Curve) -> list[Series]:
    """The curve at any time: S, its limits and the events so far; and the number at risk."""
    columns = [curve.survival, curve.lower, curve.upper, curve.events]
    # There is nothing to read before a curve that is given begins.
    from_ = 0 if curve.form.start is not None else 1
    first = [None if from_ == 0 else number(float(column[0])) for column in columns]
    return [
        Series(
            rule="from",
            time=curve.time[from_:],
            columns=[column[from_:] for column in columns],
            before=first,
            end=curve.data.end,
        ),
        Series(rule="until", time=curve.at_risk.time, columns=[curve.followed], before=[None]),
    ]


def at_the_sand_line(
    curves: tuple[Curve, ...], rows_are: str, chosen: ChosenTimes, *, events: bool, grouped: bool
) -> TimedTable:
    """The curves read at the sand line: a row each, with the exact number at risk.

    Args:
        chosen: the times that are shown in a table of their own.
        events: whether the events so far are shown too.
        grouped: whether the curves are those of groups, whose workings go by their place.
    """
    rows = []
    for k, curve in enumerate(curves):
        about = {"group": curve.place} if grouped else {}
        cells = [
            TimedCell(
                form="percent",
                series=2 * k,
                value=0,
                workings=WorkingsOf(figure="survival", about=dict(about)),
            ),
            TimedCell(form="percent", series=2 * k, low=1, high=2),
            TimedCell(
                form="whole",
                series=2 * k + 1,
                value=0,
                workings=WorkingsOf(figure="subjects", about=dict(about)),
            ),
        ]
        if events:
            cells.append(TimedCell(form="whole", series=2 * k, value=3))
        rows.append(TimedRow(label=curve.label, tone=curve.tone if grouped else None, cells=cells))
    return TimedTable(
        label="At this time",
        head=["", "survival", curves[0].limits_name, "at risk", *(["events"] if events else [])],
        series=[one for curve in curves for one in curve_series(curve)],
        rows=rows,
        past=PAST_THE_END,
        few=Few(
            lead="Read with care.",
            sentence=f"At this time fewer than {CAUTION_BELOW_AT_RISK} {rows_are} are at risk",
            cell=2,
            below=CAUTION_BELOW_AT_RISK,
        ),
        chosen=chosen,
    )
