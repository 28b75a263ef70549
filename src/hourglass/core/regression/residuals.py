"""Residuals of rows and subjects, and what each does to the coefficients
(methods.md, section 6: Residuals and checks)."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import BoolArray, FloatArray
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import FollowUp
from hourglass.core.regression.fitted import HazardsFit
from hourglass.core.regression.likelihood import (
    RiskMoments,
    means_over_factors,
    means_over_hazard,
    moments,
)
from hourglass.core.regression.risk_sets import RiskSets, columns_of, risk_sets
from hourglass.core.regression.ties import EXACT
from hourglass.core.subjects import copies_of_subjects


@dataclass(frozen=True, slots=True, kw_only=True)
class AtEstimate:
    """Risk sets of a fitted model with their sums.

    Attributes:
        kept: (p,) False for columns that were left out as aliased; q are not.
        beta: (q,) and ``covariance``: (q, q) of the others.
        x: (q, n) these columns in the order of the risk sets, each less its mean ``centre`` (q,).
        linear: (n,) the linear predictor in that order, 0 at the columns' means and no offset.
    """

    kept: BoolArray
    beta: FloatArray
    covariance: FloatArray
    sets: RiskSets
    x: FloatArray
    centre: FloatArray
    linear: FloatArray
    m: RiskMoments


def estimated(fitted: HazardsFit) -> BoolArray:
    """(p,) False for columns that were left out as aliased.

    Raises:
        NotEstimableError: with exact ties, which have no baseline, or when a coefficient has no
            finite estimate.
    """
    if fitted.ties is EXACT:
        raise NotEstimableError("with exact ties there is no baseline, so there are no residuals")
    if any(f not in {"finite", "aliased"} for f in fitted.status):
        raise NotEstimableError("a coefficient has no finite estimate, so it has no residuals")
    return np.array([f == "finite" for f in fitted.status], dtype=bool)


def at_estimate(data: FollowUp, x: FloatArray, fitted: HazardsFit) -> AtEstimate:
    """What residuals and baselines are made of, for columns ``x`` (n, p).

    Raises:
        NotEstimableError: with exact ties, which have no baseline, or when a coefficient has no
            finite estimate.
    """
    kept = estimated(fitted)
    beta, covariance = fitted.beta[kept], fitted.covariance[np.ix_(kept, kept)]
    sets = risk_sets(data, fitted.ties, fitted.stratum)
    columns = columns_of(x, sets.order, kept)
    centre = sets.mean_at_risk(columns)
    columns -= centre[:, None]  # their differences keep all digits
    linear = beta @ columns + sets.ordered(fitted.offset)
    m = moments(sets, columns, linear)
    return AtEstimate(
        kept=kept,
        beta=beta,
        covariance=covariance,
        sets=sets,
        x=columns,
        centre=centre,
        linear=linear,
        m=m,
    )


@dataclass(frozen=True, slots=True)
class BySubject:
    """Events seen and expected of m subjects, in order of first appearance; rows where each is one.

    Attributes:
        events, expected: (m,) δ and Λ summed over a subject's rows, one copy.
        copies: (m,) of each.
    """

    events: FloatArray
    expected: FloatArray
    copies: FloatArray

    @property
    def martingale(self) -> FloatArray:
        """(m,) δ − Λ."""
        return self.events - self.expected

    @property
    def deviance(self) -> FloatArray:
        """(m,) sign(M) √(−2 [M + δ ln(δ − M)]); NaN where several events leave no root."""
        m = self.martingale
        with np.errstate(divide="ignore", invalid="ignore"):
            log = np.where(self.events > 0, self.events * np.log(self.expected), 0.0)
            square = -2 * (m + log)
            # What rounding leaves of a residual of 0 is no square below 0.
            square[np.abs(square) < 1e-15] = 0.0
            return np.asarray(np.sign(m) * np.sqrt(square))


def expected_events(at: AtEstimate) -> FloatArray:
    """(n,) Λ_i of each data row, one copy: r_i ∫ dΛ0 while it is at risk (Cox–Snell).

    Under Efron a row with the event takes (1 − l/d)/φ_l at its own time, so that Σ w (δ − Λ) = 0.
    """
    hazard = at.sets.while_at_risk(at.m.sums.inverse, at.m.sums.kept)
    return at.sets.by_row(hazard * at.m.score / at.sets.count)


def by_subject(data: FollowUp, at: AtEstimate) -> BySubject:
    """Events seen and expected, summed by subject."""
    subject, copies = copies_of_subjects(data)
    size = copies.size
    events, expected = (
        np.asarray(np.bincount(subject, values, size), dtype=np.float64)
        for values in (data.event().astype(np.float64), expected_events(at))
    )
    return BySubject(events, expected, copies.astype(np.float64))


def score_residuals(data: FollowUp, at: AtEstimate) -> FloatArray:
    """(n, q) ∫ (x_i − x̄) dM_i of each row, one copy: what it adds to the score; Σ w of it is 0.

    Under Efron x̄_l stands beside each factor's share of dM.
    """
    sets, m = at.sets, at.m
    mean = means_over_factors(sets, m) / sets.events
    whole, kept = means_over_hazard(sets, m)
    own = m.score / sets.count
    hazard = sets.while_at_risk(m.sums.inverse, m.sums.kept)
    found = np.empty((sets.order.size, at.x.shape[0]))
    for k, column in enumerate(at.x):
        residual = -own * (column * hazard - sets.while_at_risk(whole[k], kept[k]))
        residual[sets.event_rows] += column[sets.event_rows] - mean[k, sets.event_time]
        found[sets.order, k] = residual
    return found


def changes_without(data: FollowUp, at: AtEstimate) -> FloatArray:
    """(n, q) dfbeta: how far a copy of each row moves each coefficient, to first order."""
    return score_residuals(data, at) @ at.covariance
