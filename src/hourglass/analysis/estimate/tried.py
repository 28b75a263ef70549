"""Curves of Estimate that are only tried, while a threshold is being dragged."""

from hourglass.analysis.estimate.curves import estimated
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.shared.declared import Statements, statement_of
from hourglass.analysis.shared.trial import Trial, tried_curves
from hourglass.cohort.followup import Cohort
from hourglass.core.errors import NotEstimableError


def tried_estimate(cohort: Cohort, statements: Statements) -> Trial:
    """The curves and counts of the groups.

    Raises:
        NotEstimableError: where there are no groups.
    """
    found = estimated(cohort, statement_of(statements, EstimateStatement))
    if found.groups is None:
        raise NotEstimableError("There are no groups to try.")
    return tried_curves(cohort, found.curves, found.groups, limits=found.shades)
