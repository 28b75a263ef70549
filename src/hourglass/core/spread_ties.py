"""Sums over tied events taken one after the other, at a cost that does not grow with their number."""

from collections.abc import Callable

import numpy as np

from hourglass.core.arrays import FloatArray

Series = Callable[[FloatArray, FloatArray], FloatArray]
ONE_BY_ONE = 24
"""So many terms are added up as they are; beyond, and past so large a denominator, a series is summed."""


def reciprocals(total: FloatArray, events: FloatArray) -> FloatArray:
    """(K,) Σ_{l<d} 1/(a − l), a the ``total`` ≥ d, d the ``events``: ψ(a+1) − ψ(a−d+1)."""
    return _sum(total, events, 1, _first_power)


def squared_reciprocals(total: FloatArray, events: FloatArray) -> FloatArray:
    """(K,) Σ_{l<d} 1/(a − l)²: ψ′(a−d+1) − ψ′(a+1)."""
    return _sum(total, events, 2, _second_power)


def _sum(total: FloatArray, events: FloatArray, power: int, series: Series) -> FloatArray:
    """The smallest denominators one by one, those past them by the difference of a series."""
    low = total - events
    found = np.zeros(total.size)
    for k in range(1, min(int(events.max(initial=0)), ONE_BY_ONE) + 1):
        there = events >= k
        found[there] += 1 / (low[there] + k) ** power
    many = events > ONE_BY_ONE
    if many.any():
        found[many] += series(low[many] + ONE_BY_ONE, total[many])
    return found


def _first_power(m: FloatArray, n: FloatArray) -> FloatArray:
    """ψ(n+1) − ψ(m+1), each difference of powers taken without cancellation."""
    inverse = _differences(m, n)
    return np.asarray(
        -_log_ratio(m, n)
        - inverse(1) / 2
        + inverse(2) / 12
        - inverse(4) / 120
        + inverse(6) / 252
        - inverse(8) / 240
    )


def _second_power(m: FloatArray, n: FloatArray) -> FloatArray:
    """ψ′(m+1) − ψ′(n+1)."""
    inverse = _differences(m, n)
    return np.asarray(
        inverse(1)
        - inverse(2) / 2
        + inverse(3) / 6
        - inverse(5) / 30
        + inverse(7) / 42
        - inverse(9) / 30
    )


def _differences(m: FloatArray, n: FloatArray) -> Callable[[int], FloatArray]:
    """1/m^k − 1/n^k as a function of k, from what n and m differ by."""
    log_ratio = _log_ratio(m, n)

    def inverse(k: int) -> FloatArray:
        return np.asarray(-np.expm1(k * log_ratio) / m**k)

    return inverse


def _log_ratio(m: FloatArray, n: FloatArray) -> FloatArray:
    """ln(m/n), exact for neighbours as for numbers far apart."""
    return np.where(n > 2 * m, np.log(m / n), np.log1p(-(n - m) / n))
