"""Schoenfeld residuals and the test of proportional hazards
(methods.md, section 6: Residuals and checks)."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import BoolArray, FloatArray, IntArray
from hourglass.core.comparison.chi_squared import Test, chi_squared, no_test
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import FollowUp
from hourglass.core.regression.fitted import HazardsFit
from hourglass.core.regression.likelihood import information, means_over_factors, moments
from hourglass.core.regression.residuals import estimated
from hourglass.core.regression.risk_sets import RiskSets, columns_of, risk_sets
from hourglass.core.regression.time_functions import ONE_MINUS_SURVIVAL, TimeFunction

LEFT_OUT = "its columns were left out"


@dataclass(frozen=True, slots=True)
class EventResiduals:
    """Residuals of a fitted model, one for each of m rows with the event: those of one copy.

    Attributes:
        row: (m,) the data row of each; ``time``: (m,) its event time, ascending; ``count``: (m,) its
            copies, D in all.
        residual: (m, p) Schoenfeld (1982) residuals; ``scaled``: (m, p) β̂ + D Var(β̂) s; NaN for a
            column that was left out as aliased.
    """

    row: IntArray
    time: FloatArray
    count: IntArray
    residual: FloatArray
    scaled: FloatArray


@dataclass(frozen=True, slots=True, kw_only=True)
class ProportionalityTest:
    """Score test of β(t) = β + θ g(t) at θ = 0, β free (Grambsch & Therneau 1994).

    Attributes:
        time, g: (K,) event times, those of each stratum apart, and the function of time at them.
        together: all columns at once; ``column``: one test a column.
        contribution: (p,) U_θ; ``variance``: (p, p) I_θθ − I_θβ I_ββ⁻¹ I_βθ; NaN for a column that
            was left out as aliased.
    """

    time: FloatArray
    g: FloatArray
    together: Test
    column: tuple[Test, ...]
    contribution: FloatArray
    variance: FloatArray

    def of(self, columns: IntArray) -> Test:
        """The test of some columns together, as one term."""
        known = columns[np.isfinite(self.contribution[columns])]
        if not known.size:
            return no_test(LEFT_OUT)
        return _quadratic(self.contribution[known], self.variance[np.ix_(known, known)])


def event_residuals(data: FollowUp, x: FloatArray, fitted: HazardsFit) -> EventResiduals:
    """Schoenfeld and scaled Schoenfeld residuals of every event, in order of time.

    Raises:
        NotEstimableError: when a coefficient has no finite estimate.
    """
    kept = estimated(fitted)
    sets = risk_sets(data, fitted.ties, fitted.stratum)
    z = _centred(sets, x, kept)
    m = moments(sets, z, sets.ordered(fitted.linear))
    mean = means_over_factors(sets, m) / sets.events
    # At one time in the order of the data, whatever order the risk sets keep.
    row = sets.order[sets.event_rows]
    _, when = np.unique(sets.time, return_inverse=True)
    in_time = np.argsort(when[sets.event_time] * sets.order.size + row)
    row, place, j = row[in_time], sets.event_rows[in_time], sets.event_time[in_time]
    count = data.count[row]
    residual = np.empty((z.shape[0], row.size))
    for k, column in enumerate(z):
        np.subtract(column[place], mean[k][j], out=residual[k])
    covariance = count.sum() * fitted.covariance[np.ix_(kept, kept)]
    scaled = covariance @ residual
    scaled += fitted.beta[kept, None]
    return EventResiduals(
        row, sets.time[j], count, _beside(residual, kept).T, _beside(scaled, kept).T
    )


def _beside(values: FloatArray, kept: BoolArray) -> FloatArray:
    """(p, m) columns (q, m) of those kept, NaN for the others."""
    if kept.all():
        return values
    found = np.full((kept.size, values.shape[1]), np.nan)
    found[kept] = values
    return found


def _centred(sets: RiskSets, x: FloatArray, kept: BoolArray) -> FloatArray:
    """(q, n) columns in the order of the risk sets, less their means: their differences keep all digits."""
    columns = columns_of(x, sets.order, kept)
    columns -= sets.mean_at_risk(columns)[:, None]
    return columns


def proportionality_test(
    data: FollowUp,
    x: FloatArray,
    fitted: HazardsFit,
    time_function: TimeFunction = ONE_MINUS_SURVIVAL,
) -> ProportionalityTest:
    """Test whether each ratio stays the same over time, exactly as if rows were split at events.

    Raises:
        NotEstimableError: when a coefficient has no finite estimate, or the function of
            time is not defined at an event.
    """
    kept = estimated(fitted)
    if not kept.any():
        raise NotEstimableError("every column was left out, so there is no ratio to test")
    sets = risk_sets(data, fitted.ties, fitted.stratum)
    times, place = np.unique(sets.time, return_inverse=True)
    g = time_function.at(data, times)[place]
    z = _centred(sets, x, kept)
    spread = np.sqrt(sets.mean_at_risk(np.square(z)))
    z /= spread[:, None]
    m = moments(sets, z, sets.ordered(fitted.linear))
    seen = np.array([sets.over_events(column * sets.count) for column in z])
    residual = (seen - means_over_factors(sets, m)).T
    centred = centred_over_events(sets, g)
    squares = tuple(information(sets, z, m, weight) for weight in (None, centred, centred**2))
    return tested_over_time(sets, g, residual, squares, spread, kept)


def centred_over_events(sets: RiskSets, g: FloatArray) -> FloatArray:
    """(K,) g less its mean over the events: leaves the test as it is, and rounding small."""
    return np.asarray(g - np.average(g, weights=sets.events))


def tested_over_time(
    sets: RiskSets,
    g: FloatArray,
    residual: FloatArray,
    squares: Sequence[FloatArray],
    spread: FloatArray,
    kept: BoolArray,
) -> ProportionalityTest:
    """The test from sums over the risk sets of q columns, each divided by its ``spread`` (q,).

    Args:
        g: (K,) the function of time; ``residual``: (K, q) Σ over the events of x − x̄ at each time.
        squares: Σ_j V_j (q, q), with weights 1, g less its mean, and the square of that.
        kept: (p,) which columns these are.
    """
    beta_beta, beta_theta, theta_theta = squares
    contribution = centred_over_events(sets, g) @ residual
    variance = theta_theta - beta_theta.T @ np.linalg.solve(beta_beta, beta_theta)
    floor = np.diag(theta_theta)
    column = [no_test(LEFT_OUT)] * kept.size
    for k, place_of in enumerate(np.flatnonzero(kept)):
        column[place_of] = _quadratic(contribution[[k]], variance[np.ix_([k], [k])], floor[[k]])
    u, v = np.full(kept.size, np.nan), np.full((kept.size, kept.size), np.nan)
    u[kept], v[np.ix_(kept, kept)] = contribution * spread, variance * np.outer(spread, spread)
    together = _quadratic(contribution, variance, floor)
    return ProportionalityTest(
        time=sets.time, g=g, together=together, column=tuple(column), contribution=u, variance=v
    )


def _quadratic(u: FloatArray, v: FloatArray, floor: FloatArray | None = None) -> Test:
    least = np.zeros(u.size) if floor is None else floor
    scale = np.sqrt(np.maximum(np.diag(v), 0.0))
    if (scale**2 <= 1e-12 * least).any() or (scale == 0).any():
        return Test(None, 0, None, "the events come at too few different times to judge")
    inner = v / np.outer(scale, scale)
    if np.linalg.cond(inner) > 1e12:
        return Test(None, 0, None, "the terms cannot be distinguished over time")
    return chi_squared(float(u / scale @ np.linalg.solve(inner, u / scale)), u.size)
