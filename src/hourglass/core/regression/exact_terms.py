"""The exact log partial likelihood event time by event time, at any coefficients
(methods.md, section 4: Proportional hazards regression)."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.followup import FollowUp
from hourglass.core.regression.columns import scores_of
from hourglass.core.regression.exact import log_of_subsets, moments_of_subsets, refuse_too_much
from hourglass.core.regression.fitted import HazardsFit
from hourglass.core.regression.likelihood import moments
from hourglass.core.regression.risk_sets import risk_sets
from hourglass.core.regression.score_terms import ScoreTerms, terms_of_means
from hourglass.core.regression.ties import EXACT


@dataclass(frozen=True, slots=True, kw_only=True)
class ExactTerms:
    """What each of K event times, those of each stratum apart, adds.

    Attributes:
        time, events, at_risk: (K,) event times with d and n, copies counted.
        linear: (K,) Σ xβ of the events.
        subsets: (K,) ln B(d, n), B the sum of Π exp(xβ) over all sets of d of the n at risk.
        term: (K,) linear − subsets.
    """

    time: FloatArray
    events: IntArray
    at_risk: IntArray
    linear: FloatArray
    subsets: FloatArray
    term: FloatArray

    @property
    def value(self) -> float:
        """ln L, the sum of the terms."""
        return float(self.term.sum())


def exact_terms(
    data: FollowUp, x: FloatArray, beta: FloatArray, stratum: IntArray | None = None
) -> ExactTerms:
    """Terms of the event times with columns ``x`` (n, p) at coefficients ``beta`` (p,).

    Raises:
        NotEstimableError: where so many events are tied that the sums would take too long.
    """
    sets = risk_sets(data, EXACT, stratum)
    refuse_too_much(sets, x.shape[1])
    linear = sets.ordered(scores_of(x.T, beta))
    at_risk = np.add(*sets.over(sets.count)).astype(np.int64)
    subsets = np.log(np.add(*sets.over(np.exp(linear) * sets.count)))
    for j in np.flatnonzero(sets.events > 1):
        rows, _ = sets.at_risk(int(j))
        copies = np.repeat(rows, sets.count[rows].astype(np.int64))
        subsets[j] = log_of_subsets(linear[copies], int(sets.events[j]))
    of_events = sets.over_events(linear * sets.count)
    return ExactTerms(
        time=sets.time,
        events=sets.events.astype(np.int64),
        at_risk=at_risk,
        linear=of_events,
        subsets=subsets,
        term=of_events - subsets,
    )


def exact_score_terms(data: FollowUp, x: FloatArray, fitted: HazardsFit, column: int) -> ScoreTerms:
    """What each event time adds to the score and information of one column of ``x`` (n, p), β at its
    estimate: d x̄ is the mean, and the information the variance, of Σ x over all sets of d at risk."""
    sets = risk_sets(data, EXACT, fitted.stratum)
    linear = sets.ordered(fitted.linear)
    origin = float(np.median(x[:, column]))
    values = sets.ordered(x[:, column] - origin)
    m = moments(sets, np.array([values, values**2]), linear)
    mean, square = m.mean
    mean, information = mean.copy(), square - mean**2
    for j in np.flatnonzero(sets.events > 1):
        rows, _ = sets.at_risk(int(j))
        copies = np.repeat(rows, sets.count[rows].astype(np.int64))
        mean[j], information[j] = moments_of_subsets(
            linear[copies], values[copies], int(sets.events[j])
        )
    return terms_of_means(sets, values, origin, mean, information)
