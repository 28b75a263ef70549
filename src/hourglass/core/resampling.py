"""Bootstrap samples of subjects, and limits from them (methods.md, section 1: Data)."""

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.sample_quantiles import sample_quantiles
from hourglass.core.streams import places, refuse_too_many

MAX_LEFT_OUT = 0.1
"""No limits where more than this share of the samples has no estimate."""


def owners(copies: IntArray) -> IntArray:
    """(N,) the subject that each copy is of, copies side by side, from the copies (m,) of each.

    Raises:
        NotEstimableError: when there are more copies than can be drawn.
    """
    refuse_too_many(int(copies.sum()))
    return np.repeat(np.arange(copies.size), copies)


def times_drawn(owner: IntArray, seed: int, *key: int) -> IntArray:
    """(m,) how often each subject is in a sample of as many draws as there are copies."""
    drawn = owner[places(owner.size, owner.size, seed, *key)]
    return np.bincount(drawn, minlength=int(owner[-1]) + 1)


def percentile_limits(values: FloatArray, confidence: float) -> FloatArray:
    """(2,) the sample quantiles at α/2 and 1 − α/2 of what the samples gave."""
    tail = (1 - confidence) / 2
    one_each = np.ones(values.size, dtype=np.int64)
    return sample_quantiles(values, one_each, np.array([tail, 1 - tail]))


def limits_of_samples(
    drawn: list[FloatArray], samples: int, confidence: float, like: FloatArray
) -> tuple[FloatArray, FloatArray]:
    """Percentile limits of each value (…) over the samples that have one; NaN if over a tenth did not."""
    if samples - len(drawn) > MAX_LEFT_OUT * samples or not drawn:
        nothing = np.full_like(like, np.nan)
        return nothing, nothing
    found = np.array(drawn).reshape(len(drawn), -1)
    limits = np.array([percentile_limits(values, confidence) for values in found.T]).reshape(-1, 2)
    return limits[:, 0].reshape(like.shape), limits[:, 1].reshape(like.shape)
