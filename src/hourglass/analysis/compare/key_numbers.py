"""What of a comparison is set beside that of another data extract."""

from hourglass.analysis.compare.result import CompareResult
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.key_numbers import KeyNumber


def key_numbers(result: CompareResult) -> tuple[KeyNumber, ...]:
    """The median of each group, and the p of the test."""
    decimals = result.cohort.decimals
    medians = [
        KeyNumber(f"median, {result.group(curve.label)}", curve.median.whole(decimals))
        for curve in result.curves
    ]
    if result.test.p is None:
        return tuple(medians)
    return (*medians, KeyNumber(f"p, {result.test_name}", formatting.p_value(result.test.p)))
