"""Section 2: rates, and the ratio of two medians."""

import math

import mpmath as mp
import numpy as np
import pytest

from core.cases import both
from core.close import near
from core.literal import curves as literal
from core.literal import data as literal_data
from hourglass.core.curves.median_ratio import Arm, bootstrap_medians, median_ratio
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import follow_up
from hourglass.core.progress import no_progress
from hourglass.core.rates import rate, rate_ratio


def poisson_at_most(k, mean):
    return sum(mp.exp(-mean) * mean**j / mp.factorial(j) for j in range(k + 1))


def binomial_at_most(k, n, p):
    return sum(mp.binomial(n, j) * p**j * (1 - p) ** (n - j) for j in range(k + 1))


@pytest.mark.parametrize("events", [0, 1, 7, 60])
def test_rate_limits_leave_half_of_alpha_outside(events):
    found = rate(events, 12.5, 0.9)
    near(found.value, mp.mpf(events) / 12.5)
    near(1 - poisson_at_most(events, mp.mpf(found.upper * 12.5)), mp.mpf("0.95"), rel=1e-12)
    if events:
        near(1 - poisson_at_most(events - 1, mp.mpf(found.lower * 12.5)), mp.mpf("0.05"), rel=1e-11)
    else:
        assert found.lower == 0


@pytest.mark.parametrize(("a", "b"), [(5, 9), (0, 4), (3, 0), (40, 12), (1, 1)])
def test_rate_ratio_is_exact_given_the_events_of_both(a, b):
    times = 20.0, 33.5
    found = rate_ratio(rate(a, times[0]), rate(b, times[1]), 0.95)

    def share(ratio):
        return mp.mpf(ratio) * times[1] / (times[0] + mp.mpf(ratio) * times[1])

    if a == 0:
        assert (found.estimate, found.upper) == (math.inf, math.inf)
    else:
        near(found.estimate, mp.mpf(b) * times[0] / (a * mp.mpf(times[1])))
        near(binomial_at_most(b, a + b, share(found.upper)), mp.mpf("0.025"), rel=1e-11)
    if b == 0:
        assert found.lower == 0
    else:
        near(1 - binomial_at_most(b - 1, a + b, share(found.lower)), mp.mpf("0.025"), rel=1e-11)
    one = share(1)
    tails = binomial_at_most(b, a + b, one), 1 - (binomial_at_most(b - 1, a + b, one) if b else 0)
    near(found.p, min(2 * min(tails), 1), rel=1e-12)


def test_a_rate_that_is_not_known_gives_the_reason():
    assert rate(0, 0.0).blank
    assert rate(3, math.inf).blank
    assert rate_ratio(rate(1, 3.0), rate(0, 1e-300)).estimate == 0.0
    for events, time in ((1, 1e-308), (10**9, 5e-300)):
        assert "too small" in rate(events, time).blank
        assert "too small" in rate_ratio(rate(1, 3.0), rate(events, time)).blank
    assert rate_ratio(rate(1, 1e-300), rate(2, 1e300)).blank.endswith("too far apart to compare")
    assert rate_ratio(rate(0, 1.0), rate(0, 2.0)).blank == "neither group has an event"
    assert rate_ratio(rate(0, 0.0), rate(1, 2.0)).estimate is None


@pytest.mark.parametrize("name", ["late entry and counts", "ties"])
def test_bootstrap_medians_are_those_of_samples_drawn_by_hand(name):
    data, rows = both(name)
    found = bootstrap_medians(Arm(data, 3), 17, 25, no_progress)
    copies = [r for r in rows for _ in range(r.w)]
    for b, median in enumerate(found):
        raw = np.random.PCG64(np.random.SeedSequence(17, spawn_key=(2, b, 3))).random_raw(
            len(copies)
        )
        drawn = [copies[int(len(copies) * (((w >> 12) + 0.5) / 2**52))] for w in raw.tolist()]
        sample = [literal_data.Row(r.t, r.s, r.e) for r in drawn]
        wanted = literal.quantile(literal.curve(sample), 0.5)[0]
        assert median == (math.inf if wanted is None else pytest.approx(float(wanted), rel=1e-14))


def test_a_sample_of_subjects_takes_all_their_rows():
    split = follow_up([1, 2, 3, 4, 6], [0, 1, 1, 0, 1], [-math.inf, 1, -math.inf, -math.inf, 4],
                      subject=[0, 0, 1, 2, 2])  # fmt: skip
    whole = follow_up([2, 3, 6], [1, 1, 1])
    first, second = (bootstrap_medians(Arm(d, 0), 1, 50, no_progress) for d in (split, whole))
    assert first.tolist() == second.tolist()


def test_median_ratio_has_percentile_limits_and_states_when_it_has_none():
    rng = np.random.default_rng(2)
    a, b = (Arm(follow_up(rng.exponential(m, 60), np.ones(60)), k) for k, m in enumerate((1, 2)))
    found = median_ratio(a, b, 5, 0.9)
    drawn = bootstrap_medians(b, 5, 1000, no_progress) / bootstrap_medians(a, 5, 1000, no_progress)
    for limit, p in ((found.lower, 0.05), (found.upper, 0.95)):
        near(limit, mp.mpf(literal_data.sample_quantile(drawn.tolist(), p)))
    never = Arm(follow_up([1, 2, 3], [1, 0, 0]), 1)
    assert median_ratio(a, never, 5).blank
    at_once = Arm(follow_up([0, 0, 1], [1, 1, 1]), 0)
    assert median_ratio(at_once, a, 5).estimate is None
    rarely = Arm(follow_up(np.arange(1, 12), [1] * 5 + [0] * 5 + [1], count=[1] * 11), 1)
    wide = median_ratio(a, rarely, 5)
    assert wide.blank or wide.upper == math.inf
    with pytest.raises(NotEstimableError, match="drawn one by one"):
        median_ratio(a, Arm(follow_up([1, 2], [1, 1], count=[10**6, 1_100_000]), 1), 5)
