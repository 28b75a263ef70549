"""The numbers of Model: the fit, each term alone, and what else the statement requests of it
(methods.md, section 4: Proportional hazards regression)."""

from dataclasses import dataclass

from hourglass.analysis.catalogue.time_functions import TIME_FUNCTIONS
from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.model.adjusted import Adjusted, curves_without_limits
from hourglass.analysis.model.alone import terms_alone
from hourglass.analysis.model.fit_numbers import FitNumbers, fit_numbers, fitted_numbers
from hourglass.analysis.model.fitting import FittedModel, fit_model
from hourglass.analysis.model.statement import MODEL_FIELDS, ModelStatement
from hourglass.analysis.model.subgroup_fits import SubgroupFit, subgroup_fits
from hourglass.analysis.shared.curve_form import study_form
from hourglass.analysis.shared.declared import Statements, statement_of
from hourglass.analysis.shared.numbers import Numbers, Refused
from hourglass.cohort.followup import Cohort
from hourglass.core.errors import HourglassError, NotEstimableError
from hourglass.core.progress import ProgressCallback
from hourglass.core.regression.proportionality import ProportionalityTest


@dataclass(frozen=True, slots=True, kw_only=True)
class ModelNumbers:
    """What is computed of a model.

    Attributes:
        fit: the model; ``alone``: each of its terms by itself, in the same rows.
        beside: the kept model that is set beside it, where one is.
        over_time: whether its ratios stay the same; None where that cannot be tested.
        subgroups: its first term within the levels of each chosen variable.
        adjusted: the curves of the chosen category, where one is.
    """

    fit: FitNumbers
    alone: tuple[FitNumbers | None, ...]
    beside: FitNumbers | Refused | None
    over_time: ProportionalityTest | None
    subgroups: tuple[SubgroupFit, ...]
    adjusted: Adjusted | None


def model_numbers(
    cohort: Cohort, stated: Statements, progress: ProgressCallback
) -> ModelNumbers | Refused:
    """Fit the model, and what stands beside it."""
    statement = statement_of(stated, ModelStatement)
    of_study = study_form(stated).confidence
    level = statement.confidence or of_study
    try:
        fitted = fit_model(cohort, statement.hazards_model, progress)
    except HourglassError as why:
        return Refused(str(why))
    other = statement.set_beside
    if other is not None:
        progress(f"fitting model {other.letter}", 0.6)
    return ModelNumbers(
        fit=fit_numbers(fitted, level),
        alone=terms_alone(fitted, level, progress),
        beside=None if other is None else fitted_numbers(cohort, other.model, of_study, progress),
        over_time=_over_time(fitted, statement_of(stated, CheckStatement)),
        subgroups=subgroup_fits(cohort, fitted, statement.subgroups, progress),
        adjusted=curves_without_limits(cohort, fitted, statement.adjusted),
    )


def _over_time(fitted: FittedModel, statement: CheckStatement) -> ProportionalityTest | None:
    """The test that Check makes, so that both state the same of a ratio that changes."""
    try:
        fitted.require_unpenalised()
        return fitted.proportionality(TIME_FUNCTIONS[statement.time_function].method)
    except NotEstimableError:
        return None


NUMBERS = Numbers(
    {
        "model": (*MODEL_FIELDS, "kept", "beside", "subgroups", "adjusted"),
        "check": ("time_function",),
        "estimate": ("confidence",),
    },
    model_numbers,
)
