"""What each ratio of a model says, in a sentence."""

from hourglass.analysis.model.design import Design
from hourglass.analysis.model.readings import CoefficientReading, TermReading
from hourglass.analysis.model.statement import CategoryTerm, DoublingTerm, Term
from hourglass.analysis.shared import wording
from hourglass.cohort.followup import Cohort


def in_words(
    cohort: Cohort,
    asked: tuple[Term, ...],
    coded: Design,
    terms: list[TermReading],
    confidence: float,
) -> list[str]:
    """A sentence for each ratio that there is."""
    others = ", other terms equal" if len(terms) > 1 else ""
    return [
        f"{_sentence(cohort, term, coded, c)} ({wording.level_percent(confidence)} interval "
        f"{c.adjusted.interval}){others}."
        for term, told in zip(asked, terms, strict=True)
        for c in told.coefficients
        if c.adjusted.ratio is not None
    ]


def _sentence(cohort: Cohort, term: Term, coded: Design, c: CoefficientReading) -> str:
    event, times = cohort.statement.event_name, wording.ratio(c.adjusted.ratio)
    if isinstance(term, CategoryTerm):
        return (
            f"At any moment, {cohort.rows_are} with {coded.columns[c.column].named} come to {event} "
            f"at {times} times the rate of those with {c.against}"
        )
    if isinstance(term, DoublingTerm):
        per = f"for every doubling of {term.column}"
    else:
        per = f"for every {wording.plain(term.unit)} more of {term.column}"
    return f"At any moment {event} comes at {times} times the rate {per}"
