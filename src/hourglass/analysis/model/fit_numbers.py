"""The numbers of a fitted model: its estimates, and what is searched for by fitting it again."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field

from hourglass.analysis.model.design import Design, design
from hourglass.analysis.model.fitting import FittedModel, Searched, fit_model
from hourglass.analysis.model.statement import HazardsModel
from hourglass.analysis.shared.numbers import Refused
from hourglass.cohort.followup import Cohort
from hourglass.core.errors import HourglassError, NotEstimableError
from hourglass.core.progress import ProgressCallback
from hourglass.core.regression.fitted import HazardsFit

RUNNING = ("to +infinity", "to -infinity")
"""Coefficients that have no estimate, but one end of an interval."""


@dataclass(frozen=True, slots=True, kw_only=True)
class FitNumbers:
    """What is estimated of a model, from which it is made again with the cohort it was fitted to.

    Attributes:
        fit, plain: as in :class:`FittedModel`; ``whole``: whether its rows are whole.
        searched: what was searched for, by the place of the coefficient.
    """

    fit: HazardsFit
    plain: HazardsFit
    whole: bool
    searched: Mapping[int, Searched] = field(default_factory=dict)


def fit_numbers(fitted: FittedModel, confidence: float) -> FitNumbers:
    """What is estimated of a model, with the limits that a search finds at a level."""
    return FitNumbers(
        fit=fitted.fit,
        plain=fitted.plain,
        whole=fitted.design.whole,
        searched={c: _searched(fitted, c, confidence) for c in _to_search(fitted)},
    )


def fitted_numbers(
    cohort: Cohort, model: HazardsModel, confidence: float, progress: ProgressCallback
) -> FitNumbers | Refused:
    """Fit a model; its own level, where it states one, takes the place of ``confidence``."""
    try:
        fitted = fit_model(cohort, model, progress)
    except HourglassError as why:
        return Refused(str(why))
    return fit_numbers(fitted, model.confidence or confidence)


def fitted_again(cohort: Cohort, model: HazardsModel, known: FitNumbers) -> FittedModel:
    """The fitted model that numbers are of."""
    return of_design(design(cohort, model), model, known)


def of_design(coded: Design, model: HazardsModel, known: FitNumbers) -> FittedModel:
    """The fitted model that numbers are of, its columns coded already."""
    return FittedModel(
        model=model,
        design=coded if known.whole else coded.parted(),
        fit=known.fit,
        plain=known.plain,
        searched=known.searched,
    )


def _to_search(fitted: FittedModel) -> list[int]:
    """The coefficients whose limits are not those of a standard error."""
    if fitted.model.penalised:
        return [c for c, status in enumerate(fitted.fit.status) if status == "finite"]
    stated, found = fitted.design.stated_terms, []
    for c, status in enumerate(fitted.fit.status):
        term = stated[fitted.design.columns[c].term]
        alone = not term.several and not term.of_terms
        profiled = fitted.model.intervals == "profile" and status == "finite"
        if alone and (profiled or status in RUNNING):
            found.append(c)
    return found


def _searched(fitted: FittedModel, column: int, confidence: float) -> Searched:
    if fitted.fit.status[column] in RUNNING:
        end = fitted.finite_limit(column, confidence)
        limit = math.nan if end is None else end
        return Searched(limit, limit, None)
    p = fitted.p(column)
    try:
        return Searched(*fitted.limits(column, confidence), p)
    except NotEstimableError as why:
        return Searched(math.nan, math.nan, p, str(why))
