"""Survival of everyone, as a sentence."""

from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.shared.sentence import Sentence, sentence
from hourglass.analysis.shared.slots import confidence_slot, times_slot
from hourglass.cohort.followup import Cohort


def estimate_sentence(cohort: Cohort, statement: EstimateStatement) -> Sentence:
    """The statement in words."""
    unit = cohort.statement.unit
    return sentence(
        f"Estimate the share of {cohort.rows_are} still free of "
        f"{cohort.statement.event_name}, with ",
        confidence_slot(statement.confidence),
        " log–log intervals, read at ",
        times_slot(statement.times, unit),
        f" {unit}.",
    )
