"""How a survival curve is estimated from a risk table (methods.md, section 2: Survival curve)."""

from typing import Protocol

import numpy as np

from hourglass.core.arrays import FloatArray


class Estimator(Protocol):
    """An estimate of S with the σ² that its intervals rest on, Var S = S² σ²."""

    @property
    def key(self) -> str:
        """What it is called in a statement."""
        ...

    def survival(self, at_risk: FloatArray, events: FloatArray) -> FloatArray:
        """(K,) S at the event times, from n_j and d_j."""
        ...

    def sigma2(self, at_risk: FloatArray, events: FloatArray) -> FloatArray:
        """(K,) σ² at the event times; infinite once S is 0."""
        ...


class ProductLimit:
    """Π (1 − d/n) (Kaplan & Meier 1958) with Greenwood's (1926) Σ d / (n (n − d))."""

    key = "product limit"

    def survival(self, at_risk: FloatArray, events: FloatArray) -> FloatArray:
        return np.cumprod((at_risk - events) / at_risk, dtype=np.float64)

    def sigma2(self, at_risk: FloatArray, events: FloatArray) -> FloatArray:
        n, d = at_risk, events
        with np.errstate(divide="ignore"):
            return np.cumsum(np.where(n > d, d / (n * (n - d)), np.inf))


PRODUCT_LIMIT = ProductLimit()
ESTIMATORS: tuple[Estimator, ...] = (PRODUCT_LIMIT,)
