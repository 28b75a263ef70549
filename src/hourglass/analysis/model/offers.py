"""What somebody is offered in the place of a part that fits the model again on samples."""

from hourglass.cohort.followup import Cohort
from hourglass.core.regression.adjusted import SAMPLES

AT_ONCE = 5_000
"""Rows up to which adjusted curves are fitted again without being requested."""
OFFER = f"Fit the model again on {SAMPLES} samples"


def means_offer(cohort: Cohort) -> str:
    """Predicted means are always requested."""
    return OFFER


def adjusted_offer(cohort: Cohort) -> str:
    """Adjusted curves are requested where there are many rows."""
    return OFFER if cohort.table.size > AT_ONCE else ""
