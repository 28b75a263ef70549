"""What is shown of restricted means."""

from hourglass.analysis.estimate.curves import Estimated
from hourglass.analysis.shared.mean_section import Means


def means_of(found: Estimated) -> Means:
    """The curves, and up to where their means are restricted."""
    stated_limit = found.statement
    return Means(found.curves, stated_limit.confidence, stated_limit.limit, found.grouped)
