"""What every stage says of the cohort before its own statement."""

from hourglass.analysis import wording
from hourglass.analysis.curves import QuantileReading
from hourglass.analysis.typed import Typed
from hourglass.cohort.followup import Cohort
from hourglass.core.risk_table import person_time
from hourglass.core.survival import median_follow_up


class CohortSummary(Typed):
    """The cohort in figures and in one line."""

    rows: int
    events: int
    censored: int
    competing: int
    unit: str
    time_digits: int
    rows_are: str
    event_name: str
    follow_up: QuantileReading
    person_time: float
    near_ties: int
    line: str


def summarise(cohort: Cohort) -> CohortSummary:
    """Count the cohort's rows, events and follow-up."""
    data, statement = cohort.follow_up, cohort.statement
    events = int(data.count[data.event()].sum())
    competing = int(data.count[data.status > 1].sum())
    censored = data.size - events - competing
    followed = QuantileReading.model_validate(median_follow_up(data))
    median = wording.time(followed.time, cohort.time_digits)
    pieces = [
        f"Following {wording.count(data.size, statement.rows_are)} to {statement.event_name}, "
        f"in {statement.unit}",
        wording.count(events, "events"),
        f"{censored:,} censored",
        *([f"{competing:,} competing"] if competing else []),
        f"median follow-up {median}",
    ]
    return CohortSummary(
        rows=data.size,
        events=events,
        censored=censored,
        competing=competing,
        unit=statement.unit,
        time_digits=cohort.time_digits,
        rows_are=statement.rows_are,
        event_name=statement.event_name,
        follow_up=followed,
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


def event_times(cohort: Cohort) -> list[float]:
    """Distinct event times, for stepping the sand line from event to event."""
    data = cohort.follow_up
    return sorted({float(t) for t in data.exit[data.event()]})
