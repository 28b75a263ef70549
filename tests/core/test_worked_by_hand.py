"""Small examples worked on paper, for readers who would rather see numbers than loops."""

from fractions import Fraction
from math import exp, log, sqrt

import numpy as np
import pytest

from hourglass.core.curves.quantiles import quantile
from hourglass.core.curves.survival import survival_curve
from hourglass.core.followup import follow_up
from hourglass.core.regression.concordance import concordance
from hourglass.core.regression.fit import fit
from hourglass.core.regression.proportionality import event_residuals
from hourglass.core.risk_table import risk_table


def test_two_events_tied_with_a_censoring():
    # At 3: four at risk, two events, and one censored at 3 who is still at risk then.
    curve = survival_curve(risk_table(follow_up([3, 3, 3, 8], [1, 1, 0, 1])))
    assert curve.survival.tolist() == [0.5, 0.0]
    assert curve.sigma2[0] == pytest.approx(2 / (4 * 2))
    half = 1.959963984540054 * sqrt(0.25) / log(0.5)
    assert (curve.lower[0], curve.upper[0]) == pytest.approx((0.5 ** exp(-half), 0.5 ** exp(half)))
    found = quantile(curve, 0.5)
    assert (found.time, found.rule) == (5.5, "midpoint"), "S is ½ from 3 until the drop at 8"


def test_a_single_coefficient_with_one_tie():
    # Rows (t, event, x): (1, 1, 1), (1, 1, 0), (2, 1, 1), (3, 0, 0); θ = exp(β).
    # At 1: φ₀ = 2 + 2θ, φ₁ = 2 + 2θ − ½(1 + θ) = 3(1 + θ)/2. At 2: φ = 1 + θ. So
    # ℓ = β + 0 + β − ln(2 + 2θ) − ln(3(1 + θ)/2) − ln(1 + θ) = 2β − 3 ln(1 + θ) − ln 3,
    # which is highest where 2 = 3θ/(1 + θ): θ = 2; the information is 3θ/(1 + θ)² = ⅔.
    data = follow_up([1, 1, 2, 3], [1, 1, 1, 0])
    x = np.array([[1.0], [0], [1], [0]])
    found = fit(data, x)
    assert found.beta[0] == pytest.approx(log(2), rel=1e-12)
    assert found.standard_error[0] == pytest.approx(sqrt(3 / 2), rel=1e-12)
    assert found.value == pytest.approx(2 * log(2) - 3 * log(3) - log(3), rel=1e-12)
    assert found.value_at_zero == pytest.approx(-3 * log(2) - log(3), rel=1e-12)
    # x̄ is θ/(1 + θ) = ⅔ in every factor, so the residuals are ⅓, −⅔ and ⅓.
    residuals = event_residuals(data, x, found)
    assert sorted(residuals.residual[:, 0]) == pytest.approx([-2 / 3, 1 / 3, 1 / 3])
    assert residuals.scaled[0, 0] == pytest.approx(log(2) + 3 * 1.5 * residuals.residual[0, 0])


def test_late_entry_shrinks_the_first_risk_set():
    # The second row is not there yet at 2, and is at 5: n is 2, then 2.
    data = follow_up([2, 9, 5], [1, 0, 1], entry=[-np.inf, 3, -np.inf])
    table = risk_table(data)
    assert table.at_risk.tolist() == [2, 2]
    assert survival_curve(table).survival.tolist() == [0.5, 0.25]


def test_pairs_in_and_out_of_order():
    # (1, event, 3), (2, event, 1), (2, censored, 1), (4, event, 2): of the five pairs that can be
    # put in order, the first row beats three; the second ties with the third and loses to the fourth.
    found = concordance(follow_up([1, 2, 2, 4], [1, 1, 0, 1]), np.array([3.0, 1, 1, 2]))
    assert found.pairs == 5
    assert found.value == pytest.approx(float(Fraction(7, 2) / 5))
