"""The workings of Estimate: those of its curves."""

import numpy as np

from hourglass.analysis.estimate.curves import estimated
from hourglass.analysis.estimate.means import means_of
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.shared.curve_figures import WorkedCurves, curve_figures
from hourglass.analysis.shared.declared import Statements, statement_of
from hourglass.analysis.shared.workings import NoWorkingsError
from hourglass.cohort.followup import Cohort
from hourglass.core.errors import NotEstimableError


def _curves(cohort: Cohort, stated: Statements) -> WorkedCurves:
    try:
        found = estimated(cohort, statement_of(stated, EstimateStatement))
    except NotEstimableError as reason:
        raise NoWorkingsError(str(reason)) from None
    everyone = np.zeros(cohort.follow_up.exit.size, dtype=np.int64)
    code = everyone if found.groups is None else found.groups.code
    return WorkedCurves(cohort, found.curves, code, means_of(found).limit)


WORKINGS = curve_figures(_curves)
