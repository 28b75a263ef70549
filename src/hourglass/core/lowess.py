"""A line through scattered points, fitted locally and robustly (Cleveland 1979;
methods.md, section 6: Residuals and checks)."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import BoolArray, FloatArray, IntArray
from hourglass.core.progress import ProgressCallback, no_progress
from hourglass.core.sample_quantiles import sample_quantiles
from hourglass.core.weighted_runs import RunTree
from hourglass.core.window_sums import Windows, window_sums, windows_of

SPAN = 2 / 3
PASSES = 3
AT_ONCE = 1 << 13
"""So many lines are fitted at a time."""
ROUGH = 1e-2
"""Below this share of their window, squared, sums are not trusted to differences of moments."""
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
    progress: ProgressCallback = no_progress,
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
    windows = windows_of(value, _summed(place, copies, value.size), span)
    line, robust = np.zeros(value.size), np.ones(x.size)
    for k in range(passes + 1):
        line = _lines(
            value, place, copies * robust, y, windows, line, _part(progress, k, passes + 1)
        )
        apart = np.abs(y - line[place])
        middle = float(sample_quantiles(apart, copies.astype(np.int64), np.array([0.5]))[0])
        if middle <= NO_SPREAD * np.abs(y).max():
            break
        robust = np.square(np.maximum(1 - np.square(apart / (6 * middle)), 0.0))
    return Lowess(value, line)


def _lines(
    value: FloatArray,
    place: IntArray,
    weight: FloatArray,
    y: FloatArray,
    windows: Windows,
    before: FloatArray,
    progress: ProgressCallback,
) -> FloatArray:
    """(m,) the height of each value's line at that value."""
    own = _summed(place, weight, value.size)
    centre = float(weight @ y / weight.sum()) if weight.sum() > 0 else 0.0
    heights = _summed(place, weight * (y - centre), value.size)
    upto = np.concatenate([[0.0], np.cumsum(own)])
    there = upto[windows.last + 1] - upto[windows.first]
    progress("smoothing", 0.0)
    sums = window_sums(value, own, heights, windows)
    rough = np.flatnonzero(_in_doubt(sums, there, ROUGH) & (windows.reach > 0))
    if rough.size:
        sums[:, rough] = _by_runs(value, own, heights, windows, rough, progress)
    found = _heights(sums, before - centre) + centre
    for k in rough[_in_doubt(sums[:, rough], there[rough], IN_DOUBT)]:
        part = slice(windows.first[k], windows.last[k] + 1)
        u = (value[part] - value[k]) / windows.reach[k]
        close = _tricube(u)
        level, height = close * own[part], close * heights[part]
        found[k] = _about_mean(u, level, height) + centre if level.any() else before[k]
    return found


def _in_doubt(sums: FloatArray, there: FloatArray, share: float) -> BoolArray:
    """Where little of the weight ``there`` is left, or it is spread little."""
    return np.asarray(
        (sums[0] * sums[2] - sums[1] ** 2 < share * sums[0] ** 2) | (sums[0] < share * there)
    )


def _by_runs(
    value: FloatArray,
    own: FloatArray,
    heights: FloatArray,
    windows: Windows,
    which: IntArray,
    progress: ProgressCallback,
) -> FloatArray:
    """(5, q) the sums of some windows, run by run: no digit is lost to what lies outside a window."""
    tree = RunTree.of(value, own, heights)
    sums = np.zeros((5, which.size))
    for start in range(0, which.size, AT_ONCE):
        progress("smoothing", start / which.size)
        some = which[start : start + AT_ONCE]
        part = sums[:, start : start + AT_ONCE]
        for of, run in tree.within(windows.first[some], windows.last[some] + 1, some):
            u = (run.at + (run.origin - value[some[of]])[:, None]) / windows.reach[some[of]][
                :, None
            ]
            close = _tricube(u)
            level, height = close * run.weight, close * run.heights
            part[0, of] += level.sum(axis=1)
            part[3, of] += height.sum(axis=1)
            part[4, of] += np.einsum("ij,ij->i", height, u)
            level *= u
            part[1, of] += level.sum(axis=1)
            part[2, of] += np.einsum("ij,ij->i", level, u)
    return sums


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


def _part(progress: ProgressCallback, k: int, parts: int) -> ProgressCallback:
    return lambda what, share: progress(what, (k + share) / parts)
