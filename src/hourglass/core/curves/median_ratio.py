"""The ratio of two medians, its limits by resampling (methods.md, section 2: Survival curve)."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.contrast import Contrast, absent
from hourglass.core.curves.quantiles import quantile, reached
from hourglass.core.curves.survival import survival_curve
from hourglass.core.followup import FollowUp
from hourglass.core.progress import ProgressCallback, no_progress
from hourglass.core.resampling import MAX_LEFT_OUT, owners, percentile_limits, times_drawn
from hourglass.core.risk_table import risk_table
from hourglass.core.subjects import copies_of_subjects

SAMPLES = 1_000
SECTION = 2


@dataclass(frozen=True, slots=True)
class Arm:
    """A group of a comparison, with its place in the order of the column's groups."""

    data: FollowUp
    place: int


def median_ratio(
    a: Arm,
    b: Arm,
    seed: int,
    confidence: float = 0.95,
    samples: int = SAMPLES,
    progress: ProgressCallback = no_progress,
) -> Contrast:
    """t_B / t_A, with percentile limits of bootstrap samples within each group.

    An infinite upper limit is "not reached". Without an estimate, or without limits, ``blank``
    gives the reason.

    Raises:
        NotEstimableError: when a group has more copies than can be drawn.
    """
    medians = [quantile(survival_curve(risk_table(arm.data)), 0.5).time for arm in (a, b)]
    if medians[0] is None or medians[1] is None:
        return absent("a median is not reached in one of the groups")
    if medians[0] == 0:
        return absent("the median of the reference is 0")
    estimate = medians[1] / medians[0]
    drawn = [bootstrap_medians(arm, seed, samples, progress) for arm in (a, b)]
    with np.errstate(divide="ignore", invalid="ignore"):
        ratios = drawn[1] / drawn[0]
    known = ratios[~np.isnan(ratios)]
    if samples - known.size > MAX_LEFT_OUT * samples:
        return Contrast(estimate, blank="in over a tenth of the samples the ratio is not known")
    lower, upper = percentile_limits(known, confidence)
    return Contrast(estimate, float(lower), float(upper))


def bootstrap_medians(arm: Arm, seed: int, samples: int, progress: ProgressCallback) -> FloatArray:
    """(samples,) the median of each bootstrap sample of a group's subjects; infinite if not reached."""
    data = arm.data
    subject, copies = copies_of_subjects(data)
    owner = owners(copies)
    resampled = _Resampled(data, subject)
    found = np.empty(samples)
    for k in range(samples):
        progress("drawing samples of each group", k / samples)
        found[k] = resampled.median(times_drawn(owner, seed, SECTION, k, arm.place))
    return found


class _Resampled:
    """A group's rows in order of time, so that each sample costs one pass over them."""

    def __init__(self, data: FollowUp, subject: IntArray) -> None:
        order = data.order
        exit, happened = data.exit[order], data.event()[order]
        self._subject, self._event = subject[order], np.flatnonzero(happened)
        time = exit[self._event]
        new = np.concatenate([[True], time[1:] != time[:-1]])[: time.size]
        self._opens, self._time = np.flatnonzero(new), time[new]
        self._before = np.searchsorted(exit, self._time, side="left")
        self._entering: tuple[IntArray, IntArray] | None = None
        if data.entry is not None:
            late = np.argsort(data.entry)
            not_yet = np.searchsorted(data.entry[late], self._time, side="left")
            self._entering = subject[late], not_yet

    def median(self, times_drawn: IntArray) -> float:
        weight = times_drawn[self._subject]
        n = _from_here(weight)[self._before]
        if self._entering is not None:
            subject, not_yet = self._entering
            n = n - _from_here(times_drawn[subject])[not_yet]
        d = np.add.reduceat(weight[self._event], self._opens)
        there = d > 0
        time, n, d = self._time[there], n[there], d[there]
        found, _ = reached(time, np.cumprod((n - d) / n, dtype=np.float64), 0.5)
        return np.inf if found is None else found


def _from_here(weight: IntArray) -> IntArray:
    """(n + 1,) the sum of ``weight`` from each place on."""
    return np.concatenate([np.cumsum(weight[::-1])[::-1], [0]])
