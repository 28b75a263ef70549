"""Residuals, robust errors, baselines and predictions, against their definitions in 50 digits."""

import mpmath as mp
import numpy as np
import pytest

from core.close import all_near, near
from core.literal import curves as literal_curves
from core.literal import regression as literal
from core.literal.data import rows, z_of
from hourglass.core.errors import NotEstimableError, RefusedRowsError
from hourglass.core.followup import follow_up
from hourglass.core.regression.added import beside_the_model
from hourglass.core.regression.fit import fit
from hourglass.core.regression.prediction import baselines
from hourglass.core.regression.proportionality import event_residuals, proportionality_test
from hourglass.core.regression.residuals import (
    at_estimate,
    by_subject,
    changes_without,
    expected_events,
    score_residuals,
)
from hourglass.core.regression.robust import robust_covariance
from hourglass.core.regression.ties import TIE_METHODS
from hourglass.core.variants import variant

FIT = 1e-9
TINY = mp.mpf("1e-13")


def fitted_on(sample, ties="Efron"):
    """A fit of two columns with an offset and strata, the transcription's rows and its β̂."""
    x, offset = sample.x[:, :2] + [0, 1e4], sample.x[:, 2] * 1e3
    found = fit(sample.data, x, offset, ties=variant(TIE_METHODS, ties), stratum=sample.stratum)
    lines = sample.literal_strata
    # The transcription takes the column as it is: at 50 digits its shift costs nothing.
    return x, offset, found, lines, literal.newton(lines, x, found.beta, ties, offset)


@pytest.mark.parametrize("ties", ["Efron", "Breslow"])
def test_residuals_of_rows_equal_the_definition(sample, ties):
    x, offset, found, lines, beta = fitted_on(sample, ties)
    at = at_estimate(sample.data, x, found)
    wanted = [literal.hazard_of(lines, x, beta, i, ties, offset) for i in range(len(lines))]
    all_near(expected_events(at), [w[0] for w in wanted], rel=FIT)
    score = score_residuals(sample.data, at)
    size = np.abs(score).max(axis=0)
    for k in range(2):
        small = mp.mpf(float(size[k])) * mp.mpf("1e-9")
        all_near(score[:, k], [w[1][k] for w in wanted], rel=FIT, small=small)
    summed = by_subject(sample.data, at)
    assert (summed.copies @ summed.martingale) == pytest.approx(0, abs=1e-9)
    assert np.abs(summed.copies @ score / size).max() < 1e-9
    for m, d, (one, _), row in zip(summed.martingale, summed.deviance, wanted, lines):
        event = int(row.s == 1)
        near(m, event - one, rel=FIT, small=TINY)
        square = -2 * (event - one + (mp.log(one) if event else 0))
        near(d, mp.sign(event - one) * mp.sqrt(max(square, 0)), rel=1e-7, small=mp.mpf("1e-6"))


def test_robust_errors_sum_over_clusters_and_each_copy_alone_is_one(sample):
    x, offset, found, lines, beta = fitted_on(sample)
    changes = np.array(literal.dfbetas(lines, x, beta, offset=offset), dtype=object)
    own = sum(r.w * np.outer(d, d) for r, d in zip(lines, changes))
    for k, wanted in enumerate(own):
        all_near(robust_covariance(sample.data, x, found)[k], list(wanted), rel=1e-8)
    cluster = np.arange(len(lines)) // 3
    cluster[-1] = 999  # one row by itself
    total = 0
    for code in set(cluster.tolist()):
        inside = [i for i in range(len(lines)) if cluster[i] == code]
        if len(inside) == 1:
            total = total + lines[inside[0]].w * np.outer(changes[inside[0]], changes[inside[0]])
        else:
            summed = sum(lines[i].w * changes[i] for i in inside)
            total = total + np.outer(summed, summed)
    for k, wanted in enumerate(total):
        all_near(robust_covariance(sample.data, x, found, cluster)[k], list(wanted), rel=1e-8)


def split(data_rows):
    """Every row parted at half its time, both parts one subject's."""
    t, s, e, w = data_rows
    start = np.where(np.isfinite(e), e, 0.0)
    middle = (start + t) / 2
    n = len(t)
    return (
        np.concatenate([middle, t]), np.concatenate([np.zeros(n, int), s]),
        np.concatenate([e, middle]), np.concatenate([w, w]), np.tile(np.arange(n), 2),
    )  # fmt: skip


def test_splitting_rows_in_time_changes_no_residual_of_a_subject_nor_a_robust_error(sample):
    t, s, e, w, subject = split((sample.t, sample.s, sample.e, sample.w))
    x, both = sample.x[:, :2], np.tile(sample.x[:, :2], (2, 1))
    one, two = sample.data, follow_up(t, s, e, w, subject)
    fits = fit(one, x), fit(two, both)
    assert fits[1].beta == pytest.approx(fits[0].beta, rel=FIT)
    ats = at_estimate(one, x, fits[0]), at_estimate(two, both, fits[1])
    residuals = by_subject(one, ats[0]), by_subject(two, ats[1])
    assert residuals[1].deviance == pytest.approx(residuals[0].deviance, rel=1e-7, abs=1e-7)
    errors = robust_covariance(one, x, fits[0]), robust_covariance(two, both, fits[1])
    assert errors[1] == pytest.approx(errors[0], rel=1e-8)
    with pytest.raises(RefusedRowsError, match="within a subject"):
        robust_covariance(two, both, fits[1], np.arange(t.size))


@pytest.mark.parametrize("ties", ["Efron", "Breslow"])
def test_baseline_and_prediction_equal_the_definition(sample, ties):
    x, offset, found, lines, beta = fitted_on(sample, ties)
    made = baselines(sample.data, found, at_estimate(sample.data, x, found))
    v = literal.inverse(literal.partial_likelihood(lines, x, beta, ties, offset)[2])
    profile = x[3] + [0.2, 5.0]
    for code, baseline in made.items():
        steps = literal.baseline(lines, x, beta, code, ties, offset)
        assert baseline.time.tolist() == [s[0] for s in steps]
        # At covariates 0, ten thousand away from the data, rounding of β is multiplied.
        all_near(baseline.cumulative(), [s[1] for s in steps], rel=1e-6)
        wanted = literal.predicted(steps, v, beta, profile, z_of(0.9))
        curve = baseline.survival(profile, 0.9)
        all_near(curve.cumulative, [p[1] for p in wanted], rel=FIT)
        all_near(curve.variance, [p[2] for p in wanted], rel=1e-8)
        all_near(curve.survival, [p[3] for p in wanted], rel=FIT)
        all_near(curve.lower, [p[4] for p in wanted], rel=1e-8)
        all_near(curve.upper, [p[5] for p in wanted], rel=1e-8)
        steps_of = [(p[0], 0, 0, p[3], None, None) for p in wanted]
        for q in (0.25, 0.5):
            time = literal_curves.quantile_of(steps_of, q)
            near(curve.quantile(q).time, time)
        limit = 0.8 * curve.last
        near(curve.restricted_mean(limit), literal_curves.area(steps_of, 0, limit), rel=FIT)
        with pytest.raises(NotEstimableError, match="past the end"):
            curve.restricted_mean(curve.last * 1.01)


def test_what_has_no_baseline_has_no_residuals():
    data, x = follow_up([1, 1, 2, 3], [1, 1, 1, 0]), np.array([[0.0], [1], [1], [0]])
    exact = fit(data, x, ties=variant(TIE_METHODS, "exact"))
    with pytest.raises(NotEstimableError, match="exact ties"):
        at_estimate(data, x, exact)
    away = fit(follow_up([1, 2, 3, 4], [1, 1, 0, 0]), np.array([[1.0], [1], [0], [0]]))
    with pytest.raises(NotEstimableError, match="no finite estimate"):
        at_estimate(data, x, away)


def test_a_row_s_change_is_what_leaving_it_out_would_nearly_do():
    rng = np.random.default_rng(1)
    n = 400
    x = rng.normal(size=(n, 2))
    t, s = rng.exponential(np.exp(-x[:, 0])), rng.random(n) < 0.7
    data = follow_up(t, s)
    found = fit(data, x)
    change = changes_without(data, at_estimate(data, x, found))
    for i in np.abs(change).max(axis=1).argsort()[-3:]:
        left = np.arange(n) != i
        without = fit(follow_up(t[left], s[left]), x[left])
        assert found.beta - without.beta == pytest.approx(change[i], abs=4e-3)


def test_events_of_one_subject_in_several_rows_are_summed():
    data = follow_up([1, 2, 3, 2], [1, 1, 0, 0], [0, 1, 2, 0], subject=[0, 0, 0, 1])
    x = np.array([[0.0], [0], [0], [1]])
    lines = rows([1, 2, 3, 2], [1, 1, 0, 0], [0, 1, 2, 0])
    with_column = fit(data, x, offset=np.array([0, 0, 0, 0.3]))
    assert with_column.status == ("to -infinity",)
    nothing = fit(data, np.zeros((4, 0)))
    summed = by_subject(data, at_estimate(data, np.zeros((4, 0)), nothing))
    wanted = [literal.hazard_of(lines, np.zeros((4, 0)), [], i)[0] for i in range(4)]
    all_near(summed.expected, [sum(wanted[:3]), wanted[3]])
    assert summed.events.tolist() == [2, 0]


def test_a_column_left_out_leaves_residuals_and_predictions_as_they_are_without_it(sample):
    x = sample.x[:, :2]
    wide = np.column_stack([x[:, 0], x[:, 0] * 2 + 1, x[:, 1]])
    fits = fit(sample.data, x), fit(sample.data, wide)
    assert fits[1].status == ("finite", "aliased", "finite")
    ats = [at_estimate(sample.data, columns, f) for columns, f in zip((x, wide), fits)]
    assert expected_events(ats[1]) == pytest.approx(expected_events(ats[0]), rel=1e-9)
    errors = [robust_covariance(sample.data, c, f) for c, f in zip((x, wide), fits)]
    assert errors[1][np.ix_([0, 2], [0, 2])] == pytest.approx(errors[0], rel=1e-8)
    assert np.isnan(errors[1][1]).all()
    checks = [proportionality_test(sample.data, c, f) for c, f in zip((x, wide), fits)]
    assert checks[1].together.statistic == pytest.approx(checks[0].together.statistic, rel=1e-9)
    assert checks[1].column[1].blank == checks[1].of(np.array([1])).blank
    assert checks[1].of(np.array([0, 1])).p == pytest.approx(checks[0].column[0].p, rel=1e-9)
    of_events = [event_residuals(sample.data, c, f) for c, f in zip((x, wide), fits)]
    assert of_events[1].scaled[:, [0, 2]] == pytest.approx(of_events[0].scaled, rel=1e-8)
    assert np.isnan(of_events[1].residual[:, 1]).all()
    curves = [baselines(sample.data, f, at)[0] for f, at in zip(fits, ats)]
    one, two = curves[0].survival(x[0]), curves[1].survival(wide[0])
    assert two.survival == pytest.approx(one.survival, rel=1e-9)
    assert two.variance == pytest.approx(one.variance, rel=1e-8)


def test_a_far_value_that_is_never_at_risk_takes_no_digits_from_the_others():
    rng = np.random.default_rng(4)
    t, s = rng.integers(1, 9, 40), rng.integers(0, 2, 40)
    x = np.column_stack([rng.normal(0, 1, 40), rng.integers(0, 3, 40)])
    far = np.vstack([x, [[1e9, -1e12]] * 3])
    few, more = follow_up(t, s), follow_up(np.append(t, [0, 0, 0]), np.append(s, [0, 0, 0]))
    here, there = fit(few, x), fit(more, far)
    assert there.beta == pytest.approx(here.beta, rel=1e-9)
    found = [event_residuals(few, x, here), event_residuals(more, far, there)]
    assert found[1].residual == pytest.approx(found[0].residual, rel=1e-9, abs=1e-12)
    tests = [proportionality_test(few, x, here), proportionality_test(more, far, there)]
    assert tests[1].together.statistic == pytest.approx(tests[0].together.statistic, rel=1e-9)
    squares = [beside_the_model(d, c, f, c**2) for d, c, f in ((few, x, here), (more, far, there))]
    for a, b in zip(*squares, strict=True):
        assert b.statistic == pytest.approx(a.statistic, rel=1e-9)
