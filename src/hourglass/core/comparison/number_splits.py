"""What a number makes of rows when variables are tested one by one
(methods.md, section 3: Comparing groups)."""

from dataclasses import dataclass
from typing import Protocol

import numpy as np

from hourglass.core.arrays import BoolArray, FloatArray, IntArray
from hourglass.core.comparison.chi_squared import Test, no_test
from hourglass.core.comparison.groups_tested import InGroups
from hourglass.core.comparison.weights import Weight
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import FollowUp
from hourglass.core.regression.fit import fit
from hourglass.core.sample_quantiles import sample_quantiles, value_opens


@dataclass(frozen=True, slots=True)
class _OfNumber:
    """A number (n,), NaN where missing."""

    x: FloatArray

    @property
    def complete(self) -> BoolArray:
        """(n,) True for rows that have a value."""
        return ~np.isnan(self.x)


@dataclass(frozen=True, slots=True)
class Quantiles(_OfNumber, InGroups):
    """Groups up to the first of some sample quantiles, up to the next, …, above the last."""

    shares: FloatArray

    def groups(self, data: FollowUp) -> IntArray:
        x = self.x[self.complete]
        counts = value_opens(data, x)
        cuts = sample_quantiles(x[counts], data.count[counts], self.shares)
        return np.asarray((x[:, None] > cuts).sum(axis=1), dtype=np.int64)


@dataclass(frozen=True, slots=True)
class Threshold(_OfNumber, InGroups):
    """Two groups, up to a stated value and above it."""

    at: float

    def groups(self, data: FollowUp) -> IntArray:
        return np.asarray(self.x[self.complete] > self.at, dtype=np.int64)


@dataclass(frozen=True, slots=True)
class AsItIs(_OfNumber):
    """No groups: the score test of the hazards model with the number alone, ties by Efron."""

    def test(self, data: FollowUp, weight: Weight, stratum: IntArray | None) -> Test:
        """The test, on 1 degree of freedom; no weight enters it."""
        x = self.x[self.complete]
        if np.all(x == x[0]):
            return no_test("all rows have the same value")
        try:
            return fit(data, x[:, None], stratum=stratum).score
        except NotEstimableError as reason:
            return no_test(str(reason))


class NumberSplit(Protocol):
    """A way to make something to be tested of a number."""

    @property
    def key(self) -> str:
        """What it is called in a statement."""
        ...

    def candidate(self, x: FloatArray, at: float | None) -> "Quantiles | Threshold | AsItIs":
        """What is tested of values (n,), NaN where missing; ``at`` is the stated threshold."""
        ...


@dataclass(frozen=True, slots=True)
class AtQuantiles:
    """At some sample quantiles."""

    key: str
    shares: tuple[float, ...]

    def candidate(self, x: FloatArray, at: float | None) -> Quantiles:
        return Quantiles(x, np.array(self.shares))


@dataclass(frozen=True, slots=True)
class AtThreshold:
    """At a stated threshold."""

    key: str = "threshold"

    def candidate(self, x: FloatArray, at: float | None) -> Threshold:
        assert at is not None, "a threshold is stated"
        return Threshold(x, at)


@dataclass(frozen=True, slots=True)
class Unsplit:
    """As it is."""

    key: str = "as it is"

    def candidate(self, x: FloatArray, at: float | None) -> AsItIs:
        return AsItIs(x)


MEDIAN = AtQuantiles("median", (1 / 2,))
TERTILES = AtQuantiles("tertiles", (1 / 3, 2 / 3))
QUARTERS = AtQuantiles("quarters", (1 / 4, 1 / 2, 3 / 4))
THRESHOLD, AS_IT_IS = AtThreshold(), Unsplit()
NUMBER_SPLITS: tuple[NumberSplit, ...] = (MEDIAN, TERTILES, QUARTERS, THRESHOLD, AS_IT_IS)
