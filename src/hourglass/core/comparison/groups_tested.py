"""The test of groups that may turn out to be one."""

from abc import ABC, abstractmethod

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


class InGroups(ABC):
    """A variable that is tested by the groups that it makes."""

    __slots__ = ()

    @abstractmethod
    def groups(self, data: FollowUp) -> IntArray:
        """(m,) a code for the group of each complete row, ``data`` being those rows."""

    def test(self, data: FollowUp, weight: Weight, stratum: IntArray | None) -> Test:
        """The test of the groups that are there; without a statistic where there is only one.

        Args:
            data, stratum: those of the complete rows.
        """
        _, found = compared(data, self.groups(data), weight, stratum)
        return no_test("all rows are in one group") if found is None else found.test
