"""The numbers of Check: the fit, and what the verdict on each question rests on
(methods.md, section 6: Residuals and checks)."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import TypeVar

import numpy as np

from hourglass.analysis.check.checked import Checked, checked
from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.check.weighed import (
    MissedNumbers,
    OverTimeNumbers,
    Straight,
    bends,
    largest_move,
    missed_numbers,
    over_time_numbers,
)
from hourglass.analysis.model.fit_numbers import FitNumbers
from hourglass.analysis.model.fitting import FittedModel, fit_parted
from hourglass.analysis.model.statement import FIT_FIELDS, ModelStatement
from hourglass.analysis.shared.curve_form import study_form
from hourglass.analysis.shared.declared import Statements, statement_of
from hourglass.analysis.shared.numbers import Numbers, Refused
from hourglass.cohort.followup import Cohort
from hourglass.core.errors import HourglassError, NotEstimableError, singular_refused
from hourglass.core.regression.concordance import Concordance
from hourglass.core.watch import Watch

V = TypeVar("V")
LARGEST_LOG_RATIO = 300.0


@dataclass(frozen=True, slots=True, kw_only=True)
class CheckNumbers:
    """What is computed of a model under check, whichever question is shown.

    Attributes:
        fit: of the model, on pieces of rows where columns change.
        over_time, bends, missed, largest_move, ranking: what each verdict rests on, or why there is none.
    """

    fit: FitNumbers
    over_time: OverTimeNumbers
    bends: tuple[Straight, ...] | Refused
    missed: MissedNumbers | Refused
    largest_move: float | Refused
    ranking: Concordance | Refused


def check_numbers(cohort: Cohort, stated: Statements, watch: Watch) -> CheckNumbers | Refused:
    """Fit the model, and put every question to it."""
    model, statement = statement_of(stated, ModelStatement), statement_of(stated, CheckStatement)
    watch("fitting the model", 0.1)
    try:
        fitted = fit_parted(cohort, model.hazards_model, watch)
        _require_showable(fitted)
        with singular_refused():
            under = checked(cohort, model, statement, fitted, study_form(stated), watch)
            watch("ratio over time", 0.5)
            over_time = over_time_numbers(under)
            return CheckNumbers(
                fit=FitNumbers(fit=fitted.fit, plain=fitted.plain, whole=False),
                over_time=over_time,
                bends=_unless_refused("scale of numbers", bends, under, watch),
                missed=_unless_refused("rows it misses", missed_numbers, under, watch),
                largest_move=_unless_refused("who carries the result", largest_move, under, watch),
                ranking=_unless_refused("fit and ranking", _ranking, under, watch),
            )
    except HourglassError as why:
        return Refused(str(why))


def _ranking(under: Checked) -> Concordance:
    return under.fitted.concordance()


def _unless_refused(
    what: str, of: Callable[[Checked], V], under: Checked, watch: Watch
) -> V | Refused:
    watch(what, 0.6)
    try:
        return of(under)
    except NotEstimableError as why:
        return Refused(str(why))


def _require_showable(fitted: FittedModel) -> None:
    for column, beta in zip(fitted.design.columns, fitted.fit.beta, strict=True):
        if abs(np.nan_to_num(beta)) > LARGEST_LOG_RATIO:
            raise NotEstimableError(
                f"the ratio of {column.label} is too far from 1 to be drawn; tell it per another unit"
            )


NUMBERS = Numbers(
    {
        "model": (*FIT_FIELDS, "robust", "confidence"),
        "check": ("time_function",),
        "estimate": ("confidence",),
    },
    check_numbers,
)
