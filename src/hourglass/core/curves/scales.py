"""The scales on which a curve's intervals are made (methods.md, section 2: Survival curve)."""

from typing import Protocol

import numpy as np

from hourglass.core.arrays import FloatArray


class IntervalScale(Protocol):
    """A scale on which S ± its standard error is turned into limits."""

    @property
    def key(self) -> str:
        """What it is called in a statement."""
        ...

    def limits(self, survival: FloatArray, reach: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Lower and upper limits, not yet held to [0, 1].

        Args:
            survival: (m,) S, above 0 and below 1.
            reach: (m,) z σ for a pointwise interval, so that S times it is half a plain one.
        """
        ...


class Linear:
    """S ± z S σ."""

    key = "linear"

    def limits(self, survival: FloatArray, reach: FloatArray) -> tuple[FloatArray, FloatArray]:
        return survival - survival * reach, survival + survival * reach


class Log:
    """S exp(± z σ)."""

    key = "log"

    def limits(self, survival: FloatArray, reach: FloatArray) -> tuple[FloatArray, FloatArray]:
        return survival * np.exp(-reach), survival * np.exp(reach)


class LogLog:
    """S ^ exp(± z σ / ln S) (Borgan & Liestøl 1990)."""

    key = "log-log"

    def limits(self, survival: FloatArray, reach: FloatArray) -> tuple[FloatArray, FloatArray]:
        log = np.log(survival)
        stretch = np.exp(reach / log)
        return np.exp(log / stretch), np.exp(log * stretch)


class Logit:
    """logit⁻¹(logit S ± z σ / (1 − S))."""

    key = "logit"

    def limits(self, survival: FloatArray, reach: FloatArray) -> tuple[FloatArray, FloatArray]:
        apart = np.exp(reach / (1 - survival))
        odds = survival / (1 - survival)
        return odds / (odds + apart), 1 / (1 + 1 / (odds * apart))


class Arcsine:
    """sin²(asin √S ± ½ z σ √(S / (1 − S))), the angle held to [0, π/2]."""

    key = "arcsine"

    def limits(self, survival: FloatArray, reach: FloatArray) -> tuple[FloatArray, FloatArray]:
        angle = np.arcsin(np.sqrt(survival))
        half = reach * np.sqrt(survival / (1 - survival)) / 2
        low, high = np.maximum(angle - half, 0), np.minimum(angle + half, np.pi / 2)
        return np.sin(low) ** 2, np.sin(high) ** 2


LINEAR, LOG, LOG_LOG, LOGIT, ARCSINE = Linear(), Log(), LogLog(), Logit(), Arcsine()
INTERVAL_SCALES: tuple[IntervalScale, ...] = (LOG_LOG, LINEAR, LOG, LOGIT, ARCSINE)


def interval(
    survival: FloatArray, reach: FloatArray, scale: IntervalScale = LOG_LOG
) -> tuple[FloatArray, FloatArray]:
    """(K,) limits held to [0, 1]; NaN once S is 0, where there is no interval."""
    has = survival > 0
    if not has.all():
        lower, upper = np.full_like(survival, np.nan), np.full_like(survival, np.nan)
        lower[has], upper[has] = interval(survival[has], reach[has], scale)
        return lower, upper
    with np.errstate(over="ignore", divide="ignore"):
        low, high = scale.limits(survival, reach)
    return np.clip(low, 0, 1), np.clip(high, 0, 1)
