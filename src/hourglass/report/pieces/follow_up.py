"""Follow-up and survival of everyone."""

from hourglass.analysis.estimate.result import EstimateResult
from hourglass.analysis.shared import wording
from hourglass.report.findings import Findings
from hourglass.report.pieces.piece import Piece, Printed


def _follow_up(found: Findings) -> Printed:
    estimate = found.result("estimate", EstimateResult)
    if estimate is None:
        return Printed()
    return Printed(paragraphs=(follow_up_words(estimate),))


def follow_up_words(estimate: EstimateResult) -> str:
    """How many were followed, for how long, what came of it, and the median."""
    cohort = estimate.cohort
    return (
        f"{wording.count(cohort.subjects, cohort.rows_are)} {wording.were(cohort.subjects)} followed"
        + ("" if cohort.rows == cohort.subjects else f" in {wording.grouped(cohort.rows)} rows")
        + f"{_followed_for(estimate)}. "
        f"{wording.count(cohort.events, 'events')} {wording.were(cohort.events)} seen, "
        f"{wording.grouped(cohort.censored)} {wording.were(cohort.censored)} censored"
        + (
            f", {wording.grouped(cohort.competing)} had a competing event. "
            if cohort.competing
            else ". "
        )
        + f"The median time to {cohort.event_name} was {_median(estimate)}."
    )


def _followed_for(estimate: EstimateResult) -> str:
    """The median follow-up; the reversed curve may end above a half, as where all had the event."""
    cohort = estimate.cohort
    median = cohort.median_follow_up.time
    if median is None:
        return "; their median follow-up (reverse Kaplan–Meier) was not reached"
    followed = wording.computed_time(median, cohort.decimals)
    return f", for a median of {followed} {cohort.unit} (reverse Kaplan–Meier)"


def _median(estimate: EstimateResult) -> str:
    """The median with its limits, and its unit where it is a time."""
    median = estimate.curve.median
    told = median.whole(estimate.cohort.decimals)
    return told if median.time is None else f"{told} {estimate.cohort.unit}"


PIECE = Piece(
    key="follow-up",
    title="All subjects",
    words="follow-up and survival of all subjects",
    render=_follow_up,
    needs=("estimate",),
    offer="Survival of all subjects",
)
