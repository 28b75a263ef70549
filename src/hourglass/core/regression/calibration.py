"""Predicted survival against what was seen (methods.md, section 9: Validation of a model).

In-sample: the same rows made the predictions, so it flatters.
"""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.curves.survival import SurvivalAt, survival_curve
from hourglass.core.errors import NotEstimableError, Refusal, RefusedRowsError
from hourglass.core.followup import FollowUp
from hourglass.core.regression.fit import fit
from hourglass.core.regression.fitted import HazardsFit
from hourglass.core.regression.prediction import baselines_of, shared_end
from hourglass.core.regression.terms import cubic_columns, sample_knots
from hourglass.core.risk_table import risk_table
from hourglass.core.sample_quantiles import sample_quantiles, value_opens
from hourglass.core.subjects import copies_of_subjects, one_for_each

TENTHS = np.arange(1, 10) / 10
KNOTS = 3


@dataclass(frozen=True, slots=True)
class Tenth:
    """Subjects of like prediction: how many, the mean prediction, and the curve at the time.

    ``seen`` is None past the largest observed time among them, unless all had had the event by then.
    """

    subjects: int
    predicted: float
    seen: SurvivalAt | None


@dataclass(frozen=True, slots=True)
class Smoothed:
    """Predictions against a smooth of what was seen (Austin, Harrell & van Klaveren 2020).

    Attributes:
        seen: (m,) the smooth for each subject, in order of first appearance.
        mean, median, ninth_tenth: of the absolute differences, copies included.
    """

    seen: FloatArray
    mean: float
    median: float
    ninth_tenth: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Calibration:
    """Predicted survival at a time, by tenths and smoothed.

    Attributes:
        predicted: (m,) Ŝ of each subject, in order of first appearance.
        tenth: (m,) the place of each subject's tenth among the tenths.
        tenths: ascending; equal predictions are together, empty ones left out.
        smoothed: None, with ``blank`` giving the reason.
    """

    time: float
    predicted: FloatArray
    tenth: IntArray
    tenths: tuple[Tenth, ...]
    smoothed: Smoothed | None
    blank: str | None = None


def calibration(
    data: FollowUp, x: FloatArray, fitted: HazardsFit, time: float, confidence: float = 0.95
) -> Calibration:
    """Compare each subject's predicted survival at ``time`` with what was seen.

    Raises:
        RefusedRowsError: naming rows of a subject whose covariates, offset or stratum change.
        NotEstimableError: as for :func:`at_estimate`, or past the end of a stratum.
    """
    subject, _ = copies_of_subjects(data)
    return compared(data, _predicted(data, x, fitted, subject, time), time, confidence)


def compared(
    data: FollowUp, predicted: FloatArray, time: float, confidence: float = 0.95
) -> Calibration:
    """Compare predictions, wherever they come from, with what was seen.

    Args:
        predicted: (m,) survival at ``time`` of each subject, in order of first appearance.
    """
    subject, copies = copies_of_subjects(data)
    edges = sample_quantiles(predicted, copies, TENTHS)
    code, tenth = np.unique(np.searchsorted(edges, predicted, side="left"), return_inverse=True)
    tenths = []
    for k in range(code.size):
        inside = tenth == k
        curve = survival_curve(risk_table(data.only(inside[subject])), confidence)
        weight = copies[inside]
        mean = float(weight @ predicted[inside] / weight.sum())
        # Where all have had the event, S stays 0 past the last time.
        ended = bool(curve.survival.size and curve.survival[-1] == 0 and time > curve.table.last)
        seen = curve.at(curve.table.last if ended else time)
        tenths.append(Tenth(int(weight.sum()), mean, seen))
    if ((predicted <= 0) | (predicted >= 1)).any():
        why = "a predicted survival is 0 or 1, which has no place on the scale of the smooth"
        return Calibration(
            time=time,
            predicted=predicted,
            tenth=tenth,
            tenths=tuple(tenths),
            smoothed=None,
            blank=why,
        )
    try:
        smoothed = _smoothed(data, predicted, subject, copies, time)
    except NotEstimableError as error:
        return Calibration(
            time=time,
            predicted=predicted,
            tenth=tenth,
            tenths=tuple(tenths),
            smoothed=None,
            blank=str(error),
        )
    return Calibration(
        time=time, predicted=predicted, tenth=tenth, tenths=tuple(tenths), smoothed=smoothed
    )


def _predicted(
    data: FollowUp, x: FloatArray, fitted: HazardsFit, subject: IntArray, time: float
) -> FloatArray:
    stratum = np.zeros(subject.size)
    if fitted.stratum is not None:
        stratum = fitted.stratum.astype(np.float64)
    own, changes = one_for_each(subject, np.column_stack([x, fitted.offset, stratum]))
    if changes.any():
        why = "a covariate changes within a subject, who then has no one prediction"
        raise RefusedRowsError((Refusal(why, np.flatnonzero(changes)),))
    if not 0 <= time <= shared_end(data, fitted.stratum):
        raise NotEstimableError("that time lies past the end of follow-up of a stratum")
    found = np.ones(own.shape[0])
    for code, baseline in baselines_of(data, x, fitted).items():
        inside = own[:, -1] == code
        hazards = baseline.hazards(own[inside, :-2], own[inside, -2], np.array([time]))
        found[inside] = np.exp(-hazards[:, 0])
    return found


def _smoothed(
    data: FollowUp, predicted: FloatArray, subject: IntArray, copies: IntArray, time: float
) -> Smoothed:
    """A regression on ln(−ln Ŝ), curved, and what it predicts at the time."""
    v = np.log(-np.log(predicted))[subject]
    used = value_opens(data, v)
    columns = cubic_columns(v, sample_knots(v[used], data.count[used], KNOTS))
    again = fit(data, columns)
    (baseline,) = baselines_of(data, columns, again).values()
    of_subject, _ = one_for_each(subject, columns)
    hazards = baseline.hazards(of_subject, np.zeros(copies.size), np.array([time]))
    seen = np.exp(-hazards[:, 0])
    apart = np.abs(seen - predicted)
    median, ninth = sample_quantiles(apart, copies, np.array([0.5, 0.9]))
    return Smoothed(seen, float(copies @ apart / copies.sum()), float(median), float(ninth))
