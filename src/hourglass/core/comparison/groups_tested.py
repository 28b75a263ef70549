"""The test of groups that may turn out to be one."""

import numpy as np

from hourglass.core.arrays import IntArray
from hourglass.core.comparison.chi_squared import Test, no_test
from hourglass.core.comparison.log_rank import LogRank, log_rank
from hourglass.core.comparison.weights import Weight
from hourglass.core.followup import FollowUp


def compared(
    data: FollowUp, code: IntArray, weight: Weight, stratum: IntArray | None
) -> tuple[IntArray, LogRank | None]:
    """The groups that are there, (G,) ascending, and their comparison; None where there is only one."""
    there, place = np.unique(code, return_inverse=True)
    if there.size == 1:
        return there, None
    return there, log_rank(data, place, there.size, weight, stratum)


def groups_tested(data: FollowUp, code: IntArray, weight: Weight, stratum: IntArray | None) -> Test:
    """The test of the groups that are there; without a statistic where there is only one."""
    _, found = compared(data, code, weight, stratum)
    return no_test("all rows are in one group") if found is None else found.test
