"""The parts of Model that take their time: the test of leaving out each term, and concordance."""

from typing import cast

import numpy as np

from hourglass.analysis.model.fitting import FittedModel, fit_model
from hourglass.analysis.model.readings import ChiSquared, chi_squared_reading
from hourglass.analysis.model.sections import test_table
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.cell import figure, words
from hourglass.analysis.shared.parts import Part
from hourglass.analysis.shared.result import PartResult
from hourglass.analysis.shared.sections import Section, Table, quiet
from hourglass.analysis.shared.stage import Statements
from hourglass.cohort.followup import Cohort
from hourglass.core.comparison.chi_squared import Test, chi_squared
from hourglass.core.regression.concordance import concordance
from hourglass.core.regression.fit import fit
from hourglass.core.watch import Watch


class TermTests(PartResult):
    """The test of leaving out each term."""

    tests: list[ChiSquared]


class Ranking(PartResult):
    """The share of pairs that the model puts in the order in which they happened."""

    concordance: float | None
    standard_error: float | None


def _fitted(cohort: Cohort, asked: Statements, watch: Watch) -> FittedModel:
    return fit_model(cohort, cast(ModelStatement, asked["model"]), watch)


def term_tests(cohort: Cohort, asked: Statements, watch: Watch) -> TermTests:
    """Each term tested by likelihood ratio, the model refitted without it."""
    fitted = _fitted(cohort, asked, watch)
    tests = []
    for k, label in enumerate(fitted.design.terms):
        watch(f"leaving out {label}", 0.5 + 0.5 * k / len(fitted.design.terms))
        tests.append(_leaving_out(fitted, fitted.design.of_term(k), label))
    section = Section(
        id="terms", title="Tests of each term", blocks=[test_table("Tests of each term", tests)]
    )
    return TermTests(sections=[section], tests=tests)


def _leaving_out(fitted: FittedModel, positions: np.ndarray, label: str) -> ChiSquared:
    coded, found = fitted.design, fitted.fit
    rest = np.setdiff1d(np.arange(coded.x.shape[1]), positions)
    without = fit(coded.data, coded.x[:, rest]) if rest.size else None
    value = found.value_at_zero if without is None else without.value
    kept = sum(f != "aliased" for f in found.fate)
    df = kept - (0 if without is None else sum(f != "aliased" for f in without.fate))
    if df == 0:
        blank = Test(None, 0, None, "it adds nothing to the other terms")
        return chi_squared_reading(label, blank)
    return chi_squared_reading(label, chi_squared(max(2 * (found.value - value), 0.0), df))


def ranking(cohort: Cohort, asked: Statements, watch: Watch) -> Ranking:
    """Concordance with its standard error."""
    fitted = _fitted(cohort, asked, watch)
    watch("ordering pairs", 0.6)
    order = concordance(fitted.design.data, fitted.fit.linear)
    told = (
        wording.BLANK
        if order.value is None
        else f"{wording.rounded(order.value, 3)} ± {wording.rounded(order.standard_error or 0, 3)}"
    )
    section = Section(
        id="ranking",
        title="Concordance",
        blocks=[
            Table(
                label="Concordance",
                keys=["what", "concordance"],
                rows=[[words("Concordance ± standard error"), figure(told, order.value)]],
            ),
            quiet(
                "The share of pairs that can be compared which the model puts in the order in which "
                "they happened; 0.5 is what chance would do."
            ),
        ],
    )
    return Ranking(sections=[section], concordance=order.value, standard_error=order.standard_error)


PARTS = (
    Part("terms", "Tests of each term", TermTests, term_tests),
    Part("ranking", "Concordance", Ranking, ranking),
)
