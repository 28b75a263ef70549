"""The times at which the curves are read, to which others can be added at the sand line."""

from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.shared.sections import ChosenTimes
from hourglass.analysis.shared.statement import MAX_TIMES


def chosen_times(statement: EstimateStatement) -> ChosenTimes:
    """Those of a statement, with what it would be with another."""
    return ChosenTimes(
        times=list(statement.times), most=MAX_TIMES, statement=statement.model_dump(mode="json")
    )
