"""Refits of a model on bootstrap samples of its subjects
(methods.md, section 4: Proportional hazards regression; section 9: Validation of a model)."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import FollowUp
from hourglass.core.progress import ProgressCallback, no_progress
from hourglass.core.regression.fit import fit
from hourglass.core.regression.fitted import HazardsFit
from hourglass.core.resampling import owners, times_drawn
from hourglass.core.subjects import copies_of_subjects


@dataclass(frozen=True, slots=True)
class Sample:
    """A bootstrap sample: the rows drawn, how often each subject was, and the fit on them.

    Attributes:
        rows: (m,) data rows of the subjects drawn; ``data``: their follow-up, counted as often.
        copies: (subjects,) how often each was drawn.
    """

    rows: IntArray
    data: FollowUp
    copies: IntArray
    fitted: HazardsFit


def refits(
    data: FollowUp,
    x: FloatArray,
    fitted: HazardsFit,
    seed: int,
    section: int,
    samples: int,
    progress: ProgressCallback = no_progress,
) -> Iterator[Sample | None]:
    """The model fitted on each sample with the same columns, ties and strata; None where that fails,
    is monotone, or a stratum with events has none in the sample.

    Raises:
        NotEstimableError: when there are more copies than can be drawn.
    """
    subject, copies = copies_of_subjects(data)
    owner = owners(copies)
    wanted = _strata_with_events(data, fitted.stratum)
    for b in range(samples):
        progress("fitting the model again on samples", b / samples)
        drawn = times_drawn(owner, seed, section, b)
        rows = np.flatnonzero(drawn[subject])
        part = data.counted(drawn[subject])
        stratum = None if fitted.stratum is None else fitted.stratum[rows]
        try:
            if not np.isin(wanted, _strata_with_events(part, stratum)).all():
                yield None
                continue
            again = fit(part, x[rows], fitted.offset[rows], ties=fitted.ties, stratum=stratum)
        except NotEstimableError:
            yield None
            continue
        away = any(f not in {"finite", "aliased"} for f in again.status)
        yield None if away else Sample(rows, part, drawn, again)


def coefficients(fitted: HazardsFit) -> FloatArray:
    """(p,) β̂, 0 for a column that is aliased."""
    return np.nan_to_num(fitted.beta)


def _strata_with_events(data: FollowUp, stratum: IntArray | None) -> IntArray:
    happened = data.event()
    if stratum is None:
        return np.zeros(int(happened.any()), dtype=np.int64)
    return np.unique(stratum[happened])
