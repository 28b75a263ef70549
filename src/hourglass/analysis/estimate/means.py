"""What is shown of restricted means."""

from hourglass.analysis.estimate.curves import Estimated
from hourglass.analysis.shared.mean_section import Means


def means_of(found: Estimated) -> Means:
    """The curves, and up to where their means are restricted."""
    asked = found.statement
    return Means(found.curves, asked.confidence, asked.limit, found.grouped)
