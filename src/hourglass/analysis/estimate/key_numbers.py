"""What of an estimate is set beside that of another data extract."""

from hourglass.analysis.estimate.result import EstimateResult
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.key_numbers import KeyNumber


def key_numbers(result: EstimateResult) -> tuple[KeyNumber, ...]:
    """Events and the median with its limits."""
    curve, decimals = result.curve, result.cohort.decimals
    return (
        KeyNumber("events", formatting.grouped(curve.events)),
        KeyNumber(f"median, {result.cohort.unit}", curve.median.whole(decimals)),
    )
