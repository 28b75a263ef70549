"""The numbers of two parts of Model: the test of leaving out each term, and the concordance."""

from dataclasses import dataclass

import numpy as np

from hourglass.analysis.model.fitting import FittedModel, fit_columns, fit_model
from hourglass.analysis.model.stated import model_of
from hourglass.analysis.model.statement import FIT_FIELDS
from hourglass.analysis.model.terms.forms import going_with
from hourglass.analysis.shared.declared import Statements
from hourglass.analysis.shared.numbers import Numbers, Refused
from hourglass.cohort.followup import Cohort
from hourglass.core.comparison.chi_squared import Test, no_test
from hourglass.core.errors import HourglassError
from hourglass.core.progress import ProgressCallback
from hourglass.core.regression.concordance import Concordance


@dataclass(frozen=True, slots=True)
class TermTestNumbers:
    """Of each term, the likelihood ratio test of leaving it out, and Wald's."""

    ratio: tuple[Test, ...]
    wald: tuple[Test, ...]


def term_test_numbers(
    cohort: Cohort, stated: Statements, progress: ProgressCallback
) -> TermTestNumbers | Refused:
    """Each term tested, the model refitted without it and without the products that it is part of."""
    try:
        fitted = fit_model(cohort, model_of(stated).hazards_model, progress)
    except HourglassError as why:
        return Refused(str(why))
    ratio, wald = [], []
    for k, label in enumerate(fitted.design.terms):
        progress(f"leaving out {label}", 0.5 + 0.5 * k / len(fitted.design.terms))
        ratio.append(_leaving_out(fitted, k))
        wald.append(fitted.fit.wald_of(fitted.design.of_term(k)))
    return TermTestNumbers(tuple(ratio), tuple(wald))


def _leaving_out(fitted: FittedModel, term: int) -> Test:
    """The likelihood ratio test of a term, its products with it."""
    coded = fitted.design
    positions = np.concatenate([coded.of_term(k) for k in going_with(coded.stated_terms, term)])
    if fitted.penalised is not None:
        return fitted.penalised.test_of(positions)
    rest = np.setdiff1d(np.arange(len(coded.columns)), positions)
    found = fitted.plain
    smaller = None
    if rest.size:
        _, smaller, _ = fit_columns(coded.with_columns(rest), found.ties, fitted.sets)
    if found.estimated == (0 if smaller is None else smaller.estimated):
        return no_test("it adds nothing to the other terms")
    return found.likelihood_ratio if smaller is None else found.against(smaller)


TERM_TESTS = Numbers({"model": (*FIT_FIELDS, "robust")}, term_test_numbers)


def ranking_numbers(
    cohort: Cohort, stated: Statements, progress: ProgressCallback
) -> Concordance | Refused:
    """The concordance of the model in its own rows."""
    try:
        fitted = fit_model(cohort, model_of(stated).hazards_model, progress)
    except HourglassError as why:
        return Refused(str(why))
    progress("ordering pairs", 0.6)
    return fitted.concordance()


RANKING = Numbers({"model": (*FIT_FIELDS, "robust")}, ranking_numbers)
