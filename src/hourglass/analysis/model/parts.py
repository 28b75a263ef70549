"""The parts of Model that take their time: the test of leaving out each term, and concordance."""

from typing import cast

import numpy as np

from hourglass.analysis.model.adjusted import TITLE as ADJUSTED
from hourglass.analysis.model.adjusted import adjusted_levels, adjusted_section
from hourglass.analysis.model.candidates import PARTS as CANDIDATE_PARTS
from hourglass.analysis.model.fitting import FittedModel, fit_columns, fit_model
from hourglass.analysis.model.kept_part import PART as KEPT
from hourglass.analysis.model.means_part import PART as MEANS
from hourglass.analysis.model.medians_part import PART as MEDIANS
from hourglass.analysis.model.ranking import TITLE, ranking_of, ranking_table
from hourglass.analysis.model.reading_times import reading_times
from hourglass.analysis.model.readings import ChiSquared, chi_squared_reading
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.model.terms.forms import ProductTerm, going_with
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.cell import figure, words
from hourglass.analysis.shared.curve_form import study_form
from hourglass.analysis.shared.parts import Part
from hourglass.analysis.shared.result import PartResult
from hourglass.analysis.shared.sections import Block, Section, Table, quiet, test_row
from hourglass.analysis.shared.stage import Statements
from hourglass.cohort.followup import Cohort
from hourglass.core.comparison.chi_squared import Test, no_test
from hourglass.core.regression.adjusted import SAMPLES
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
        wald = chi_squared_reading(label, fitted.fit.wald_of(positions))
        tests.append(ratio)
        rows.append([*test_row(words(label), ratio), figure(wording.p_value(wald.p), wald.p)])
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


def _leaving_out(fitted: FittedModel, term: int) -> Test:
    """The likelihood ratio test of a term, its products with it."""
    coded = fitted.design
    positions = np.concatenate([coded.of_term(k) for k in going_with(coded.asked, term)])
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


class AdjustedSurvival(PartResult):
    """Adjusted survival at chosen times, with limits."""


def adjusted_survival(cohort: Cohort, asked: Statements, watch: Watch) -> AdjustedSurvival:
    """The adjusted curves at the chosen times, with limits from refits."""
    statement = cast(ModelStatement, asked["model"])
    form = study_form(asked).at_level(statement.confidence)
    fitted = _fitted(cohort, asked, watch)
    times = reading_times(cohort, statement)
    found = adjusted_levels(cohort, fitted, statement, form, np.array(times), SAMPLES, watch)
    return AdjustedSurvival(sections=[adjusted_section(found, times, form)])


def ranking(cohort: Cohort, asked: Statements, watch: Watch) -> Ranking:
    """Concordance with its standard error."""
    fitted = _fitted(cohort, asked, watch)
    watch("ordering pairs", 0.6)
    order = ranking_of(fitted)
    about = (
        "The share of pairs that can be compared which the model puts in the order in which "
        "they happened; 0.5 is what chance would do."
    )
    blocks: list[Block] = [ranking_table(order, wording.BLANK), quiet(about)]
    section = Section(id="ranking", title=TITLE, blocks=blocks)
    return Ranking(sections=[section], concordance=order.value, standard_error=order.standard_error)


PARTS = (
    Part("terms", "Tests of each term", TermTests, term_tests),
    Part("ranking", TITLE, Ranking, ranking),
    KEPT,
    *CANDIDATE_PARTS,
    MEDIANS,
    MEANS,
    Part("adjusted", ADJUSTED, AdjustedSurvival, adjusted_survival),
)
