"""Mean time without the event up to a limit, predicted for a profile
(methods.md, section 4: Proportional hazards regression, "predicted restricted mean")."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray
from hourglass.core.curves.restricted_mean import areas
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import FollowUp
from hourglass.core.progress import ProgressCallback, no_progress
from hourglass.core.regression.adjusted import SAMPLES, SECTION
from hourglass.core.regression.effects import OverTime
from hourglass.core.regression.fitted import HazardsFit
from hourglass.core.regression.prediction import Baseline, baselines_of
from hourglass.core.regression.refits import refits
from hourglass.core.resampling import limits_of_samples


@dataclass(frozen=True, slots=True)
class Profile:
    """Whom a prediction is for.

    Attributes:
        x: (p,) the columns on their original scale; with changing effects the values they are made of.
        stratum: the code of the stratum whose baseline applies; 0 without strata.
    """

    x: FloatArray
    offset: float = 0.0
    stratum: int = 0


@dataclass(frozen=True, slots=True)
class PredictedMeans:
    """∫₀^τ exp(−Λ) of k profiles, with percentile limits of the refits.

    Attributes:
        mean, lower, upper: (k,); limits NaN where over a tenth of the refits had to be left out.
        left_out: how many were.
    """

    limit: float
    mean: FloatArray
    lower: FloatArray
    upper: FloatArray
    left_out: int


def predicted_means(
    data: FollowUp,
    x: FloatArray,
    fitted: HazardsFit,
    profiles: Sequence[Profile],
    limit: float,
    seed: int,
    confidence: float = 0.95,
    samples: int = SAMPLES,
    progress: ProgressCallback = no_progress,
    over_time: OverTime | None = None,
) -> PredictedMeans:
    """The mean up to a limit that the model predicts for each profile.

    Args:
        data, x, fitted: a fit and what it was made of.
        limit: τ, up to the largest observed time of every profile's stratum.
        over_time: how columns come from values, where an effect changes.

    Raises:
        NotEstimableError: when the limit is past that, a profile's stratum has no event, as for
            :func:`at_estimate`, or for more copies than can be drawn.
    """

    def means(
        part: FollowUp, columns: FloatArray, one: HazardsFit, last: float | None
    ) -> FloatArray:
        made = baselines_of(part, columns, one)
        return np.array([_mean(made.get(p.stratum), p, limit, last, over_time) for p in profiles])

    mean = means(data, x, fitted, None)
    drawn = [
        # In a sample the hazard is held after its last event, wherever its follow-up ends.
        means(sample.data, x[sample.rows], sample.fitted, limit)
        for sample in refits(data, x, fitted, seed, SECTION, samples, progress)
        if sample is not None
    ]
    lower, upper = limits_of_samples(drawn, samples, confidence, mean)
    return PredictedMeans(limit, mean, lower, upper, samples - len(drawn))


def _mean(
    baseline: Baseline | None,
    profile: Profile,
    limit: float,
    last: float | None,
    over_time: OverTime | None,
) -> float:
    if baseline is None:
        raise NotEstimableError("the stratum of the profile has no event, so it has no baseline")
    x = profile.x if over_time is None else over_time.profile(profile.x, baseline.time)
    survival = np.exp(-baseline.cumulative(x, profile.offset))
    end = baseline.last if last is None else last
    return float(areas(baseline.time, survival, end, limit).sum())
