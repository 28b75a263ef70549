"""Many variables tested one by one (methods.md, section 3: Comparing groups)."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np

from hourglass.core.arrays import BoolArray, FloatArray, IntArray
from hourglass.core.comparison.adjustments import HOLM, Adjustment, adjusted
from hourglass.core.comparison.chi_squared import Test, no_test
from hourglass.core.comparison.log_rank import log_rank
from hourglass.core.comparison.weights import EQUAL, Weight
from hourglass.core.followup import FollowUp
from hourglass.core.sample_quantiles import sample_quantiles, value_opens

TERTILES = np.array([1 / 3, 2 / 3])


class Candidate(Protocol):
    """A variable that makes groups of the rows that are complete for it."""

    @property
    def complete(self) -> BoolArray:
        """(n,) True for rows that have a value."""
        ...

    def groups(self, data: FollowUp) -> IntArray:
        """(m,) a code for the group of each complete row, ``data`` being those rows."""
        ...


@dataclass(frozen=True, slots=True)
class Category:
    """Levels as codes (n,); below 0 where missing."""

    code: IntArray

    @property
    def complete(self) -> BoolArray:
        return np.asarray(self.code >= 0)

    def groups(self, data: FollowUp) -> IntArray:
        return self.code[self.complete]


@dataclass(frozen=True, slots=True)
class Tertiles:
    """A number (n,), NaN where missing: up to its lower tertile, up to its upper one, above."""

    x: FloatArray

    @property
    def complete(self) -> BoolArray:
        return ~np.isnan(self.x)

    def groups(self, data: FollowUp) -> IntArray:
        x = self.x[self.complete]
        counts = value_opens(data, x)
        cuts = sample_quantiles(x[counts], data.count[counts], TERTILES)
        return np.asarray((x[:, None] > cuts).sum(axis=1), dtype=np.int64)


@dataclass(frozen=True, slots=True)
class Screened:
    """A candidate's place among those given, its complete rows (counts included), test and adjusted p."""

    place: int
    rows: int
    test: Test
    p: float | None


def screen(
    data: FollowUp,
    candidates: Sequence[Candidate],
    weight: Weight = EQUAL,
    stratum: IntArray | None = None,
    adjustment: Adjustment = HOLM,
) -> tuple[Screened, ...]:
    """Test each candidate, ordered by p, those without one last, ties in the order given."""
    found = [_test(data, candidate, weight, stratum) for candidate in candidates]
    p = adjusted([test.p for _, test in found], adjustment)
    screened = [Screened(k, rows, test, p[k]) for k, (rows, test) in enumerate(found)]
    return tuple(sorted(screened, key=lambda s: 2.0 if s.test.p is None else s.test.p))


def _test(
    data: FollowUp, candidate: Candidate, weight: Weight, stratum: IntArray | None
) -> tuple[int, Test]:
    complete = candidate.complete
    if not complete.any():
        return 0, no_test("no row has a value")
    part = data.only(complete)
    levels, code = np.unique(candidate.groups(part), return_inverse=True)
    if levels.size == 1:
        return part.size, no_test("all rows are in one group")
    strata = None if stratum is None else stratum[complete]
    return part.size, log_rank(part, code, levels.size, weight, strata).test
