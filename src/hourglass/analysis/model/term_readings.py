"""What is told of each term: its ratios adjusted for the others, and on its own in the same rows."""

from dataclasses import dataclass

import numpy as np

from hourglass.analysis.model.fitting import FittedModel, fit_design, fit_model
from hourglass.analysis.model.ratios import no_ratio, ratio_reading
from hourglass.analysis.model.readings import CoefficientReading, RatioReading, TermReading
from hourglass.analysis.model.statement import HazardsModel
from hourglass.analysis.model.terms.forms import CategoryTerm, CurvedTerm, ProductTerm
from hourglass.analysis.model.told_ratios import ToldRatio, told_ratios
from hourglass.analysis.shared.curve_form import CurveForm
from hourglass.cohort.followup import Cohort
from hourglass.core.errors import HourglassError, NotEstimableError
from hourglass.core.regression.ties import EXACT
from hourglass.core.watch import Watch

Told = list[list[ToldRatio]]


def term_readings(
    cohort: Cohort,
    fitted: FittedModel,
    told: Told,
    confidence: float,
    watch: Watch,
    *,
    alone: bool = True,
) -> list[TermReading]:
    """A reading a term; those on their own are left out where nobody asks for them."""
    # Of a single term there is nothing to adjust for: alone it is what it is.
    single = len(fitted.design.terms) == 1 or not alone
    found = []
    for k, ratios in enumerate(told):
        term = fitted.design.asked[k]
        by_itself = fitted if single else _alone(fitted, k, watch)
        readings = []
        for one in ratios:
            adjusted = ratio_reading(fitted, one, confidence)
            own = adjusted if single else _on_its_own(fitted, by_itself, one, confidence)
            readings.append(_reading(one, adjusted, own, exact=fitted.plain.ties is EXACT))
        headed = isinstance(term, CategoryTerm | CurvedTerm) or len(ratios) != 1
        found.append(
            TermReading(
                label=fitted.design.terms[k],
                name=term.label if isinstance(term, ProductTerm) else term.column,
                headed=headed,
                coefficients=readings,
            )
        )
    return found


@dataclass(frozen=True, slots=True)
class ReadModel:
    """A fitted model with what is told of its terms, or why there is none."""

    fitted: FittedModel | None
    terms: list[TermReading]
    blank: str = ""


def read_model(cohort: Cohort, model: HazardsModel, form: CurveForm, watch: Watch) -> ReadModel:
    """Fit a model and read its ratios, adjusted alone, at its own level or that of the study's curves."""
    level = form.at_level(model.confidence).confidence
    try:
        fitted = fit_model(cohort, model, watch)
        told = ratios_of_terms(cohort, fitted)
    except HourglassError as reason:
        return ReadModel(None, [], str(reason))
    return ReadModel(fitted, term_readings(cohort, fitted, told, level, watch, alone=False))


def ratios_of_terms(cohort: Cohort, fitted: FittedModel) -> Told:
    """The ratios told of each term."""
    return [told_ratios(cohort, fitted.design, k) for k in range(len(fitted.design.terms))]


def _reading(
    one: ToldRatio, adjusted: RatioReading, alone: RatioReading, *, exact: bool
) -> CoefficientReading:
    return CoefficientReading(
        column=None if exact else one.column,
        label=one.label,
        against=one.compared.against,
        told=one.compared.told,
        adjusted=adjusted,
        alone=alone,
    )


def _alone(fitted: FittedModel, term: int, watch: Watch) -> FittedModel | None:
    """A term by itself, in the same rows as the whole model; None where it cannot be fitted so."""
    if isinstance(fitted.design.asked[term], ProductTerm):
        return None
    watch(f"{fitted.design.terms[term]} on its own", 0.3)
    try:
        return fit_design(
            fitted.design.with_columns(fitted.design.of_term(term)),
            fitted.model,
            watch,
            fitted.sets,
        )
    except NotEstimableError:
        return None


def _on_its_own(
    fitted: FittedModel, alone: FittedModel | None, one: ToldRatio, confidence: float
) -> RatioReading:
    if isinstance(fitted.design.asked[one.term], ProductTerm):
        return no_ratio("aliased", "a product is told with its terms")
    if alone is None:
        return no_ratio("aliased", "not estimable")
    positions = fitted.design.of_term(one.term)
    weights = one.weights[positions]
    return ratio_reading(alone, ToldRatio(0, one.compared, np.asarray(weights)), confidence)
