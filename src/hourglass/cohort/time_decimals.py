"""With how many decimals the times of a study are shown (methods.md, section 10: How numbers are shown)."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

MAX_DECIMALS = 4
SAME = 1e-9
"""Share of a time, or of 1, within which a shorter number is the time itself."""
SHOWN_PARTS = 500
"""The largest time has at least so many of the smallest steps that are shown."""


@dataclass(frozen=True, slots=True)
class TimeDecimals:
    """Decimals of times that are values of the data, and of times computed from them."""

    data: int
    computed: int


def time_decimals(times: NDArray[np.float64], longest: float) -> TimeDecimals:
    """What the precision of the times and the length of follow-up bear.

    Args:
        times: of exit and of entry (n,), in the study's unit.
        longest: the largest observed time, in the same unit.
    """
    borne = _borne_by(longest)
    written = _written_with(times)
    return TimeDecimals(data=min(written, borne), computed=min(written + 1, borne))


def _borne_by(longest: float) -> int:
    fits = (k for k in range(MAX_DECIMALS) if 10**k * longest >= SHOWN_PARTS)
    return next(fits, MAX_DECIMALS)


def _written_with(times: NDArray[np.float64]) -> int:
    for decimals in range(MAX_DECIMALS):
        off = np.abs(times - np.round(times, decimals))
        if (off <= SAME * np.maximum(1.0, times)).all():
            return decimals
    return MAX_DECIMALS
