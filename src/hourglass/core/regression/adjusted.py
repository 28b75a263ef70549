"""Survival adjusted for other covariates, by the levels of a factor
(methods.md, section 4: Proportional hazards regression, "Adjusted curves")."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.errors import Refusal, RefusedRowsError
from hourglass.core.followup import FollowUp
from hourglass.core.progress import ProgressCallback, no_progress
from hourglass.core.regression.effects import OverTime
from hourglass.core.regression.fitted import HazardsFit
from hourglass.core.regression.prediction import Baseline, baselines_of, shared_end
from hourglass.core.regression.refits import refits
from hourglass.core.resampling import limits_of_samples
from hourglass.core.subjects import copies_of_subjects, one_for_each

SECTION = 4
SAMPLES = 500
AT_ONCE = 1 << 22
"""So many values of curves are held at a time."""


@dataclass(frozen=True, slots=True)
class AdjustedCurves:
    """Survival by level at (m,) times up to the smallest of the strata's largest.

    Attributes:
        survival, lower, upper: (levels, m) the mean over all subjects, with percentile limits of
            the refits; limits NaN where over a tenth of them had to be left out.
        left_out: how many refits were.
    """

    time: FloatArray
    survival: FloatArray
    lower: FloatArray
    upper: FloatArray
    left_out: int


def adjusted_curves(
    data: FollowUp,
    x: FloatArray,
    fitted: HazardsFit,
    levels: Sequence[FloatArray],
    at: FloatArray,
    seed: int,
    confidence: float = 0.95,
    samples: int = SAMPLES,
    progress: ProgressCallback = no_progress,
    over_time: OverTime | None = None,
) -> AdjustedCurves:
    """mean_i exp(−Λ0(t) r_i) over all subjects, everybody put at each level in turn.

    Args:
        data, x, fitted: a fit and what it was made of.
        levels: for each level the columns (n, p) with the factor, and its products, set to it; with
            changing effects the values that these are made of.
        at: (m,) times; those past the smallest of the strata's largest observed times are dropped.
        over_time: how columns come from values, where an effect changes.

    Raises:
        RefusedRowsError: naming rows of a subject in which another covariate changes.
        NotEstimableError: as for :func:`at_estimate`, or for more copies than can be drawn.
    """
    subject, copies = copies_of_subjects(data)
    of_subjects = []
    for columns in levels:
        own, changes = one_for_each(subject, columns)
        of_subjects.append(own)
        if changes.any():
            why = "another covariate changes within a subject"
            raise RefusedRowsError((Refusal(why, np.flatnonzero(changes)),))
    stratum = np.zeros(copies.size, dtype=np.int64)
    if fitted.stratum is not None:
        stratum, _ = one_for_each(subject, fitted.stratum)
    made = baselines_of(data, x, fitted)
    time = at[at <= shared_end(data, fitted.stratum)]
    everyone = _SubjectsAt(of_subjects, one_for_each(subject, fitted.offset)[0], stratum, over_time)
    survival = everyone.mean(made, copies, time)
    drawn = []
    for sample in refits(data, x, fitted, seed, SECTION, samples, progress):
        if sample is not None:
            again = baselines_of(sample.data, x[sample.rows], sample.fitted)
            drawn.append(everyone.mean(again, sample.copies, time))
    lower, upper = limits_of_samples(drawn, samples, confidence, survival)
    return AdjustedCurves(time, survival, lower, upper, samples - len(drawn))


@dataclass(frozen=True, slots=True)
class _SubjectsAt:
    """The columns of each subject at each level, or their values, its offset and its stratum."""

    levels: list[FloatArray]
    offset: FloatArray
    stratum: IntArray
    over_time: OverTime | None

    def mean(self, made: Mapping[int, Baseline], copies: IntArray, time: FloatArray) -> FloatArray:
        """(levels, m) the mean survival over subjects, each as often as its copies: 1 in a stratum
        without an event."""
        eventless = ~np.isin(self.stratum, list(made))
        found = np.full((len(self.levels), time.size), float(copies[eventless].sum()))
        for code, baseline in made.items():
            inside = np.flatnonzero((self.stratum == code) & (copies > 0))
            wide = time.size + (0 if self.over_time is None else baseline.time.size)
            step = max(AT_ONCE // max(wide, 1), 1)
            for start in range(0, inside.size, step):
                some = inside[start : start + step]
                for g, columns in enumerate(self.levels):
                    hazards = baseline.hazards(
                        columns[some], self.offset[some], time, self.over_time
                    )
                    found[g] += copies[some] @ np.exp(-hazards)
        return np.asarray(found / copies.sum())
