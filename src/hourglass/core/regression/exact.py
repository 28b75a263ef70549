"""The exact partial likelihood of tied events: these d rows among all sets of d at risk (Cox 1972;
methods.md, section 4: Proportional hazards regression)."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.errors import NotEstimableError
from hourglass.core.regression.likelihood import Likelihood, likelihood
from hourglass.core.regression.risk_sets import RiskSets

AT_ONCE = 2_048
"""Rows whose sums are multiplied together at a time."""
MAX_WORK = 1e8
"""p² Σ n_j d_j over the event times with several events: beyond, an evaluation takes too long."""


@dataclass(frozen=True, slots=True)
class _Sums:
    """Sums over the k-subsets, k = 0 … K, of each of m sets of rows, times 2^−``exponent`` (m,).

    Attributes:
        product: (K + 1, m) of Π r over the subset; ``first``: (K + 1, m, p) of that times Σ z;
            ``second``: (K + 1, m, p, p) of that times (Σ z)(Σ z)ᵀ.
    """

    exponent: IntArray
    product: FloatArray
    first: FloatArray
    second: FloatArray


def refuse_too_much(sets: RiskSets, columns: int) -> None:
    """Refuse a recursion over so many tied rows that it would take too long.

    Args:
        columns: p, those stated.

    Raises:
        NotEstimableError: where p² Σ n_j d_j, over the times with several events, is above 10⁸.
    """
    at_risk = np.add(*sets.over(sets.count))
    several = sets.events > 1
    work = float(columns) ** 2 * float(at_risk[several] @ sets.events[several])
    if work > MAX_WORK:
        raise NotEstimableError(
            f"the exact likelihood of so many tied events takes {work:.1e} products of sums, more than the "
            "10⁸ there may be: choose Efron’s ties, which come close to it"
        )


def exact_likelihood(
    sets: RiskSets,
    x: FloatArray,
    seen: FloatArray,
    beta: FloatArray,
    offset: FloatArray,
    within: Callable[[float], None] = lambda share: None,
) -> Likelihood:
    """As :func:`likelihood`; event times with one event are summed there, the others one by one here.

    Where coefficients are so large that a sum over subsets is below the smallest number, the value is
    −∞: a search goes back from there. ``within`` is given the share of the tied times that are done, and
    may raise to stop the work.

    The sums over all subsets of a risk set follow from those of its parts (Gail, Lubin & Rubinstein
    1981), as do those of the subsets' covariates and their squares.
    """
    alone = likelihood(sets, x, seen, beta, offset)
    if not np.isfinite(alone.value):
        return alone
    linear = beta @ x + offset
    value, gradient, information = alone.value, alone.gradient, alone.information
    several = np.flatnonzero(sets.events > 1)
    for nth, j in enumerate(several):
        within(nth / several.size)
        at_risk, events = sets.at_risk(int(j))
        rows = np.repeat(at_risk, sets.count[at_risk].astype(np.int64))
        d = int(sets.events[j])
        tied = np.repeat(events, sets.count[events].astype(np.int64))
        highest = linear[rows].max()
        r = np.exp(linear[rows] - highest)
        scale = d / r.sum()
        mean = (r @ x[:, rows].T) * (scale / d)
        log, first, second = _of_size(r * scale, x[:, rows].T - mean, d)
        if not np.isfinite(log):
            return Likelihood(-np.inf, alone.gradient, alone.information)
        value += float((linear[tied] - highest).sum()) + d * np.log(scale) - log
        gradient = gradient - first - d * mean
        information = information + second
    return Likelihood(float(value), gradient, information)


def log_of_subsets(linear: FloatArray, d: int) -> float:
    """ln Σ Π exp(xβ) over the sets of d of m rows, from their xβ (m,); −∞ where it is below any number."""
    highest = linear.max()
    r = np.exp(linear - highest)
    scale = d / r.sum()
    log, _, _ = _of_size(r * scale, np.zeros((r.size, 0)), d)
    return float(log + d * (highest - np.log(scale)))


def moments_of_subsets(linear: FloatArray, z: FloatArray, d: int) -> tuple[float, float]:
    """The mean and variance of Σ z over the sets of d of m rows, each weighing Π exp(xβ); xβ and z (m,)."""
    r = np.exp(linear - linear.max())
    shift = float(r @ z / r.sum())
    _, mean, covariance = _of_size(r * (d / r.sum()), (z - shift)[:, None], d)
    return float(mean[0]) + d * shift, float(covariance[0, 0])


def _of_size(r: FloatArray, z: FloatArray, d: int) -> tuple[float, FloatArray, FloatArray]:
    """ln Σ Π r over the subsets of d rows, and the mean (p,) and covariance (p, p) of their Σ z.

    The first is −∞, and the others 0, where Σ Π r is too small to be a number.
    """
    found: _Sums | None = None
    for start in range(0, r.size, AT_ONCE):
        part = _all_together(r[start : start + AT_ONCE], z[start : start + AT_ONCE], d)
        found = part if found is None else _united(found, part, d)
    assert found is not None
    total = found.product[d, 0]
    if total < np.finfo(float).tiny:
        return -np.inf, np.zeros(z.shape[1]), np.zeros((z.shape[1], z.shape[1]))
    mean = found.first[d, 0] / total
    covariance = found.second[d, 0] / total - np.outer(mean, mean)
    return float(np.log(total) + found.exponent[0] * np.log(2.0)), mean, covariance


def _all_together(r: FloatArray, z: FloatArray, d: int) -> _Sums:
    """The sums of one set of rows, from those of single rows by pairs."""
    m, p = z.shape
    product, first, second = np.ones((2, m)), np.zeros((2, m, p)), np.zeros((2, m, p, p))
    product[1], first[1] = r, r[:, None] * z
    second[1] = first[1][:, :, None] * z[:, None, :]
    found = _Sums(np.zeros(m, dtype=np.int64), product, first, second)
    while (size := found.product.shape[1]) > 1:
        even = size // 2 * 2
        united = _united(_some(found, slice(0, even, 2)), _some(found, slice(1, even, 2)), d)
        found = united if even == size else _joined(united, _some(found, slice(even, size)))
    return found


def _some(of: _Sums, sets: slice) -> _Sums:
    return _Sums(of.exponent[sets], of.product[:, sets], of.first[:, sets], of.second[:, sets])


def _joined(a: _Sums, b: _Sums) -> _Sums:
    """Both side by side, up to subsets of the larger size."""
    more = a.product.shape[0] - b.product.shape[0]

    def longer(values: FloatArray) -> FloatArray:
        return np.pad(values, [(0, more)] + [(0, 0)] * (values.ndim - 1))

    return _Sums(
        np.concatenate([a.exponent, b.exponent]),
        np.concatenate([a.product, longer(b.product)], axis=1),
        np.concatenate([a.first, longer(b.first)], axis=1),
        np.concatenate([a.second, longer(b.second)], axis=1),
    )


def _united(a: _Sums, b: _Sums, d: int) -> _Sums:
    """The sums of pairs of sets taken together, up to subsets of d."""
    of_a, of_b = a.product.shape[0] - 1, b.product.shape[0] - 1
    most = min(of_a + of_b, d)
    shape = (most + 1, *a.first.shape[1:])
    product, first = np.zeros(shape[:2]), np.zeros(shape)
    second = np.zeros((*shape, shape[-1]))
    for k in range(of_a + 1):
        taken = min(of_b, most - k) + 1
        if taken <= 0:
            break
        into = slice(k, k + taken)
        own, first_a = a.product[k], a.first[k]
        of, first_b = b.product[:taken], b.first[:taken]
        product[into] += own * of
        first[into] += own[:, None] * first_b + of[:, :, None] * first_a
        crossed = first_a[:, :, None] * first_b[:, :, None, :]
        second[into] += (
            own[:, None, None] * b.second[:taken]
            + of[:, :, None, None] * a.second[k]
            + crossed
            + np.swapaxes(crossed, -1, -2)
        )
    exponent = np.frexp(product.max(axis=0))[1]
    return _Sums(
        a.exponent + b.exponent + exponent,
        np.ldexp(product, -exponent),
        np.ldexp(first, -exponent[:, None]),
        np.ldexp(second, -exponent[:, None, None]),
    )
