"""The scales on which a curve's pointwise interval is made (methods.md, section 2: Survival curve)."""

from typing import Protocol

import numpy as np

from hourglass.core.arrays import FloatArray


class IntervalScale(Protocol):
    """A scale on which S ± its standard error is turned into limits."""

    @property
    def key(self) -> str:
        """What it is called in a statement."""
        ...

    def limits(
        self, survival: FloatArray, sigma: FloatArray, z: float
    ) -> tuple[FloatArray, FloatArray]:
        """Lower and upper limits, not yet held to [0, 1].

        Args:
            survival: (m,) S, above 0 and below 1.
            sigma: (m,) σ, so that the standard error of S is S σ.
            z: the normal quantile of the interval's level.
        """
        ...


class LogLog:
    """S ^ exp(± z σ / ln S) (Borgan & Liestøl 1990)."""

    key = "log-log"

    def limits(
        self, survival: FloatArray, sigma: FloatArray, z: float
    ) -> tuple[FloatArray, FloatArray]:
        stretch = z * sigma / np.log(survival)
        return survival ** np.exp(-stretch), survival ** np.exp(stretch)


LOG_LOG = LogLog()
INTERVAL_SCALES: tuple[IntervalScale, ...] = (LOG_LOG,)


def interval(
    survival: FloatArray, sigma2: FloatArray, z: float, scale: IntervalScale = LOG_LOG
) -> tuple[FloatArray, FloatArray]:
    """(K,) limits held to [0, 1]; NaN once S is 0, where there is no interval."""
    lower, upper = np.full_like(survival, np.nan), np.full_like(survival, np.nan)
    has = survival > 0
    low, high = scale.limits(survival[has], np.sqrt(sigma2[has]), z)
    lower[has], upper[has] = np.clip(low, 0, 1), np.clip(high, 0, 1)
    return lower, upper
