"""How often chance alone would show what a finding noticed."""

import numpy as np
from scipy.special import ndtr

from hourglass.core.arrays import FloatArray


def longer_than(a: FloatArray, b: FloatArray) -> tuple[float, float]:
    """The share of pairs in which a value of ``a`` is above one of ``b``, and how rare it is by chance.

    Args:
        a, b: (m,) and (n,) values; ties count half.

    Returns:
        the share, and the one-sided p of the rank sum with ties (Mann & Whitney 1947); p is 1 where
        all values are equal.
    """
    a, b = np.sort(a), np.sort(b)  # in order the search stays where it was
    below, above = np.searchsorted(b, a, "left"), np.searchsorted(b, a, "right")
    share = float((below + above).mean() / 2 / b.size)
    n = a.size + b.size
    tied = np.unique(np.concatenate([a, b]), return_counts=True)[1].astype(np.float64)
    spread = ((n + 1) - float((tied**3 - tied).sum()) / (n * (n - 1))) / (12 * a.size * b.size)
    return share, float(ndtr(-(share - 0.5) / np.sqrt(spread))) if spread > 0 else 1.0


def so_many_among(hits: int, marked: int, chosen: int, size: int) -> float:
    """The chance that at least ``hits`` of ``marked`` among ``size`` fall among ``chosen`` (Fisher 1935).

    The probability of each number follows from its neighbour's, from the likeliest one on: nothing
    overflows, and no logarithm loses digits.
    """
    fewest, most = max(0, marked + chosen - size), min(marked, chosen)
    if hits <= fewest or hits > most:
        return 1.0 if hits <= fewest else 0.0
    k = np.arange(fewest, most, dtype=np.float64)
    ratios = (marked - k) * (chosen - k) / ((k + 1) * (size - marked - chosen + k + 1))
    likeliest = int((ratios > 1).sum())
    below = np.cumprod(1 / ratios[:likeliest][::-1])[::-1]
    weights = np.concatenate([below, [1.0], np.cumprod(ratios[likeliest:])])
    return float(weights[hits - fewest :].sum() / weights.sum())
