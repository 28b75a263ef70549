"""The numbers of Check: the fit, and what the verdict on each question rests on
(methods.md, section 6: Residuals and checks)."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from hourglass.analysis.check.checked import Checked, checked
from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.check.weighed import WEIGHED, Weighed
from hourglass.analysis.model.fit_numbers import FitNumbers
from hourglass.analysis.model.fitting import FittedModel, fit_parted
from hourglass.analysis.model.statement import FIT_FIELDS, ModelStatement
from hourglass.analysis.shared.curve_form import study_form
from hourglass.analysis.shared.declared import Statements, statement_of
from hourglass.analysis.shared.numbers import Numbers, Refused
from hourglass.cohort.followup import Cohort
from hourglass.core.errors import HourglassError, NotEstimableError, singular_refused
from hourglass.core.progress import ProgressCallback

LARGEST_LOG_RATIO = 300.0


@dataclass(frozen=True, slots=True)
class CheckNumbers:
    """What is computed of a model under check, whichever question is shown.

    Attributes:
        fit: of the model, on pieces of rows where columns change.
        weighed: what the verdict on each question rests on, or why there is none.
    """

    fit: FitNumbers
    weighed: dict[str, Any]

    def of(self, question: str) -> Any:
        """What the verdict on a question rests on."""
        return self.weighed[question]


def check_numbers(
    cohort: Cohort, stated: Statements, progress: ProgressCallback
) -> CheckNumbers | Refused:
    """Fit the model, and put every question to it."""
    model, statement = statement_of(stated, ModelStatement), statement_of(stated, CheckStatement)
    progress("fitting the model", 0.1)
    try:
        fitted = fit_parted(cohort, model.hazards_model, progress)
        _require_showable(fitted)
        with singular_refused():
            under = checked(cohort, model, statement, fitted, study_form(stated), progress)
            weighed = {key: _weighed(key, one, under, progress) for key, one in WEIGHED.items()}
        return CheckNumbers(FitNumbers(fit=fitted.fit, plain=fitted.plain, whole=False), weighed)
    except HourglassError as why:
        return Refused(str(why))


def _weighed(key: str, one: Weighed, under: Checked, progress: ProgressCallback) -> Any:
    progress(key, 0.6)
    try:
        return one.of(under)
    except NotEstimableError as why:
        if one.needed:
            raise
        return Refused(str(why))


def _require_showable(fitted: FittedModel) -> None:
    for column, beta in zip(fitted.design.columns, fitted.fit.beta, strict=True):
        if abs(np.nan_to_num(beta)) > LARGEST_LOG_RATIO:
            raise NotEstimableError(
                f"the ratio of {column.label} is too far from 1 to be drawn; choose another unit"
            )


NUMBERS = Numbers(
    {
        "model": (*FIT_FIELDS, "robust", "confidence"),
        "check": ("time_function",),
        "estimate": ("confidence",),
    },
    check_numbers,
)
