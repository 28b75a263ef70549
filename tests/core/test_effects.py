"""Rows parted in time, and effects that change over it."""

import mpmath as mp
import numpy as np
import pytest

from core.close import near
from core.conftest import Sample
from core.literal import regression as literal
from core.literal.data import Row
from core.literal.data import event_times as literal_times
from hourglass.core.followup import follow_up
from hourglass.core.regression.adjusted import adjusted_curves
from hourglass.core.regression.effects import STEADY, AlongTime, ByPeriod, over_time, part
from hourglass.core.regression.fit import fit
from hourglass.core.regression.predicted_means import Profile, predicted_means
from hourglass.core.regression.prediction import baselines
from hourglass.core.regression.residuals import at_estimate
from hourglass.core.regression.splitting import split
from hourglass.core.regression.time_functions import TIME_FUNCTIONS, TimeItself
from hourglass.core.variants import variant

FIT = 1e-9


def pieces_by_hand(lines, cuts):
    """(row, piece) of rows parted one by one."""
    out = []
    for i, r in enumerate(lines):
        start = r.e
        inside = [c for c in cuts if r.e < c < r.t and (c >= 0 or r.e > -np.inf)]
        for stop in [*inside, r.t]:
            out.append(
                (i, Row(r.t if stop == r.t else stop, r.s if stop == r.t else 0, start, r.w))
            )
            start = stop
    return out


@pytest.mark.parametrize("late", [False, True])
def test_rows_are_parted_at_every_cut_within_them(late):
    sample = Sample(5, n=25, late=late, counts=True)
    cuts = np.array([-1.0, 0.0, 2.0, 2.5, 9.0, 500.0])
    found = split(sample.data, cuts)
    wanted = pieces_by_hand(sample.literal, cuts.tolist())
    assert found.row.tolist() == [i for i, _ in wanted]
    assert found.data.exit.tolist() == [r.t for _, r in wanted]
    assert found.data.status.tolist() == [r.s for _, r in wanted]
    entry = np.full(found.row.size, -np.inf) if found.data.entry is None else found.data.entry
    assert entry.tolist() == [r.e for _, r in wanted]
    assert split(sample.data, np.empty(0)).row.tolist() == list(range(25))


@pytest.mark.parametrize("late", [False, True])
def test_effects_by_period_are_those_of_parted_rows(late):
    sample = Sample(6, n=30, late=late)
    x = sample.x[:, :1]
    parted = part(sample.data, x, over_time(sample.data, [ByPeriod((6.0,))]))
    found = fit(parted.pieces.data, parted.x)
    lines = pieces_by_hand(sample.literal, [6.0])
    columns = np.array([[x[i, 0] * (r.t <= 6), x[i, 0] * (r.t > 6)] for i, r in lines])
    beta = literal.newton([r for _, r in lines], columns, found.beta)
    for k in range(2):
        near(found.beta[k], beta[k], rel=FIT)
    tested = found.against(fit(sample.data, x))
    assert tested.df == 1
    value = literal.partial_likelihood([r for _, r in lines], columns, beta)[0]
    alone = literal.newton(sample.literal, x, fit(sample.data, x).beta)
    under = literal.partial_likelihood(sample.literal, x, alone)[0]
    near(tested.statistic, 2 * (value - under), rel=1e-8)


@pytest.mark.parametrize("key", ["time", "one minus survival"])
def test_an_effect_along_time_takes_its_value_at_each_event(key):
    sample = Sample(7, n=25, counts=True)
    x = sample.x[:, :1]
    made = over_time(sample.data, [AlongTime(variant(TIME_FUNCTIONS, key))])
    parted = part(sample.data, x, made)
    found, times = fit(parted.pieces.data, parted.x), made.time
    assert times.tolist() == literal_times(sample.literal)
    g = literal.TIME_FUNCTIONS[key](sample.literal)
    events = [r for r in sample.literal if r.s == 1]
    centre = sum(r.w * g(r.t) for r in events) / sum(r.w for r in events)
    lines = pieces_by_hand(sample.literal, times.tolist())
    columns = np.array([[x[i, 0], float(x[i, 0] * (g(r.t) - centre))] for i, r in lines])
    beta = literal.newton([r for _, r in lines], columns, found.beta)
    for k in range(2):
        near(found.beta[k], beta[k], rel=1e-8)


@pytest.mark.parametrize("effect", [AlongTime(TimeItself()), ByPeriod((0.0, 2.0))])
def test_an_event_at_0_takes_its_own_value_whatever_the_clock_starts_at(effect):
    t, s = np.array([0, 0, 1, 2, 2, 3, 4, 5.0]), np.array([1, 0, 1, 1, 0, 1, 1, 0])
    x = np.array([[1.0], [0], [0], [1], [1], [0], [1], [0]])
    later = effect if isinstance(effect, AlongTime) else ByPeriod((7.0, 9.0))
    found = [
        fit(one.pieces.data, one.x)
        for data, own in ((follow_up(t, s), effect), (follow_up(t + 7, s), later))
        for one in (part(data, x, over_time(data, [own])),)
    ]
    assert found[0].status == found[1].status
    assert found[0].beta == pytest.approx(found[1].beta, rel=1e-9, nan_ok=True)
    assert found[0].value == pytest.approx(found[1].value, rel=1e-12)
    lines = pieces_by_hand([Row(float(a), int(b)) for a, b in zip(t, s)], [0.0, 1.0, 2.0, 3.0, 4.0])
    if isinstance(effect, AlongTime):
        columns = np.array([[x[i, 0], x[i, 0] * (r.t - 2.0)] for i, r in lines])
        beta = literal.newton([r for _, r in lines], columns, found[0].beta)
        for k in range(2):
            near(found[0].beta[k], beta[k], rel=FIT)


def changing(data, x):
    """Effects of three values: steady, by period, along time; and the columns as functions of time."""
    made = over_time(data, [STEADY, ByPeriod((3.0, 6.0)), AlongTime(TimeItself())])
    happened = data.event()
    centre = mp.fsum(
        mp.mpf(float(t)) * int(w) for t, w in zip(data.exit[happened], data.count[happened])
    )
    centre /= int(data.count[happened].sum())

    def at(values, t):
        a, b, c = (mp.mpf(float(v)) for v in values)
        periods = [b * (t <= 3), b * (3 < t <= 6), b * (t > 6)]
        return np.array([a, *periods, c, c * (mp.mpf(float(t)) - centre)], dtype=object)

    return part(data, x, made), made, at


@pytest.mark.parametrize("late", [False, True])
def test_a_prediction_follows_its_effects_over_time(late):
    sample = Sample(11, n=60, late=late, counts=True)
    x = sample.x * [1, 0.1, 1e4]
    parted, over, at = changing(sample.data, x)
    fitted = fit(parted.pieces.data, parted.x)
    made = baselines(parted.pieces.data, fitted, at_estimate(parted.pieces.data, parted.x, fitted))
    person = x[4] + [0, 0.5, 0]
    curve = made[0].survival(over.profile(person, made[0].time), 0.9)
    lines, beta = sample.literal, [mp.mpf(float(b)) for b in fitted.beta]
    variance = [[mp.mpf(float(v)) for v in row] for row in fitted.covariance]
    level, squares, h = mp.mpf(0), mp.mpf(0), np.array([mp.mpf(0)] * 6, dtype=object)
    for j, t in enumerate(literal_times(lines)):
        columns = [at(x[i], t) for i in range(60)]
        own = at(person, t)
        score = mp.exp(own @ beta)
        for phi, mean, _, _ in literal.factors(
            lines, np.array(columns), [mp.exp(c @ beta) for c in columns], 0, t, "Efron"
        ):
            level, squares = level + score / phi, squares + score**2 / phi**2
            h = h + score * (own - mean) / phi
        near(curve.cumulative[j], level, rel=FIT)
        near(curve.variance[j], squares + h @ np.array(variance, dtype=object) @ h, rel=1e-7)


def test_adjusted_curves_and_means_follow_effects_over_time():
    sample = Sample(12, n=40, counts=True)
    x = sample.x * [1, 0.1, 1e4]
    parted, over, at = changing(sample.data, x)
    data = parted.pieces.data
    fitted = fit(data, parted.x)
    (baseline,) = baselines(data, fitted, at_estimate(data, parted.x, fitted)).values()
    steps = np.diff(np.concatenate([[0], baseline.cumulative()]))
    beta = fitted.beta

    def hazards(values):
        r = [float(mp.exp(at(values, t) @ [mp.mpf(float(b)) for b in beta])) for t in baseline.time]
        return np.cumsum(r * steps)

    levels = [
        np.column_stack([np.full(data.exit.size, k), x[parted.pieces.row][:, 1:]]) for k in (0, 1)
    ]
    times = np.array([2.0, 5.0])
    found = adjusted_curves(
        data, parted.x, fitted, levels, times, seed=2, samples=4, over_time=over
    )
    place = np.searchsorted(baseline.time, times, side="right") - 1
    for g, level in enumerate((0.0, 1.0)):
        curves = [np.exp(-hazards([level, *x[i, 1:]]))[place] for i in range(40)]
        assert found.survival[g] == pytest.approx(
            np.average(curves, axis=0, weights=sample.w), rel=1e-9
        )
    person = Profile(x[3])
    nobody = predicted_means(data, parted.x, fitted, [], 6.0, seed=2, samples=2)
    assert nobody.lower.size == nobody.upper.size == 0
    means = predicted_means(
        data, parted.x, fitted, [person], 6.0, seed=2, samples=6, over_time=over
    )
    edges = np.concatenate([[0], baseline.time[baseline.time <= 6], [6]])
    survival = np.concatenate([[1], np.exp(-hazards(x[3]))])[: edges.size - 1]
    assert means.mean[0] == pytest.approx(survival @ np.diff(edges), rel=1e-9)
    assert means.lower[0] < means.mean[0] < means.upper[0]
