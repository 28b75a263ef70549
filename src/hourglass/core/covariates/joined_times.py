"""Times of records beside those of follow-up
(methods.md, section 11: Several tables; time-varying covariates, "Times")."""

import numpy as np

from hourglass.core.arrays import FloatArray
from hourglass.core.near_ties import NEAR_TIE, chained


def joined_times(
    follow_up: FloatArray, times: FloatArray, tolerance: float = NEAR_TIE
) -> FloatArray:
    """Times in which those that differ by rounding only from one of follow-up are that one.

    Args:
        follow_up: (n,) the entry and exit times of the whole data, after their own merging.
        times: (m,) other times; those that are not above 0, not finite or missing stay as they are.
        tolerance: the share of a time within which two are one.

    Returns:
        (m,) a time v within ``tolerance · max(v, f)`` of a time f of follow-up is f, the nearest, of two
        the earlier; the others are merged among themselves.
    """
    found = times.astype(np.float64)
    known = np.unique(follow_up[np.isfinite(follow_up)])
    ours = np.flatnonzero(np.isfinite(found) & (found > 0))
    if known.size and ours.size:
        v = found[ours]
        place = np.searchsorted(known, v)
        below, above = known[np.maximum(place - 1, 0)], known[np.minimum(place, known.size - 1)]
        nearest = np.where(np.abs(v - below) <= np.abs(above - v), below, above)
        near = np.abs(v - nearest) <= tolerance * np.maximum(v, nearest)
        found[ours[near]] = nearest[near]
        ours = ours[~near]
    if ours.size:
        found[ours] = chained(found[ours], tolerance).time
    return found
