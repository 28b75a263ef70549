"""Many variables tested one by one (methods.md, section 3: Comparing groups)."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType
from typing import Protocol

import numpy as np

from hourglass.core.arrays import BoolArray, IntArray
from hourglass.core.comparison.adjustments import HOLM, Adjustment, adjusted
from hourglass.core.comparison.chi_squared import Test, no_test
from hourglass.core.comparison.groups_tested import InGroups
from hourglass.core.comparison.weights import EQUAL, Weight
from hourglass.core.followup import FollowUp


class Candidate(Protocol):
    """A variable to be tested on the rows that are complete for it."""

    @property
    def complete(self) -> BoolArray:
        """(n,) True for rows that have a value."""
        ...

    def test(self, data: FollowUp, weight: Weight, stratum: IntArray | None) -> Test:
        """Its test; ``data`` and ``stratum`` are those of the complete rows."""
        ...


@dataclass(frozen=True, slots=True)
class Category(InGroups):
    """Levels as codes (n,); below 0 where missing."""

    code: IntArray

    @property
    def complete(self) -> BoolArray:
        return np.asarray(self.code >= 0)

    def groups(self, data: FollowUp) -> IntArray:
        return self.code[self.complete]


@dataclass(frozen=True, slots=True)
class Screened:
    """A candidate as it was tested.

    Attributes:
        place: among those given; ``rows``: its complete rows, counts included.
        judged: the p that is adjusted: that of the test, unless another was given.
        p: adjusted over all candidates.
    """

    place: int
    rows: int
    test: Test
    judged: float | None
    p: float | None


def screen(
    data: FollowUp,
    candidates: Sequence[Candidate],
    weight: Weight = EQUAL,
    stratum: IntArray | None = None,
    adjustment: Adjustment = HOLM,
    judged: Mapping[int, float | None] = MappingProxyType({}),
) -> tuple[Screened, ...]:
    """Test each candidate, ordered by p, those without one last, ties in the order given.

    Args:
        judged: by place, the p that a candidate is judged by in place of its own.
    """
    found = [_test(data, candidate, weight, stratum) for candidate in candidates]
    own = [judged.get(k, test.p) for k, (_, test) in enumerate(found)]
    p = adjusted(own, adjustment)
    screened = [Screened(k, rows, test, own[k], p[k]) for k, (rows, test) in enumerate(found)]
    return tuple(sorted(screened, key=lambda s: 2.0 if s.judged is None else s.judged))


def _test(
    data: FollowUp, candidate: Candidate, weight: Weight, stratum: IntArray | None
) -> tuple[int, Test]:
    complete = candidate.complete
    if not complete.any():
        return 0, no_test("no row has a value")
    part = data.only(complete)
    strata = None if stratum is None else stratum[complete]
    return part.size, candidate.test(part, weight, strata)
