"""The numbers of Estimate: its curves, and that of everyone (methods.md, section 2: Survival curve)."""

from dataclasses import dataclass

from hourglass.analysis.estimate.curves import estimated
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.shared.curve_form import FORM_FIELDS
from hourglass.analysis.shared.curves import CurveNumbers, curve_numbers
from hourglass.analysis.shared.declared import Statements, statement_of
from hourglass.analysis.shared.grouping import GROUP_FIELDS
from hourglass.analysis.shared.numbers import Numbers
from hourglass.cohort.followup import Cohort
from hourglass.core.errors import NotEstimableError
from hourglass.core.progress import ProgressCallback


@dataclass(frozen=True, slots=True)
class EstimateNumbers:
    """The curves that are requested, or why there are none.

    Attributes:
        everyone: the curve of everyone from the beginning, which the report shows beside any others.
    """

    curves: tuple[CurveNumbers, ...]
    everyone: CurveNumbers
    refused: str = ""


def estimate_numbers(
    cohort: Cohort, stated: Statements, progress: ProgressCallback
) -> EstimateNumbers:
    """Estimate the curve of everyone, and those that are requested."""
    progress("estimating survival", 0.1)
    statement = statement_of(stated, EstimateStatement)
    everyone = curve_numbers(cohort.follow_up, statement.form.from_the_beginning)
    if statement.is_everyone:
        return EstimateNumbers((everyone,), everyone)
    try:
        found = estimated(cohort, statement)
    except NotEstimableError as reason:
        return EstimateNumbers((), everyone, str(reason))
    return EstimateNumbers(tuple(curve.numbers for curve in found.curves), everyone)


NUMBERS = Numbers({"estimate": (*GROUP_FIELDS, *FORM_FIELDS, "start")}, estimate_numbers)
