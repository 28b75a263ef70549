"""Adjusted curves and optimism: the mean over everybody, and refits on samples drawn by hand."""

from dataclasses import replace

import mpmath as mp
import numpy as np
import pytest

from core.close import all_near, near
from core.conftest import Sample
from core.literal import curves as literal_curves
from core.literal import data as literal_data
from core.literal import regression as literal
from hourglass.core.errors import NotEstimableError, RefusedRowsError
from hourglass.core.followup import follow_up
from hourglass.core.regression import optimism as optimism_of_fit
from hourglass.core.regression.adjusted import adjusted_curves
from hourglass.core.regression.calibration import calibration, compared
from hourglass.core.regression.concordance import concordance
from hourglass.core.regression.fit import fit
from hourglass.core.regression.optimism import optimism
from hourglass.core.regression.refits import refits
from hourglass.core.regression.terms import cubic_columns, sample_knots


def made(counts):
    sample = Sample(11, n=40, counts=counts)
    x = sample.x[:, :2]
    return sample, x, fit(sample.data, x, sample.x[:, 2] * 1e3, stratum=sample.stratum)


def drawn(sample, seed, section, b):
    """How often each row is in sample b, one copy after the other."""
    copies = [i for i, w in enumerate(sample.w) for _ in range(w)]
    raw = np.random.PCG64(np.random.SeedSequence(seed, spawn_key=(section, b))).random_raw(
        len(copies)
    )
    found = np.zeros(len(sample.w), dtype=int)
    for word in raw.tolist():
        found[copies[int(len(copies) * (((word >> 12) + 0.5) / 2**52))]] += 1
    return found


@pytest.mark.parametrize("counts", [False, True])
def test_adjusted_curves_are_the_mean_over_everybody_put_at_each_level(counts):
    sample, x, fitted = made(counts)
    levels = [np.column_stack([np.full(40, level), x[:, 1]]) for level in (0.0, 1.0)]
    at = np.array([0.5, 2.0, 6.0, 1e9])
    found = adjusted_curves(sample.data, x, fitted, levels, at, seed=3, samples=30)
    assert found.time.tolist() == [0.5, 2.0, 6.0]
    offset, lines = sample.x[:, 2] * 1e3, sample.literal_strata
    beta = literal.newton(lines, x, fitted.beta, offset=offset)
    steps = {k: literal.baseline(lines, x, beta, k, offset=offset) for k in (0, 1)}

    def at_time(k, t):
        return max((s[1] for s in steps[k] if s[0] <= t), default=mp.mpf(0))

    for g, columns in enumerate(levels):
        for j, t in enumerate(found.time):
            total = sum(
                r.w * mp.exp(-at_time(r.stratum, t)
                             * mp.exp(literal.digits(columns[i]) @ beta + mp.mpf(float(offset[i]))))
                for i, r in enumerate(lines)
            )  # fmt: skip
            near(found.survival[g, j], total / sum(r.w for r in lines), rel=1e-9)
    # One sample's curve by hand: refitted with each row as often as it was drawn.
    curves = []
    for b in range(30):
        times = drawn(sample, 3, 4, b)
        rows = np.flatnonzero(times)
        again = fit(follow_up(sample.t[rows], sample.s[rows], count=times[rows]), x[rows], offset[rows],
                    stratum=sample.stratum[rows])  # fmt: skip
        part = literal_data.rows(sample.t, sample.s, w=times, stratum=sample.stratum)
        near_steps = {k: literal.baseline(part, x, literal.digits(again.beta), k, offset=offset)
                      for k in (0, 1)} if b < 3 else None  # fmt: skip
        if near_steps is None:
            continue
        value = sum(
            times[i] * mp.exp(-max((s[1] for s in near_steps[r.stratum] if s[0] <= 2.0), default=0)
                              * mp.exp(literal.digits(levels[1][i]) @ literal.digits(again.beta)
                                       + mp.mpf(float(offset[i]))))
            for i, r in enumerate(part)
        ) / int(times.sum())  # fmt: skip
        curves.append(float(value))
    three = adjusted_curves(sample.data, x, fitted, levels, at, seed=3, samples=3, confidence=0.5)
    limits = [literal_data.sample_quantile(curves, p) for p in (0.25, 0.75)]
    assert (three.lower[1, 1], three.upper[1, 1]) == pytest.approx(
        [float(v) for v in limits], rel=1e-9
    )
    assert (found.lower <= found.survival + 0.05).all()
    assert found.left_out == 0


def test_a_stratum_without_events_keeps_its_subjects_free_and_limits_the_times():
    data = follow_up([1, 2, 3, 4, 5, 6], [1, 1, 1, 1, 0, 0])
    x, stratum = np.array([[0.0], [1], [1], [0], [1], [0]]), np.array([0, 0, 0, 0, 1, 1])
    fitted = fit(data, x, stratum=stratum)
    levels, at = [np.zeros((6, 1)), np.ones((6, 1))], np.array([3.0, 4.0, 5.0, 6.0])
    found = adjusted_curves(data, x, fitted, levels, at, seed=1, samples=40)
    assert found.time.tolist() == [3.0, 4.0]
    lines = literal_data.rows(data.exit, data.status, stratum=stratum)
    steps = literal.baseline(lines, x, literal.digits(fitted.beta), 0)
    for g, ratio in enumerate((mp.mpf(1), mp.exp(literal.digits(fitted.beta)[0]))):
        for j, t in enumerate(found.time):
            level = max(s[1] for s in steps if s[0] <= t)
            near(found.survival[g, j], (4 * mp.exp(-level * ratio) + 2) / 6, rel=1e-9)
    # With the strata's ends the other way round: the one without events is followed to 2 only.
    early = follow_up([3, 4, 5, 6, 1, 2], [1, 1, 1, 1, 0, 0])
    again = fit(early, x, stratum=stratum)
    with pytest.raises(NotEstimableError, match="past the end of follow-up of a stratum"):
        calibration(early, x, again, 2.5)
    assert adjusted_curves(early, x, again, levels, at, seed=1, samples=2).time.size == 0


def test_another_covariate_that_changes_within_a_subject_is_refused():
    data = follow_up([1, 2, 3, 4], [0, 1, 1, 1], [0, 1, 0, 0], subject=[0, 0, 1, 2])
    x = np.array([[0.0, 1], [0, 2], [1, 3], [0, 1]])
    fitted = fit(data, x[:, :1])
    with pytest.raises(RefusedRowsError, match="another covariate") as refused:
        adjusted_curves(data, x[:, :1], fitted, [x[:, 1:]], np.array([1.0]), seed=1)
    assert refused.value.refusals[0].rows.tolist() == [1]


def test_limits_are_blank_where_over_a_tenth_of_the_refits_fail():
    t, s = np.arange(1.0, 13), np.array([1] * 6 + [0] * 6)
    x = np.zeros((12, 1))
    x[[2, 8], 0] = 1  # often not in a sample, or only without the event
    data = follow_up(t, s)
    found = adjusted_curves(
        data, x, fit(data, x), [x * 0, x * 0 + 1], np.array([3.0]), seed=1, samples=60
    )
    assert found.left_out > 6
    assert np.isnan(found.lower).all()
    assert np.isfinite(found.survival).all()


@pytest.mark.parametrize("counts", [False, True])
def test_optimism_is_the_mean_fall_from_the_sample_to_the_rows(counts, monkeypatch):
    sample, x, fitted = made(counts)
    found = optimism(sample.data, x, fitted, seed=5, samples=12)
    offset, falls = sample.x[:, 2] * 1e3, []
    for b in range(12):
        times = drawn(sample, 5, 9, b)
        rows = np.repeat(np.arange(40), times)
        part = follow_up(sample.t[rows], sample.s[rows])
        again = fit(part, x[rows], offset[rows], stratum=sample.stratum[rows])
        inside = concordance(part, again.linear, sample.stratum[rows]).value
        outside = concordance(sample.data, x @ again.beta + offset, sample.stratum).value
        falls.append(inside - outside)
    assert found.optimism == pytest.approx(np.mean(falls), rel=1e-9)
    assert found.error == pytest.approx(np.std(falls, ddof=1) / np.sqrt(12), rel=1e-9)
    assert found.corrected == pytest.approx(found.apparent - np.mean(falls), rel=1e-9)
    nothing = follow_up([1, 1], [1, 1])
    real = list(refits(sample.data, x, fitted, 5, 9, 10))
    for lost, blank in ((1, None), (2, "over a tenth of the samples have no finite fit")):
        some = [None] * lost + real[lost:]
        monkeypatch.setattr(optimism_of_fit, "refits", lambda *_, some=some: iter(some))
        assert optimism(sample.data, x, fitted, seed=5, samples=10).blank == blank
    monkeypatch.undo()
    assert optimism(
        nothing, np.array([[0.0], [1]]), fit(nothing, np.array([[0.0], [1]])), seed=1
    ).blank


@pytest.mark.parametrize("counts", [False, True])
def test_calibration_sets_each_tenth_beside_its_curve_and_smooths(counts):
    sample, x, fitted = made(counts)
    found = calibration(sample.data, x, fitted, 3.0, 0.9)
    offset, lines = sample.x[:, 2] * 1e3, sample.literal_strata
    beta = literal.newton(lines, x, fitted.beta, offset=offset)
    steps = {k: literal.baseline(lines, x, beta, k, offset=offset) for k in (0, 1)}
    predicted = [
        mp.exp(-max(s[1] for s in steps[r.stratum] if s[0] <= 3.0)
               * mp.exp(literal.digits(x[i]) @ beta + mp.mpf(float(offset[i]))))
        for i, r in enumerate(lines)
    ]  # fmt: skip
    all_near(found.predicted, predicted, rel=1e-9)
    everyone = [p for p, r in zip(found.predicted.tolist(), lines) for _ in range(r.w)]
    edges = [literal_data.sample_quantile(everyone, mp.mpf(k) / 10) for k in range(1, 10)]
    parts = {}
    for i, p in enumerate(found.predicted):
        parts.setdefault(sum(p > q for q in edges), []).append(i)
    assert [t.subjects for t in found.tenths] == [
        sum(lines[i].w for i in parts[k]) for k in sorted(parts)
    ]
    for tenth, k in zip(found.tenths, sorted(parts)):
        own = [lines[i] for i in parts[k]]
        near(tenth.predicted, sum(r.w * predicted[i] for i, r in zip(parts[k], own))
             / sum(r.w for r in own), rel=1e-9)  # fmt: skip
        last = max(r.t for r in own)
        s, v = literal_curves.at(literal_curves.curve(own), min(3.0, last))
        if last < 3.0 and s > 0:
            assert tenth.seen is None
            continue
        near(tenth.seen.survival, s)
        if 0 < s < 1:
            limits = literal_curves.limits(s, literal_data.z_of(0.9) * mp.sqrt(v), "log-log")
            all_near((tenth.seen.lower, tenth.seen.upper), limits)
    v = np.log(-np.log(found.predicted))
    knots = sample_knots(v, sample.w, 3)
    columns = cubic_columns(v, knots)
    again = fit(sample.data, columns)
    curved = literal.newton(lines_without_strata(lines), columns, again.beta)
    level = max(s[1] for s in literal.baseline(lines_without_strata(lines), columns, curved, 0)
                if s[0] <= 3.0)  # fmt: skip
    seen = [mp.exp(-level * mp.exp(literal.digits(row) @ curved)) for row in columns]
    all_near(found.smoothed.seen, seen, rel=1e-7)
    apart = [abs(float(s) - p) for s, p in zip(seen, found.predicted)]
    copies = [a for a, r in zip(apart, lines) for _ in range(r.w)]
    assert found.smoothed.mean == pytest.approx(np.mean(copies), rel=1e-6)
    for value, p in ((found.smoothed.median, 0.5), (found.smoothed.ninth_tenth, 0.9)):
        assert value == pytest.approx(float(literal_data.sample_quantile(copies, p)), rel=1e-6)


def test_a_tenth_in_which_all_had_the_event_stays_at_no_survival():
    t = np.arange(1.0, 21)
    data = follow_up(t, np.repeat([1, 0], 10))
    tenths = compared(data, 0.2 + 0.5 * (t > 10), 15.0).tenths
    assert [(one.subjects, one.seen.survival, one.seen.lower) for one in tenths] == [
        (10, 0.0, None),
        (10, 1.0, 1.0),
    ]


def lines_without_strata(lines):
    return [replace(r, stratum=0) for r in lines]


def test_calibration_is_refused_or_blank_where_it_is_not_known():
    data = follow_up([1, 2, 3, 4], [0, 1, 1, 1], [0, 1, 0, 0], subject=[0, 0, 1, 2])
    x = np.array([[0.0], [0.5], [1], [0]])
    with pytest.raises(RefusedRowsError, match="within a subject"):
        calibration(data, x, fit(data, x), 2.0)
    sample, x, fitted = made(False)
    with pytest.raises(NotEstimableError, match="past the end"):
        calibration(sample.data, x, fitted, 1e6)
    before = calibration(sample.data, x, fitted, 0.01)
    assert before.smoothed is None
    assert before.blank
    assert before.predicted.tolist() == [1.0] * 40
