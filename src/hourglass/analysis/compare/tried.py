"""A comparison that is only tried, while a threshold is being dragged: everything but its p-value."""

import numpy as np

from hourglass.analysis.catalogue.weights import WEIGHTS
from hourglass.analysis.compare.groups import Comparison, comparison
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.compare.threshold import TRACK
from hourglass.analysis.compare.threshold_profile import split_by_one
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.curve_form import study_form
from hourglass.analysis.shared.declared import Statements, statement_of
from hourglass.analysis.shared.figure.marks import AnyMark, Points
from hourglass.analysis.shared.grouping import thresholds_of
from hourglass.analysis.shared.trial import Trial, tried_curves
from hourglass.cohort.followup import Cohort
from hourglass.core.rates import rate_of, rate_ratio


def tried_comparison(cohort: Cohort, statements: Statements) -> Trial:
    """The curves, counts, rate ratio and statistic of a comparison.

    Raises:
        NotEstimableError: where there is nothing to compare.
    """
    statement = statement_of(statements, CompareStatement)
    found = comparison(cohort, statement, study_form(statements))
    made = tried_curves(cohort, found.curves, found.groups, limits=True)
    if not split_by_one(cohort, statement):
        return made
    statistic = found.log_rank.test.statistic
    over = {} if statistic is None else {TRACK: _on_profile(cohort, statement, statistic)}
    return made.model_copy(
        update={"over": over, "readings": [*made.readings, *_compared(found, statistic)]}
    )


def _on_profile(cohort: Cohort, statement: CompareStatement, statistic: float) -> list[AnyMark]:
    """The statistic as a point on its profile."""
    at = np.array(thresholds_of(cohort, statement)[:1])
    return [Points(label="this threshold", glyph="disc", x=at, y=np.array([statistic]))]


def _compared(found: Comparison, statistic: float | None) -> list[str]:
    a, b = (rate_of(c.data) for c in found.curves)
    ratio = rate_ratio(a, b)
    readings = []
    if ratio.estimate is not None and ratio.lower is not None and ratio.upper is not None:
        shown, *_ = formatting.ratios(ratio.estimate, ratio.lower, ratio.upper)
        readings.append(f"rate ratio {shown}")
    if statistic is not None:
        name = WEIGHTS[found.statement.weight].test
        readings.append(f"{name} χ² {formatting.statistic(statistic)}")
    return readings
