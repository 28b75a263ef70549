"""Follow-up and survival of all subjects."""

from dataclasses import replace

from hourglass.analysis.estimate.result import EstimateResult
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.report.inputs import ReportInputs
from hourglass.report.pieces.cited import paragraph
from hourglass.report.pieces.piece import Piece, Printed
from hourglass.report.pieces.sections import sections_printed
from hourglass.report.tables import ReportTable


def _follow_up(found: ReportInputs) -> Printed:
    estimate = found.result("estimate", EstimateResult)
    if estimate is None:
        return Printed()
    printed = sections_printed("estimate", (SectionId.GROUPS,))(found)
    one = [table for table in printed.tables if len(table.rows) == 1]
    words = paragraph(follow_up_words(estimate), *(_rate(table) for table in one))
    tables = tuple(replace(table, in_words=True) for table in one) or printed.tables
    return replace(printed, paragraphs=(words, *printed.paragraphs), tables=tables)


def _rate(table: ReportTable) -> str:
    """The rate of all subjects, where a table of one row holds it."""
    column = next(one for one in table.columns if one.key == "rate")
    return f"There were {column.cells[0].text} {column.head}."


def follow_up_words(estimate: EstimateResult) -> str:
    """How many were followed, for how long, what came of it, and the median."""
    cohort = estimate.cohort
    time = formatting.person_time(cohort.person_time, cohort.decimals)
    return (
        f"{formatting.count(cohort.subjects, cohort.rows_are)} {formatting.were(cohort.subjects)} followed"
        + ("" if cohort.rows == cohort.subjects else f" in {formatting.grouped(cohort.rows)} rows")
        + f" for {time} {cohort.unit} in all{_followed_for(estimate)}. "
        f"{formatting.count(cohort.events, 'events')} {formatting.were(cohort.events)} seen, "
        f"{formatting.grouped(cohort.censored)} {formatting.were(cohort.censored)} censored"
        + (
            f", {formatting.grouped(cohort.competing)} had a competing event. "
            if cohort.competing
            else ". "
        )
        + f"The median time to {cohort.event_name} was {median_words(estimate)}."
    )


def _followed_for(estimate: EstimateResult) -> str:
    """The median follow-up; the reversed curve may end above a half, as where all had the event."""
    cohort = estimate.cohort
    median = cohort.median_follow_up.time
    if median is None:
        return "; the median follow-up (reverse Kaplan–Meier) was not reached"
    followed = formatting.computed_time(median, cohort.decimals)
    return f", with a median follow-up of {followed} {cohort.unit} (reverse Kaplan–Meier)"


def median_words(estimate: EstimateResult) -> str:
    """The median with its limits, and its unit where it is a time."""
    median = estimate.curve.median
    shown = median.whole(estimate.cohort.decimals)
    return shown if median.time is None else f"{shown} {estimate.cohort.unit}"


PIECE = Piece(
    key="follow-up",
    title="Follow-up and survival",
    words="follow-up and survival of all subjects",
    shows="events, person-time and follow-up",
    shortest="journal",
    sections=(SectionId.GROUPS,),
    render=_follow_up,
    needs=("estimate",),
    offer="Survival of all subjects",
)
