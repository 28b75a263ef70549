"""A line through scattered points, fitted locally and robustly (Cleveland 1979;
methods.md, section 6: Residuals and checks)."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.sample_quantiles import sample_quantiles
from hourglass.core.watch import Watch, unwatched

SPAN = 2 / 3
PASSES = 3
EXACT = 12
"""So many places carry every sum of a polynomial of degree 11: a line times the weight of a side."""
AT_ONCE = 1 << 13
"""So many lines are fitted at a time."""
IN_DOUBT = 1e-5
"""Points whose spread is below this share of their window, squared, are added up one by one."""
NO_SPREAD = 1e-13
"""Residuals below this share of the values are rounding."""


@dataclass(frozen=True, slots=True)
class Lowess:
    """The line at the (m,) distinct values ``x``, ascending."""

    x: FloatArray
    y: FloatArray


def lowess(
    x: FloatArray,
    y: FloatArray,
    count: IntArray | None = None,
    span: float = SPAN,
    passes: int = PASSES,
    watch: Watch = unwatched,
) -> Lowess:
    """At each value a line through the ⌊span · n⌋ nearest points, copies included, then made robust.

    A point's weight is the tricube of its distance over the farthest's, in each further pass times
    the bisquare of its residual over six times the median absolute one. Where all weight lies at
    one value the line is level; where none is left it stays; where the median residual is 0 the
    passes end. Cost n log n.

    Args:
        x, y: (n,) points.
        count: (n,) copies of each; 1 when absent.
        span: the share of points that a line goes through, above 0 and at most 1.
        passes: how often the line is fitted again with what it does not fit weighing less.

    Raises:
        ValueError: when the span is no share.
    """
    if not 0 < span <= 1:
        raise ValueError("a span is a share of the points, above 0 and at most 1")
    copies = np.ones(x.size) if count is None else count.astype(np.float64)
    value, place = np.unique(x, return_inverse=True)
    windows = _windows(value, _summed(place, copies, value.size), span)
    line, robust = np.zeros(value.size), np.ones(x.size)
    for k in range(passes + 1):
        line = _lines(value, place, copies * robust, y, windows, line, _part(watch, k, passes + 1))
        apart = np.abs(y - line[place])
        middle = float(sample_quantiles(apart, copies.astype(np.int64), np.array([0.5]))[0])
        if middle <= NO_SPREAD * np.abs(y).max():
            break
        robust = np.square(np.maximum(1 - np.square(apart / (6 * middle)), 0.0))
    return Lowess(value, line)


@dataclass(frozen=True, slots=True)
class _Windows:
    """For each of m values: the first and last of the values nearest to it, and the farthest's distance."""

    first: IntArray
    last: IntArray
    reach: FloatArray


def _windows(value: FloatArray, copies: FloatArray, span: float) -> _Windows:
    """The ⌊span · n⌋ nearest copies of each value lie side by side: where they begin is bisected."""
    beyond = np.cumsum(copies).astype(np.int64)
    wanted = max(int(span * beyond[-1] * (1 + 1e-12)), 1)
    low, high = np.zeros(value.size, dtype=np.int64), np.full(value.size, beyond[-1] - wanted)
    while (low < high).any():
        middle = (low + high) // 2
        left = value[np.searchsorted(beyond, middle, side="right")]
        next_right = value[
            np.searchsorted(beyond, np.minimum(middle + wanted, beyond[-1] - 1), "right")
        ]
        nearer = next_right - value < value - left
        low, high = np.where(nearer, middle + 1, low), np.where(nearer, high, middle)
        low = np.minimum(low, high)
    first = np.searchsorted(beyond, low, side="right")
    last = np.searchsorted(beyond, low + wanted - 1, side="right")
    return _Windows(first, last, np.maximum(value - value[first], value[last] - value))


def _lines(
    value: FloatArray,
    place: IntArray,
    weight: FloatArray,
    y: FloatArray,
    windows: _Windows,
    before: FloatArray,
    watch: Watch,
) -> FloatArray:
    """(m,) the height of each value's line at that value."""
    own = _summed(place, weight, value.size)
    centre = float(weight @ y / weight.sum()) if weight.sum() > 0 else 0.0
    heights = _summed(place, weight * (y - centre), value.size)
    tree, upto = _Tree.of(value, own, heights), np.concatenate([[0.0], np.cumsum(own)])
    found = before.copy()
    for start in range(0, value.size, AT_ONCE):
        watch("smoothing", start / value.size)
        some = np.arange(start, min(start + AT_ONCE, value.size))
        reach = windows.reach[some]
        scale = np.where(reach > 0, reach, 1.0)
        sums = np.zeros((5, some.size))
        for of, run in tree.within(windows.first[some], windows.last[some] + 1, some):
            u = (run.at + (run.origin - value[some[of]])[:, None]) / scale[of][:, None]
            close = _tricube(u)
            level, height = close * run.weight, close * run.heights
            sums[0, of] += level.sum(axis=1)
            sums[3, of] += height.sum(axis=1)
            sums[4, of] += np.einsum("ij,ij->i", height, u)
            level *= u
            sums[1, of] += level.sum(axis=1)
            sums[2, of] += np.einsum("ij,ij->i", level, u)
        found[some] = _heights(sums, before[some] - centre) + centre
        apart = sums[0] * sums[2] - sums[1] ** 2
        there = upto[windows.last[some] + 1] - upto[windows.first[some]]
        doubtful = (apart < IN_DOUBT * sums[0] ** 2) | (sums[0] < IN_DOUBT * there)
        for k in np.flatnonzero(doubtful & (reach > 0)):
            part = slice(windows.first[some[k]], windows.last[some[k]] + 1)
            u = (value[part] - value[some[k]]) / reach[k]
            close = _tricube(u)
            level, height = close * own[part], close * heights[part]
            found[some[k]] = (
                _about_mean(u, level, height) + centre if level.any() else before[some[k]]
            )
    return found


def _heights(sums: FloatArray, before: FloatArray) -> FloatArray:
    """(m,) least squares at 0 from Σ w, Σ w u, Σ w u², Σ w y, Σ w y u; ``before`` without weight."""
    s0, s1, s2, t0, t1 = sums
    apart = s0 * s2 - s1**2
    with np.errstate(divide="ignore", invalid="ignore"):
        sloped = (s2 * t0 - s1 * t1) / apart
        level = t0 / s0
    return np.where(s0 > 0, np.where(apart > 0, sloped, level), before)


def _about_mean(u: FloatArray, weight: FloatArray, heights: FloatArray) -> float:
    """The height at 0 of the line through points ``u``, from weights and weighted heights."""
    total, level = weight.sum(), heights.sum() / weight.sum()
    mean = float(weight @ u) / total
    apart = u - mean
    spread = float(weight @ apart**2)
    if spread <= (1e-14 * np.abs(u[weight > 0]).max()) ** 2 * total:
        return float(level)
    return float(level - mean * (heights @ apart) / spread)


def _tricube(u: FloatArray) -> FloatArray:
    """(1 − |u|³)³ within 1 of 0, and 0 outside."""
    away = np.abs(u)
    left = np.maximum(1 - away * away * away, 0.0)
    return np.asarray(left * left * left)


def _summed(place: IntArray, values: FloatArray, size: int) -> FloatArray:
    return np.asarray(np.bincount(place, values, size), dtype=np.float64)


@dataclass(frozen=True, slots=True)
class _Runs:
    """Runs of as many neighbouring values each, with places that stand for its points.

    Up to eight values the places are the values themselves. For longer runs they are Chebyshev's
    twelve, with weights that give every sum of a polynomial of degree 11 as the points do.

    Attributes:
        origin: (runs,) the first value of each, exact.
        at: (runs, places) the places, from the origin; ``weight``, ``heights``: their weights, and
            weighted heights.
    """

    origin: FloatArray
    at: FloatArray
    weight: FloatArray
    heights: FloatArray

    def some(self, which: IntArray) -> "_Runs":
        """Some of the runs."""
        return _Runs(self.origin[which], self.at[which], self.weight[which], self.heights[which])


@dataclass(frozen=True, slots=True)
class _Tree:
    """Runs of 1, 2, 4, … values."""

    levels: tuple[_Runs, ...]

    @classmethod
    def of(cls, value: FloatArray, weight: FloatArray, heights: FloatArray) -> "_Tree":
        """The runs of m values, the last one of a length left out where it is short."""
        levels = [_Runs(value, np.zeros((value.size, 1)), weight[:, None], heights[:, None])]
        while levels[-1].origin.size > 1:
            levels.append(_joined(levels[-1], value, 1 << len(levels)))
        return cls(tuple(levels))

    def within(
        self, first: IntArray, beyond: IntArray, middle: IntArray
    ) -> Iterator[tuple[IntArray, _Runs]]:
        """For windows first ≤ i < beyond (k,), the runs that make them up: which windows have one, and
        it. No run crosses ``middle`` (k,), where the weight of distance has its corner.
        """
        windows = np.arange(first.size)
        for begins, ends in ((first, middle), (middle, beyond)):
            low, high = begins, ends
            for runs in self.levels:
                for there, run in ((low % 2 == 1, low), (high % 2 == 1, high - 1)):
                    which = windows[there & (low < high)]
                    if which.size:
                        yield which, runs.some(run[which])
                low, high = (low + 1) // 2, high // 2


def _joined(runs: _Runs, value: FloatArray, size: int) -> _Runs:
    """Every run with its neighbour: runs of ``size`` of the values (m,)."""
    half = runs.origin.size // 2
    pairs = slice(0, 2 * half)
    origin = runs.origin[pairs][::2]
    at = runs.at[pairs].reshape(half, -1).copy()
    at[:, runs.at.shape[1] :] += (runs.origin[1::2][:half] - origin)[:, None]
    weight, heights = (part[pairs].reshape(half, -1) for part in (runs.weight, runs.heights))
    if at.shape[1] <= 8:
        return _Runs(origin, at, weight, heights)
    return _carried(origin, at, weight, heights, value[size - 1 :: size][:half] - origin)


def _carried(
    origin: FloatArray, at: FloatArray, weight: FloatArray, heights: FloatArray, length: FloatArray
) -> _Runs:
    """Chebyshev's places on runs of some ``length`` (runs,), and the weights carried over to them."""
    angle = np.pi * (np.arange(EXACT) + 0.5) / EXACT
    half = length / 2
    v = at / half[:, None] - 1
    # Σ_k' T_k(node) T_k(v) is the polynomial that is 1 at a node and 0 at the others.
    level, height = np.zeros((2, half.size, EXACT))
    before, now = np.zeros_like(v), np.ones_like(v)
    for k in range(EXACT):
        share = np.cos(k * angle) * ((1 if k == 0 else 2) / EXACT)
        level += (weight * now).sum(axis=1)[:, None] * share
        height += (heights * now).sum(axis=1)[:, None] * share
        before, now = now, (v if k == 0 else 2 * v * now - before)
    return _Runs(origin, half[:, None] * (1 + np.cos(angle)), level, height)


def _part(watch: Watch, k: int, parts: int) -> Watch:
    return lambda what, share: watch(what, (k + share) / parts)
