"""The part of Model that sets each level's ratios beside its median, on the rows of the model."""

from hourglass.analysis.model.alone import fitted_alone
from hourglass.analysis.model.design import follow_up_of
from hourglass.analysis.model.fit_numbers import fitted_again
from hourglass.analysis.model.level_curves import (
    MEDIANS,
    MedianNumbers,
    has_ratio_a_level,
    level_rows,
)
from hourglass.analysis.model.readouts import CoefficientReadout, RatioReadout
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.model.term_readouts import ratios_of_terms, term_readouts
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import Cell, estimate, whole, words
from hourglass.analysis.shared.curve_form import study_form
from hourglass.analysis.shared.curve_readouts import CurveReadout, reading
from hourglass.analysis.shared.curves import curve_of
from hourglass.analysis.shared.declared import Statements, statement_of
from hourglass.analysis.shared.groups import group_by
from hourglass.analysis.shared.numbers import Refused
from hourglass.analysis.shared.parts import DeferredSection
from hourglass.analysis.shared.result import PartResult
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import ContentBlock, Section, Table, quiet
from hourglass.cohort.followup import Cohort
from hourglass.cohort.time_decimals import TimeDecimals

TITLE = "Medians beside hazard ratios"
KEYS = ["group", "rows", "events", "median", "alone", "adjusted"]
ABOUT = (
    "Medians are of the curve of each level, not adjusted, on the rows of the model. A ratio of rates is "
    "no ratio of medians: only where hazards stay in proportion do both say the same."
)


class MediansBeside(PartResult):
    """The median of each level of the model's categories, beside its hazard ratios."""


def any_ratio_a_level(statement: ModelStatement) -> bool:
    """Whether there is a category whose levels have one ratio each."""
    return any(has_ratio_a_level(term) for term in statement.terms)


def medians_beside(
    numbers: MedianNumbers | Refused, cohort: Cohort, statements: Statements
) -> MediansBeside:
    """A line a level of each category: rows, events, median, ratio on its own and adjusted."""
    if isinstance(numbers, Refused):
        return MediansBeside(sections=[_section(quiet(f"No medians: {numbers.why}."))])
    statement = statement_of(statements, ModelStatement)
    fitted = fitted_again(cohort, statement.hazards_model, numbers.fit)
    form = study_form(statements).at_level(statement.confidence)
    shown, alone = ratios_of_terms(cohort, fitted), fitted_alone(fitted, numbers.alone)
    terms = term_readouts(fitted, shown, form.confidence, alone)
    data, _ = follow_up_of(cohort, statement.cause)
    rows = []
    for (k, place), inside in level_rows(cohort, fitted.design):
        term = fitted.design.stated_terms[k]
        level = group_by(cohort.table, term.column, getattr(term, "reference", None)).labels[place]
        known = numbers.curves[k, place]
        curve = reading(curve_of(data.only(inside), form, level, place, known=known), ())
        own = next((c for c in terms[k].coefficients if c.label == level), None)
        rows.append(_row(term.column, curve, own, cohort.decimals))
    unit = cohort.statement.unit
    head = ["", cohort.rows_are, "events", f"median, {unit} ({form.ci})", "unadjusted", "adjusted"]
    table = Table(label=TITLE, head=head, keys=KEYS, rows=rows)
    return MediansBeside(sections=[_section(table, quiet(ABOUT))])


def _section(*blocks: ContentBlock) -> Section:
    return Section(id=SectionId.MEDIANS, title=TITLE, place="main", blocks=list(blocks))


def _row(
    column: str, curve: CurveReadout, own: CoefficientReadout | None, decimals: TimeDecimals
) -> list[Cell]:
    median = curve.median
    return [
        words(f"{column}: {curve.label}"),
        whole(curve.subjects),
        whole(curve.events),
        estimate(median.whole(decimals), median.time, median.lower, median.upper, note=median.note),
        *_ratios(own, reference=curve.tone == 0),
    ]


def _ratios(own: CoefficientReadout | None, *, reference: bool) -> list[Cell]:
    if own is None:
        text = "1 (reference)" if reference else "given within levels of others"
        return [words(text), words(text)]
    return [_ratio(own.alone), _ratio(own.adjusted)]


def _ratio(one: RatioReadout) -> Cell:
    p = "" if one.p is None else formatting.p_phrase(one.p)
    return one.cell(below=p)


PART = DeferredSection(
    key="medians", title=TITLE, result=MediansBeside, numbers=MEDIANS, show=medians_beside
)
