"""The times at which predicted and adjusted curves are read."""

from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.shared.round_times import middle_of_follow_up
from hourglass.cohort.followup import Cohort


def reading_times(cohort: Cohort, statement: ModelStatement) -> tuple[float, ...]:
    """As stated; else a half of, and a round time near, the middle of the follow-up."""
    if statement.times:
        return statement.times
    middle = middle_of_follow_up(cohort)
    return (middle / 2, middle)
