"""Follow-up and survival of everyone."""

from typing import cast

from hourglass.analysis.estimate.run import EstimateResult
from hourglass.analysis.shared import wording
from hourglass.report.pieces.piece import Findings, Piece, Printed


def _follow_up(found: Findings) -> Printed:
    estimate = cast(EstimateResult, found.results["estimate"])
    return Printed(method=estimate.sentence.text, paragraphs=(follow_up_words(estimate),))


def follow_up_words(estimate: EstimateResult) -> str:
    """How many were followed, for how long, what came of it, and the median."""
    cohort, decimals = estimate.cohort, estimate.cohort.decimals
    followed = wording.computed_time(cohort.median_follow_up.time, decimals)
    return (
        f"{wording.count(cohort.subjects, cohort.rows_are).capitalize()} were followed"
        + ("" if cohort.rows == cohort.subjects else f" in {wording.grouped(cohort.rows)} rows")
        + f", for a median of {followed} {cohort.unit} (by the reversed curve). "
        f"{wording.count(cohort.events, 'events')} were seen, "
        f"{wording.grouped(cohort.censored)} were censored"
        + (
            f", {wording.grouped(cohort.competing)} had a competing event. "
            if cohort.competing
            else ". "
        )
        + f"The median time to {cohort.event_name} was {estimate.curve.median.whole(decimals)} "
        f"{cohort.unit}."
    )


PIECE = Piece(
    "follow-up",
    "Everyone",
    "follow-up and survival of everyone",
    _follow_up,
    needs=("estimate",),
    offer="Survival of everyone",
)
