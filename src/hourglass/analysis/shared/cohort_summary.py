"""The cohort in figures: what every stage states before its own statement."""

from collections.abc import Sequence

import numpy as np

from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.curve_readouts import QuantileReadout
from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.description import Figure, FigureGroup, TimeLine, Track
from hourglass.analysis.shared.figure.series import Series
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.cohort.followup import Cohort
from hourglass.cohort.time_decimals import TimeDecimals
from hourglass.core.curves.quantiles import median_follow_up
from hourglass.core.risk_table import person_time
from hourglass.core.subjects import count_subjects


class CohortSummary(FrozenModel):
    """The cohort in figures and in one line; ``rows`` are more than ``subjects`` where some have several."""

    rows: int
    subjects: int
    events: int
    censored: int
    competing: int
    unit: str
    decimals: TimeDecimals
    rows_are: str
    event_name: str
    median_follow_up: QuantileReadout
    person_time: float
    near_ties: int
    line: str


def summarise(cohort: Cohort) -> CohortSummary:
    """Count the cohort's subjects, rows, events and follow-up."""
    data, statement = cohort.follow_up, cohort.statement
    counts = count_subjects(data)
    followed = QuantileReadout.model_validate(median_follow_up(data))
    median = formatting.computed_time(followed.time, cohort.decimals)
    in_rows = (
        "" if counts.rows == counts.subjects else f" in {formatting.grouped(counts.rows)} rows"
    )
    pieces = [
        f"Following {formatting.count(counts.subjects, cohort.rows_are)}{in_rows} to "
        f"{statement.event_name}, in {statement.unit}",
        formatting.count(counts.events, "events"),
        f"{formatting.grouped(counts.censored)} censored",
        *([f"{formatting.grouped(counts.competing)} competing"] if counts.competing else []),
        f"median follow-up {median}",
    ]
    return CohortSummary(
        rows=counts.rows,
        subjects=counts.subjects,
        events=counts.events,
        censored=counts.censored,
        competing=counts.competing,
        unit=statement.unit,
        decimals=cohort.decimals,
        rows_are=cohort.rows_are,
        event_name=statement.event_name,
        median_follow_up=followed,
        person_time=person_time(data),
        near_ties=data.merged,
        line=" · ".join(pieces),
    )


def time_label(cohort: Cohort) -> str:
    """What the time axis measures."""
    clock = cohort.statement.clock
    unit = cohort.statement.unit.capitalize()
    if cohort.statement.landmark is not None:
        at = f"{cohort.statement.landmark:g} {cohort.statement.unit}"
        return f"{unit} since the landmark at {at}"
    if clock.kind != "duration":
        return f"{unit} since {clock.start}"
    return f"{unit} of follow-up"


def time_axis(cohort: Cohort, until: float | None = None) -> Axis:
    """The horizontal axis of figures over the follow-up, or until a time before or past its end."""
    end = cohort.follow_up.end if until is None else until
    unit = cohort.statement.unit
    return Axis(low=0, high=end, form="time", label=time_label(cohort), unit=unit)


def over_follow_up(
    cohort: Cohort,
    name: str,
    tracks: list[Track],
    start: float | None,
    note: str = "",
    *,
    groups: Sequence[FigureGroup] = (),
    until: float | None = None,
) -> Figure:
    """A figure of tracks over the follow-up, with the sand line's event times.

    Args:
        until: where its axis ends; with the follow-up where it is None.
    """
    data, across = cohort.follow_up, time_axis(cohort, until)
    times = np.unique(data.exit[data.event()])
    return Figure(
        name=name,
        across=across,
        low=0,
        high=across.high,
        time=TimeLine(
            unit=cohort.statement.unit,
            decimals=cohort.decimals.data,
            events=Series(rule="from", time=times),
            start=start,
        ),
        groups=list(groups),
        tracks=tracks,
        note=note,
    )
