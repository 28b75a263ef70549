"""The test at every threshold of a number (methods.md, section 3: Comparing groups)."""

from hourglass.analysis.compare.groups import Comparison
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.shared.grouping import is_split
from hourglass.analysis.shared.numbers import Refused
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import NumberColumn
from hourglass.core.arrays import FloatArray
from hourglass.core.comparison.thresholds import ThresholdProfile, threshold_profile
from hourglass.core.errors import NotEstimableError


def split_by_one(cohort: Cohort, statement: CompareStatement) -> bool:
    """Whether the groups are the two sides of one threshold of a number."""
    return (
        is_split(cohort, statement) and statement.crossed is None and len(statement.thresholds) < 2
    )


def values_of(cohort: Cohort, found: Comparison) -> FloatArray:
    """The number that makes the groups, in the rows that are compared.

    Raises:
        NotEstimableError: where they are made by something else.
    """
    column = cohort.table.column(found.groups.column)
    if not isinstance(column, NumberColumn):
        raise NotEstimableError(f"{found.groups.column} is no number")
    return column.values[found.rows]


def profile_of(cohort: Cohort, found: Comparison) -> ThresholdProfile | Refused:
    """The statistic at every admissible threshold, or why there is none."""
    try:
        x = values_of(cohort, found)
        return threshold_profile(found.data, x, found.weight, found.stratum)
    except NotEstimableError as why:
        return Refused(str(why))
