"""The parts of Model that take their time: the test of leaving out each term, and concordance."""

from typing import cast

import numpy as np

from hourglass.analysis.model.adjusted import adjusted_levels, adjusted_section
from hourglass.analysis.model.candidates import PARTS as CANDIDATE_PARTS
from hourglass.analysis.model.fitting import FittedModel, fit_model
from hourglass.analysis.model.kept_part import PART as KEPT
from hourglass.analysis.model.means_part import PART as MEANS
from hourglass.analysis.model.reading_times import reading_times
from hourglass.analysis.model.readings import ChiSquared, chi_squared_reading
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.model.terms.forms import ProductTerm
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.cell import Cell, figure, words
from hourglass.analysis.shared.parts import Part
from hourglass.analysis.shared.result import PartResult
from hourglass.analysis.shared.sections import Section, Table, quiet, test_cells
from hourglass.analysis.shared.stage import Statements
from hourglass.cohort.followup import Cohort
from hourglass.core.comparison.chi_squared import Test, chi_squared
from hourglass.core.regression.adjusted import SAMPLES
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
    return fit_model(cohort, cast(ModelStatement, asked["model"]).hazards_model, watch)


def term_tests(cohort: Cohort, asked: Statements, watch: Watch) -> TermTests:
    """Each term tested by likelihood ratio, the model refitted without it, and by Wald's test."""
    fitted = _fitted(cohort, asked, watch)
    tests, rows = [], []
    for k, label in enumerate(fitted.design.terms):
        watch(f"leaving out {label}", 0.5 + 0.5 * k / len(fitted.design.terms))
        positions = fitted.design.of_term(k)
        ratio = chi_squared_reading(label, _leaving_out(fitted, k))
        wald = chi_squared_reading(label, fitted.wald_of(positions))
        tests.append(ratio)
        rows.append([words(label), *_test_cells(ratio), *_p_cells(wald)])
    table = Table(
        label="Tests of each term",
        head=["", "χ²", "df", "p", "Wald p"],
        keys=["term", "chi_squared", "df", "p", "wald_p"],
        rows=rows,
    )
    about = "By the likelihood ratio: how much worse the model fits without the term"
    products = "; a term with a product is left out with it" if _has_products(fitted) else ""
    return TermTests(
        sections=[
            Section(
                id="terms", title="Tests of each term", blocks=[table, quiet(f"{about}{products}.")]
            )
        ],
        tests=tests,
    )


def _has_products(fitted: FittedModel) -> bool:
    return any(isinstance(t, ProductTerm) for t in fitted.design.asked)


def _test_cells(test: ChiSquared) -> list[Cell]:
    if test.statistic is None:
        return [words(test.blank or "", wordy=True)]
    return test_cells(words(test.name), test.statistic, test.df, test.p)[1:]


def _p_cells(test: ChiSquared) -> list[Cell]:
    return [figure(wording.p_value(test.p), test.p)]


def _leaving_out(fitted: FittedModel, term: int) -> Test:
    """The likelihood ratio test of a term, its products with it."""
    coded, of = fitted.design, fitted.design.asked[term]
    without = [
        k
        for k, other in enumerate(coded.asked)
        if k == term
        or (
            not isinstance(of, ProductTerm)
            and isinstance(other, ProductTerm)
            and of.column in other.columns
        )
    ]
    positions = np.concatenate([coded.of_term(k) for k in without])
    if fitted.penalised is not None:
        return fitted.penalised.test_of(positions)
    rest = np.setdiff1d(np.arange(coded.x.shape[1]), positions)
    found = fitted.plain
    smaller = None
    if rest.size:
        smaller = fit(coded.data, coded.x[:, rest], ties=found.ties, stratum=coded.stratum)
    value = found.value_at_zero if smaller is None else smaller.value
    df = found.estimated - (0 if smaller is None else smaller.estimated)
    if df == 0:
        return Test(None, 0, None, "it adds nothing to the other terms")
    return chi_squared(max(2 * (found.value - value), 0.0), df)


class AdjustedSurvival(PartResult):
    """Adjusted survival at chosen times, with limits."""


def adjusted_survival(cohort: Cohort, asked: Statements, watch: Watch) -> AdjustedSurvival:
    """The adjusted curves at the chosen times, with limits from refits."""
    statement = cast(ModelStatement, asked["model"])
    fitted = _fitted(cohort, asked, watch)
    times = reading_times(cohort, statement)
    found = adjusted_levels(cohort, fitted, statement, np.array(times), SAMPLES, watch)
    return AdjustedSurvival(sections=[adjusted_section(found, times)])


def ranking(cohort: Cohort, asked: Statements, watch: Watch) -> Ranking:
    """Concordance with its standard error."""
    fitted = _fitted(cohort, asked, watch)
    watch("ordering pairs", 0.6)
    order = concordance(fitted.design.data, fitted.fit.linear, fitted.design.stratum)
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
    KEPT,
    *CANDIDATE_PARTS,
    MEANS,
    Part("adjusted", "Adjusted survival", AdjustedSurvival, adjusted_survival),
)
