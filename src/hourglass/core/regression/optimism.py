"""How much of a model's concordance is owed to its having been fitted on the same rows
(Harrell, Lee & Mark 1996; methods.md, section 9: Validation of a model)."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray
from hourglass.core.followup import FollowUp
from hourglass.core.progress import ProgressCallback, no_progress
from hourglass.core.regression.columns import scores_of
from hourglass.core.regression.concordance import concordance
from hourglass.core.regression.fitted import HazardsFit
from hourglass.core.regression.refits import coefficients, refits
from hourglass.core.resampling import MAX_LEFT_OUT

SECTION = 9
SAMPLES = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class Optimism:
    """The concordance of a model, and what is left of it.

    Attributes:
        apparent: C in the rows it was fitted on.
        optimism: the mean of C_b − C_b° over the samples; ``error``: its Monte-Carlo error.
        corrected: apparent less optimism. Without it, ``blank`` gives the reason.
        left_out: how many samples were.
    """

    apparent: float | None
    optimism: float | None
    error: float | None
    corrected: float | None
    left_out: int
    blank: str | None = None


def optimism(
    data: FollowUp,
    x: FloatArray,
    fitted: HazardsFit,
    seed: int,
    samples: int = SAMPLES,
    progress: ProgressCallback = no_progress,
) -> Optimism:
    """The model refitted on bootstrap samples, its concordance there and in the original rows.

    Raises:
        NotEstimableError: when there are more copies than can be drawn.
    """
    apparent = concordance(data, fitted.linear, fitted.stratum)
    if apparent.value is None:
        return Optimism(
            apparent=None,
            optimism=None,
            error=None,
            corrected=None,
            left_out=0,
            blank=apparent.blank,
        )
    differences, left_out = [], 0
    for sample in refits(data, x, fitted, seed, SECTION, samples, progress):
        if sample is None:
            left_out += 1
            continue
        inside = concordance(sample.data, sample.fitted.linear, sample.fitted.stratum)
        score = scores_of(x.T, coefficients(sample.fitted)) + fitted.offset
        outside = concordance(data, score, fitted.stratum)
        if inside.value is None or outside.value is None:
            left_out += 1
        else:
            differences.append(inside.value - outside.value)
    if left_out > MAX_LEFT_OUT * samples or len(differences) < 2:
        why = "over a tenth of the samples have no finite fit"
        return Optimism(
            apparent=apparent.value,
            optimism=None,
            error=None,
            corrected=None,
            left_out=left_out,
            blank=why,
        )
    found = np.array(differences)
    mean, error = float(found.mean()), float(found.std(ddof=1) / np.sqrt(found.size))
    return Optimism(
        apparent=apparent.value,
        optimism=mean,
        error=error,
        corrected=apparent.value - mean,
        left_out=left_out,
    )
