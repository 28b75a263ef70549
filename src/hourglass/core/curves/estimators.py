"""How a survival curve is estimated from a risk table (methods.md, section 2: Survival curve)."""

from typing import Protocol

import numpy as np

from hourglass.core.arrays import FloatArray
from hourglass.core.factors import efron_factors


class Hazard(Protocol):
    """An estimate of the cumulative hazard H by its steps and those of its variance."""

    def steps(self, at_risk: FloatArray, events: FloatArray) -> FloatArray:
        """(K,) what each event time adds to H."""
        ...

    def variance_steps(self, at_risk: FloatArray, events: FloatArray) -> FloatArray:
        """(K,) what each event time adds to Var H."""
        ...


class TiesTogether:
    """d/n, variance d/n² (Aalen 1978)."""

    def steps(self, at_risk: FloatArray, events: FloatArray) -> FloatArray:
        return events / at_risk

    def variance_steps(self, at_risk: FloatArray, events: FloatArray) -> FloatArray:
        return events / at_risk / at_risk


class TiesSpread:
    """Tied events one after the other: Σ 1/(n − l), variance Σ 1/(n − l)² (Fleming & Harrington 1984)."""

    def steps(self, at_risk: FloatArray, events: FloatArray) -> FloatArray:
        return efron_factors(events).sums(at_risk - events, events).inverse

    def variance_steps(self, at_risk: FloatArray, events: FloatArray) -> FloatArray:
        return efron_factors(events).squares(at_risk - events, events)[0]


TIES_TOGETHER = TiesTogether()
TIES_SPREAD = TiesSpread()


class Estimator(Protocol):
    """An estimate of S with the σ² that its intervals rest on, Var S = S² σ²."""

    @property
    def key(self) -> str:
        """What it is called in a statement."""
        ...

    @property
    def hazard(self) -> Hazard:
        """The cumulative hazard that is shown beside it."""
        ...

    def survival(self, at_risk: FloatArray, events: FloatArray) -> FloatArray:
        """(K,) S at the event times, from n_j and d_j."""
        ...

    def steps(self, at_risk: FloatArray, events: FloatArray) -> FloatArray:
        """(K,) what each event time adds to σ²; infinite where it takes S to 0."""
        ...


class ProductLimit:
    """Π (1 − d/n) (Kaplan & Meier 1958) with Greenwood's (1926) Σ d / (n (n − d))."""

    key = "Kaplan–Meier"
    hazard: Hazard = TIES_TOGETHER

    def survival(self, at_risk: FloatArray, events: FloatArray) -> FloatArray:
        return np.cumprod((at_risk - events) / at_risk, dtype=np.float64)

    def steps(self, at_risk: FloatArray, events: FloatArray) -> FloatArray:
        n, d = at_risk, events
        with np.errstate(divide="ignore"):
            return np.where(n > d, d / n / (n - d), np.inf)


class FromHazard:
    """exp(−H), with σ² = Var H."""

    def __init__(self, key: str, hazard: Hazard) -> None:
        self.key = key
        self.hazard = hazard

    def survival(self, at_risk: FloatArray, events: FloatArray) -> FloatArray:
        return np.exp(-np.cumsum(self.hazard.steps(at_risk, events)))

    def steps(self, at_risk: FloatArray, events: FloatArray) -> FloatArray:
        return self.hazard.variance_steps(at_risk, events)


PRODUCT_LIMIT = ProductLimit()
FROM_HAZARD = FromHazard("Nelson–Aalen", TIES_TOGETHER)
FROM_HAZARD_SPREAD = FromHazard("Nelson–Aalen, ties spread", TIES_SPREAD)
ESTIMATORS: tuple[Estimator, ...] = (PRODUCT_LIMIT, FROM_HAZARD, FROM_HAZARD_SPREAD)
