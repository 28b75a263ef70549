"""Groups compared two by two (methods.md, section 3: Comparing groups)."""

from dataclasses import dataclass
from itertools import combinations

import numpy as np

from hourglass.core.arrays import IntArray
from hourglass.core.comparison.adjustments import NO_ADJUSTMENT, Adjustment, adjusted
from hourglass.core.comparison.chi_squared import Test, no_test
from hourglass.core.comparison.groups import refuse_codes_out_of_range
from hourglass.core.comparison.log_rank import log_rank
from hourglass.core.comparison.weights import EQUAL, Weight
from hourglass.core.followup import FollowUp


@dataclass(frozen=True, slots=True)
class Pair:
    """Two groups, tested on their rows alone; ``p`` is that of the test, adjusted."""

    a: int
    b: int
    test: Test
    p: float | None


def pairs(
    data: FollowUp,
    group: IntArray,
    groups: int,
    weight: Weight = EQUAL,
    stratum: IntArray | None = None,
    reference: int | None = None,
    adjustment: Adjustment = NO_ADJUSTMENT,
) -> tuple[Pair, ...]:
    """Every pair of groups, or each against a reference; p adjusted over those there are.

    Args:
        data, group, groups, weight, stratum: as for :func:`log_rank`.
        reference: the group that all others are set against; all pairs when absent.

    Raises:
        RefusedRowsError: naming the rows with a group code out of range.
    """
    refuse_codes_out_of_range(group, groups)
    chosen = list(combinations(range(groups), 2))
    if reference is not None:
        chosen = [(reference, g) for g in range(groups) if g != reference]
    tests = []
    for a, b in chosen:
        rows = (group == a) | (group == b)
        if not rows.any():
            tests.append(no_test("neither group has a row"))
            continue
        part = None if stratum is None else stratum[rows]
        of = (group[rows] == b).astype(np.int64)
        tests.append(log_rank(data.only(rows), of, 2, weight, part).test)
    p = adjusted([test.p for test in tests], adjustment)
    return tuple(Pair(a, b, t, q) for (a, b), t, q in zip(chosen, tests, p, strict=True))
