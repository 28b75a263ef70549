"""What is shown of each term: its ratios adjusted for the others, and on its own in the same rows."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from hourglass.analysis.model.compared_ratios import ComparedRatio, compared_ratios
from hourglass.analysis.model.fit_numbers import FitNumbers, fitted_again
from hourglass.analysis.model.fitting import FittedModel
from hourglass.analysis.model.ratios import no_ratio, ratio_readout
from hourglass.analysis.model.readouts import CoefficientReadout, RatioReadout, TermReadout
from hourglass.analysis.model.statement import HazardsModel
from hourglass.analysis.shared.curve_form import CurveForm
from hourglass.analysis.shared.numbers import Refused
from hourglass.cohort.followup import Cohort

ComparedRatios = list[list[ComparedRatio]]


def term_readouts(
    fitted: FittedModel,
    compared: ComparedRatios,
    confidence: float,
    alone: Sequence[FittedModel | None] = (),
) -> list[TermReadout]:
    """A reading a term.

    Args:
        alone: each term by itself, in the same rows as the whole model; None for one that cannot be
            fitted so. Without any, a term is by itself what it is in the model.
    """
    found = []
    for k, ratios in enumerate(compared):
        term = fitted.design.stated_terms[k]
        readings = []
        for one in ratios:
            adjusted = ratio_readout(fitted, one, confidence)
            own = _on_its_own(fitted, alone[k], one, confidence) if alone else adjusted
            readings.append(_reading(one, adjusted, own))
        headed = term.headed or len(ratios) != 1
        found.append(
            TermReadout(
                label=fitted.design.terms[k], name=term.name, headed=headed, coefficients=readings
            )
        )
    return found


@dataclass(frozen=True, slots=True)
class ReadModel:
    """A fitted model with what is shown of its terms, or why there is none."""

    fitted: FittedModel | None
    terms: list[TermReadout]
    blank: str = ""


def read_model(
    cohort: Cohort, model: HazardsModel, form: CurveForm, known: FitNumbers | Refused
) -> ReadModel:
    """The ratios of a fitted model, at its own level or that of the study's curves."""
    if isinstance(known, Refused):
        return ReadModel(None, [], known.why)
    fitted = fitted_again(cohort, model, known)
    level = form.at_level(model.confidence).confidence
    return ReadModel(fitted, term_readouts(fitted, ratios_of_terms(cohort, fitted), level))


def ratios_of_terms(cohort: Cohort, fitted: FittedModel) -> ComparedRatios:
    """The ratios shown of each term."""
    return [compared_ratios(cohort, fitted.design, k) for k in range(len(fitted.design.terms))]


def _reading(one: ComparedRatio, adjusted: RatioReadout, alone: RatioReadout) -> CoefficientReadout:
    return CoefficientReadout(
        column=one.column,
        label=one.label,
        against=one.compared.against,
        comparison=one.compared.comparison,
        adjusted=adjusted,
        alone=alone,
    )


def _on_its_own(
    fitted: FittedModel, alone: FittedModel | None, one: ComparedRatio, confidence: float
) -> RatioReadout:
    if fitted.design.stated_terms[one.term].of_terms:
        return no_ratio("aliased", "the ratios of a product are given with its terms")
    if alone is None:
        return no_ratio("aliased", "not estimable")
    positions = fitted.design.of_term(one.term)
    weights = one.weights[positions]
    return ratio_readout(alone, ComparedRatio(0, one.compared, np.asarray(weights)), confidence)
