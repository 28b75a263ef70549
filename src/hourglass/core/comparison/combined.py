"""Several weights at once, for two groups (Lee 2007; methods.md, section 3: Comparing groups)."""

import math
from dataclasses import dataclass, field

import numpy as np
from numpy.polynomial.legendre import leggauss
from scipy.special import gammaincc, ndtr

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.comparison.groups import group_table
from hourglass.core.comparison.log_rank import seen_less_expected, variation_of, weigh
from hourglass.core.comparison.weights import EarlyLate
from hourglass.core.followup import FollowUp

TOGETHER = (EarlyLate(0, 0), EarlyLate(1, 0), EarlyLate(0, 1), EarlyLate(1, 1))
NO_RANK = 1e-10
ACCURACY = 1e-7
"""Two numbers of points that agree to this share of p end the quadrature."""
POINTS_OF_HEIGHT = (5, 8, 12, 20, 40)
POINTS_OF_ANGLE = 10


@dataclass(frozen=True, slots=True, kw_only=True)
class Combined:
    """The largest |Z| over several weights, and how often chance alone would give it.

    Attributes:
        weights: those with a variance; ``z``: (m,) Z of each; ``correlation``: (m, m) of these.
        largest: max |Z|; ``at``: the weight that gives it.
        p: P(max |Z| ≥ largest). Without it, ``blank`` gives the reason.
    """

    weights: tuple[EarlyLate, ...]
    z: tuple[float, ...]
    largest: float | None
    at: EarlyLate | None
    p: float | None
    blank: str | None = None
    correlation: FloatArray = field(default_factory=lambda: np.zeros((0, 0)))


def combined(data: FollowUp, group: IntArray, stratum: IntArray | None = None) -> Combined:
    """Compare two groups coded 0 and 1 by four weights at once, strata added up.

    Raises:
        RefusedRowsError: naming the rows with another code.
    """
    table = group_table(data, group, 2, stratum)
    n, d = table.all_at_risk.astype(np.float64), table.all_events.astype(np.float64)
    of, seen = table.at_risk[:, 1].astype(np.float64), table.events[:, 1].astype(np.float64)
    v = variation_of(table) * (of / n) * ((n - of) / n)
    w = np.array([weigh(table, weight) for weight in TOGETHER])
    varies = np.flatnonzero((w**2 * v).sum(axis=1) > 0)
    if varies.size == 0:
        why = "at no event time could the groups differ"
        return Combined(weights=(), z=(), largest=None, at=None, p=None, blank=why)
    w = w[varies]
    error = np.sqrt((w**2 * v).sum(axis=1))
    z = w @ seen_less_expected(of, seen, n, d) / error
    largest = float(np.abs(z).max())
    weights = tuple(TOGETHER[k] for k in varies)
    correlation = (w * v) @ w.T / np.outer(error, error)
    return Combined(
        weights=weights,
        z=tuple(map(float, z)),
        largest=largest,
        at=weights[int(np.abs(z).argmax())],
        p=_beyond(_loading(correlation), largest),
        correlation=correlation,
    )


def _loading(correlation: FloatArray) -> FloatArray:
    """(m, r) A with A Aᵀ the correlation, r its rank: 3 at most, for S(t−) + (1 − S(t−)) = 1."""
    values, vectors = np.linalg.eigh(correlation)
    kept = np.flatnonzero(values > NO_RANK)[-3:]
    loading = vectors[:, kept] * np.sqrt(values[kept])
    return np.asarray(loading / np.sqrt(np.square(loading).sum(axis=1))[:, None])


def _beyond(loading: FloatArray, m: float) -> float:
    """P(some |a_k · ξ| ≥ m), ξ independent standard normals: over the directions of ξ.

    Along a direction u the bound is met at the length m / max |a_k · u|, which a normal vector of
    r dimensions exceeds with the chance Q(r/2, length²/2).
    """
    rank = loading.shape[1]
    if rank == 1:
        return 2 * float(ndtr(-m))
    if rank == 2:
        return min(float(_around(loading, np.zeros(1), m, 1.0)[0]), 1.0)
    edges = _turns(loading)
    before, p = math.inf, 0.0
    for points in POINTS_OF_HEIGHT:
        place, weight = _points(np.zeros(1), np.ones(1), points)
        # Points lie close together at both ends of a stretch, where a corner comes in like a root.
        eased, slope = place[0] ** 2 * (3 - 2 * place[0]), 6 * place[0] * (1 - place[0])
        width = np.diff(edges)[:, None]
        height = edges[:-1, None] + width * eased
        p = float((width * slope * weight[0]).ravel() @ _around(loading, height.ravel(), m, 1.5))
        if abs(p - before) <= ACCURACY * p:
            break
        before = p
    return min(p, 1.0)


def _turns(loading: FloatArray) -> FloatArray:
    """Heights from 0 to 1 at which corners of the largest |a_k · u| come in or meet."""
    signed = np.concatenate([loading, -loading])
    k, other = np.triu_indices(signed.shape[0], 1)
    normal = signed[k] - signed[other]  # where two are equal, u lies across this
    flat = np.hypot(normal[:, 0], normal[:, 1])
    touches = flat / np.hypot(flat, normal[:, 2])
    first, second = np.triu_indices(k.size, 1)
    meets = np.cross(normal[first], normal[second])
    length = np.sqrt(np.square(meets).sum(axis=1))
    apart = length > NO_RANK
    crossings = np.abs(meets[apart, 2]) / length[apart]
    inside = np.concatenate([touches, crossings])
    inside = np.unique(inside[(inside > 0) & (inside < 1)].round(12))
    return np.concatenate([[0.0], inside, [1.0]])


def _around(loading: FloatArray, height: FloatArray, m: float, half_rank: float) -> FloatArray:
    """(h,) the mean of the chance around a circle of directions at each height above the equator.

    Between the angles at which another |a_k · u| becomes the largest the chance is smooth.
    """
    across = np.sqrt(1 - height**2)[:, None]
    a, b = across * loading[:, 0], across * loading[:, 1]
    c = height[:, None] * loading[:, 2] if loading.shape[1] == 3 else np.zeros_like(a)
    k, other = np.triu_indices(loading.shape[0], 1)
    corners = [np.zeros_like(across), np.full_like(across, 2 * math.pi)]
    for sign in (-1.0, 1.0):
        x, y, z = (v[:, k] + sign * v[:, other] for v in (a, b, c))
        radius = np.hypot(x, y)
        with np.errstate(divide="ignore", invalid="ignore"):
            apart = np.nan_to_num(np.arccos(np.clip(-z / radius, -1, 1)))
        middle = np.arctan2(y, x)
        corners += [(middle + apart) % (2 * math.pi), (middle - apart) % (2 * math.pi)]
    edges = np.sort(np.hstack(corners), axis=1)
    angle, weight = _points(edges[:, :-1].ravel(), edges[:, 1:].ravel(), POINTS_OF_ANGLE)
    cosine, sine = (f(angle).reshape(height.size, -1) for f in (np.cos, np.sin))
    largest = np.zeros_like(cosine)
    for one in range(loading.shape[0]):
        along = a[:, [one]] * cosine + b[:, [one]] * sine + c[:, [one]]
        np.maximum(largest, np.abs(along), out=largest)
    with np.errstate(divide="ignore", over="ignore"):
        chance = gammaincc(half_rank, (m / largest) ** 2 / 2)
    return np.asarray((chance * weight.reshape(cosine.shape)).sum(axis=1) / (2 * math.pi))


def _points(low: FloatArray, high: FloatArray, points: int) -> tuple[FloatArray, FloatArray]:
    """(m, points) Gauss–Legendre points and weights on each stretch."""
    node, weight = leggauss(points)
    half = (high - low)[:, None] / 2
    return low[:, None] + half * (node + 1), half * weight
