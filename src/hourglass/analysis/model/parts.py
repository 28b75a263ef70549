"""The parts of Model: the test of leaving out each term, concordance, adjusted curves, and the others."""

from hourglass.analysis.model import sampled, term_test_numbers
from hourglass.analysis.model.adjusted import Adjusted
from hourglass.analysis.model.adjusted_shown import TITLE as ADJUSTED
from hourglass.analysis.model.adjusted_shown import adjusted_section
from hourglass.analysis.model.candidates import PARTS as CANDIDATE_PARTS
from hourglass.analysis.model.design import design
from hourglass.analysis.model.kept_part import PART as KEPT
from hourglass.analysis.model.means_part import PART as MEANS
from hourglass.analysis.model.medians_part import PART as MEDIANS
from hourglass.analysis.model.offers import adjusted_offer
from hourglass.analysis.model.ranking import TITLE, ranking_table
from hourglass.analysis.model.reading_times import reading_times
from hourglass.analysis.model.readouts import ChiSquared, chi_squared_readout
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.model.term_test_numbers import TermTestNumbers
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import p_cell, words
from hourglass.analysis.shared.curve_form import study_form
from hourglass.analysis.shared.declared import Statements, statement_of
from hourglass.analysis.shared.numbers import Refused
from hourglass.analysis.shared.parts import DeferredSection
from hourglass.analysis.shared.result import PartResult
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import ContentBlock, Section, Table, quiet, test_row
from hourglass.cohort.followup import Cohort
from hourglass.core.regression.concordance import Concordance


class TermTests(PartResult):
    """The test of leaving out each term."""

    tests: list[ChiSquared]


class Ranking(PartResult):
    """The share of pairs that the model puts in the order in which they happened."""

    concordance: float | None
    standard_error: float | None


def term_tests(
    numbers: TermTestNumbers | Refused, cohort: Cohort, statements: Statements
) -> TermTests:
    """Each term tested by likelihood ratio, the model refitted without it, and by Wald's test."""
    title = "Tests of each term"
    if isinstance(numbers, Refused):
        blank = quiet(f"No tests: {numbers.why}.")
        return TermTests(
            sections=[Section(id=SectionId.TERMS, title=title, blocks=[blank])], tests=[]
        )
    model = statement_of(statements, ModelStatement).hazards_model
    labels = design(cohort, model).terms
    tests, rows = [], []
    for label, of_ratio, of_wald in zip(labels, numbers.ratio, numbers.wald, strict=True):
        ratio, wald = (chi_squared_readout(label, one) for one in (of_ratio, of_wald))
        tests.append(ratio)
        rows.append([*test_row(words(label), ratio), p_cell(wald.p)])
    table = Table(
        label=title,
        head=["", "χ²", "df", "p", "Wald p"],
        keys=["term", "chi_squared", "df", "p", "wald_p"],
        rows=rows,
    )
    about = "Likelihood-ratio tests compare the model with the one without the term"
    any_product = any(t.of_terms for t in model.terms)
    products = "; a term with a product is left out with it" if any_product else ""
    section = Section(id=SectionId.TERMS, title=title, blocks=[table, quiet(f"{about}{products}.")])
    return TermTests(sections=[section], tests=tests)


class AdjustedSurvival(PartResult):
    """Adjusted survival at chosen times, with limits."""


def adjusted_survival(
    numbers: Adjusted | Refused | None, cohort: Cohort, statements: Statements
) -> AdjustedSurvival:
    """The adjusted curves at the chosen times, with limits from refits."""
    statement = statement_of(statements, ModelStatement)
    form = study_form(statements).at_level(statement.confidence)
    times = reading_times(cohort, statement)
    return AdjustedSurvival(sections=[adjusted_section(numbers, times, form)])


def ranking(numbers: Concordance | Refused, cohort: Cohort, statements: Statements) -> Ranking:
    """Concordance with its standard error."""
    if isinstance(numbers, Refused):
        blank = quiet(f"No concordance: {numbers.why}.")
        section = Section(id=SectionId.RANKING, title=TITLE, blocks=[blank])
        return Ranking(sections=[section], concordance=None, standard_error=None)
    about = (
        "The share of pairs that can be compared which the model puts in the order in which "
        "they happened; 0.5 is what chance would do."
    )
    blocks: list[ContentBlock] = [ranking_table(numbers, formatting.BLANK), quiet(about)]
    section = Section(id=SectionId.RANKING, title=TITLE, blocks=blocks)
    return Ranking(
        sections=[section], concordance=numbers.value, standard_error=numbers.standard_error
    )


PARTS = (
    DeferredSection(
        key="terms",
        title="Tests of each term",
        result=TermTests,
        numbers=term_test_numbers.TERM_TESTS,
        show=term_tests,
    ),
    DeferredSection(
        key="ranking", title=TITLE, result=Ranking, numbers=term_test_numbers.RANKING, show=ranking
    ),
    KEPT,
    *CANDIDATE_PARTS,
    MEDIANS,
    MEANS,
    DeferredSection(
        key="adjusted",
        title=ADJUSTED,
        result=AdjustedSurvival,
        numbers=sampled.ADJUSTED,
        show=adjusted_survival,
        offer=adjusted_offer,
    ),
)
