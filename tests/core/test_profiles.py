"""Profile intervals and Firth's penalty, against their definitions in 50 digits."""

import mpmath as mp
import numpy as np
import pytest

from core.close import near
from core.conftest import Sample
from core.literal import regression as literal
from core.literal.data import rows, z_of
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import follow_up
from hourglass.core.regression.firth import fit_penalised
from hourglass.core.regression.fit import fit
from hourglass.core.regression.profile import profile_ends, profile_interval
from hourglass.core.regression.ties import TIE_METHODS
from hourglass.core.variants import variant

FIT = 1e-9


@pytest.mark.parametrize("column", [0, 1])
def test_a_profile_interval_ends_where_twice_the_fall_is_z_squared(column):
    sample = Sample(4, n=30, late=True, counts=True)
    x, other = sample.x[:, :2], 1 - column
    offset = sample.x[:, 2] * 1e3
    found = fit(sample.data, x, offset, stratum=sample.stratum)
    ends = profile_interval(sample.data, x, found, column, 0.9)
    assert ends[0] < found.beta[column] < ends[1]
    for end in ends:
        held = literal.digits(offset) + mp.mpf(end) * literal.digits(x[:, column])
        lines = sample.literal_strata
        rest = x[:, [other]]
        eta = literal.digits(np.zeros(len(lines)))
        assert len(eta) == len(held)
        beta = newton_beside(lines, rest, found.beta[[other]], held)
        below = literal_value(lines, rest, beta, held)
        near(mp.mpf(found.value) - below, z_of(0.9) ** 2 / 2, rel=FIT)


def literal_value(lines, x, beta, held):
    wide = np.hstack([literal.digits(x), held[:, None]])
    return literal.partial_likelihood(lines, wide, np.append(beta, mp.mpf(1)))[0]


def newton_beside(lines, x, start, held):
    """The maximum over β beside a column held at coefficient 1."""
    wide, beta = np.hstack([literal.digits(x), held[:, None]]), literal.digits(start)
    for _ in range(6):
        _, score, info, _ = literal.partial_likelihood(lines, wide, np.append(beta, mp.mpf(1)))
        beta = beta + literal.solve(info[:-1, :-1], score[:-1])
    return beta


def test_an_interval_that_never_ends_is_infinite():
    # Far down, the profile levels off before it has fallen enough: one of the later rows has the column.
    data = follow_up([1, 2, 3], [1, 1, 0])
    x = np.array([[0.0], [1], [0]])
    found = fit(data, x)
    low, high = profile_interval(data, x, found, 0)
    assert low < found.beta[0] < high < np.inf
    flat = follow_up([1, 2], [1, 1]), np.array([[1.0], [0.0]])
    away = fit(*flat)
    assert away.status == ("to +infinity",)
    with pytest.raises(NotEstimableError, match="no finite"):
        profile_interval(*flat, away, 0)
    assert profile_ends(lambda b: -abs(b) / 1e3, 0.0, 1.0, 0.0, 0.95) == (-np.inf, np.inf)


@pytest.mark.parametrize("ties", ["Efron", "Breslow"])
@pytest.mark.parametrize("late", [False, True])
def test_the_penalised_maximum_has_no_slope_left(ties, late):
    sample = Sample(3, n=14, late=late, counts=True)
    x = sample.x[:, :2]
    found = fit_penalised(sample.data, x, ties=variant(TIE_METHODS, ties))
    lines, beta = sample.literal, literal.digits(found.beta)

    def height(b):
        return literal.penalised(lines, x, b, ties)

    near(found.value, height(beta), rel=1e-12)
    near(found.value_at_zero, height(literal.digits([0, 0])), rel=1e-12)
    near(
        found.likelihood_ratio.statistic,
        2 * (height(beta) - height(literal.digits([0, 0]))),
        rel=FIT,
    )
    info = literal.partial_likelihood(lines, x, beta, ties)[2]
    inverse = literal.inverse(info)
    step = inverse @ np.array([literal.slope(height, beta, k) for k in range(2)])
    for k in range(2):
        assert abs(step[k]) < 1e-9 * abs(beta[k])
        near(found.standard_error[k], mp.sqrt(inverse[k, k]), rel=1e-8)
    # The other coefficient's best, with the penalty of both, while the first is held.
    tested, low = found.test_of(np.array([0])), found.interval(0, 0.9)[0]
    for held, fall in ((0.0, mp.mpf(tested.statistic) / 2), (low, z_of(0.9) ** 2 / 2)):
        best = mp.findroot(
            lambda b, held=held: literal.slope(height, np.array([mp.mpf(held), b]), 1),
            (mp.mpf(found.beta[1]), mp.mpf(found.beta[1]) + mp.mpf("0.001")), tol=1e-20,
        )  # fmt: skip
        near(height(beta) - height(np.array([mp.mpf(held), best])), fall, rel=1e-7)


def test_the_penalty_keeps_a_runaway_coefficient_finite():
    t, s = np.arange(1, 13), np.array([1, 0, 1, 1, 0, 0, 1, 0, 1, 0, 1, 1])
    x = np.column_stack([s * 0.0, np.arange(12) % 3]).astype(float)
    x[[1, 4, 5, 7], 0] = 1
    data = follow_up(t, s)
    assert fit(data, x).status[0] == "to -infinity"
    found = fit_penalised(data, x)
    assert np.isfinite(found.beta).all()
    low, high = found.interval(0)
    assert low < found.beta[0] < high < 3
    lines = rows(t, s)
    near(found.value, literal.penalised(lines, x, literal.digits(found.beta)), rel=1e-12)


@pytest.mark.parametrize("apart", [1.0, 1e-3, 3e-5])
def test_columns_that_all_but_follow_from_one_another_are_penalised_as_well(apart):
    """The penalised maximum of columns x A has coefficients A⁻¹ β: as far as A can be undone."""
    sample = Sample(5, n=40)
    x = sample.x[:, :2] / sample.x[:, :2].std(axis=0)
    mixed = np.column_stack([x[:, 0], x[:, 0] + apart * x[:, 1]])
    plain, found = fit_penalised(sample.data, x), fit_penalised(sample.data, mixed)
    moved = np.array([plain.beta[0] - plain.beta[1] / apart, plain.beta[1] / apart])
    assert found.beta == pytest.approx(moved, rel=1e-9 + 1e-15 / apart)
    near(found.value, plain.value + np.log(apart), rel=1e-7)
    # The second column alone can be held: that is the second column of x held.
    held = [one.test_of(np.array([1])).statistic for one in (plain, found)]
    assert held[1] == pytest.approx(held[0], rel=1e-6)
    ends = np.array(found.interval(1)) * apart
    assert ends == pytest.approx(plain.interval(1), rel=1e-6)


def test_what_the_penalty_is_not_known_for_is_refused():
    data, x = follow_up([1, 1, 2], [1, 1, 0]), np.array([[0.0], [1], [1]])
    with pytest.raises(NotEstimableError, match="exact ties"):
        fit_penalised(data, x, ties=variant(TIE_METHODS, "exact"))
    with pytest.raises(NotEstimableError, match="no event"):
        fit_penalised(follow_up([1, 2], [0, 0]), np.array([[0.0], [1]]))
    with pytest.raises(NotEstimableError, match="left out"):
        fit_penalised(data, np.ones((3, 1)))
