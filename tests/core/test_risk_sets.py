"""Sums over risk sets against the rows at risk at each time, added up one by one."""

import numpy as np
import pytest

from hourglass.core.followup import follow_up
from hourglass.core.regression import one_by_one
from hourglass.core.regression.likelihood import likelihood, seen_at_events
from hourglass.core.regression.one_by_one import one_by_one_likelihood
from hourglass.core.regression.risk_sets import risk_sets
from hourglass.core.regression.ties import BRESLOW


class Drawn:
    """Rows with ties, strata and late entries, and who is at risk at an event time."""

    def __init__(self, rows, late, strata, times):
        random = np.random.default_rng(rows + times)
        self.random = random
        self.exit = 1.0 + random.integers(0, times, rows)
        self.status = random.random(rows) < 0.6
        some = np.where(random.random(rows) < 0.4, self.exit * random.random(rows), 0)
        self.entry = some if late else None
        self.stratum = random.integers(0, strata, rows) if strata > 1 else None
        self.sets = risk_sets(follow_up(self.exit, self.status, self.entry), stratum=self.stratum)

    def some_times(self):
        """Some event times, with the rows at risk then and those with the event."""
        for j in self.random.integers(0, self.sets.time.size, 40):
            there = self.exit >= self.sets.time[j]
            if self.entry is not None:
                there &= self.entry < self.sets.time[j]
            if self.stratum is not None:
                there &= self.stratum == self.sets.stratum[j]
            yield j, there, there & self.status & (self.exit == self.sets.time[j])


@pytest.fixture(params=[60, 5000])
def rows(request):
    return request.param


@pytest.fixture(params=[10, 4000])
def times(request):
    return request.param


@pytest.mark.parametrize("late", [False, True])
@pytest.mark.parametrize("strata", [1, 3, 1500])
def test_sums_are_those_of_the_rows_at_risk(rows, late, strata, times):
    drawn = Drawn(rows, late, strata, times)
    values = drawn.random.lognormal(size=rows)
    rest, tied = drawn.sets.over(drawn.sets.ordered(values))
    for j, there, own in drawn.some_times():
        assert tied[j] == pytest.approx(values[own].sum(), rel=1e-12)
        assert rest[j] == pytest.approx(values[there & ~own].sum(), rel=1e-12)


@pytest.mark.parametrize("late", [False, True])
@pytest.mark.parametrize("strata", [1, 3, 20])
def test_the_highest_is_found_among_those_at_risk_and_among_those_without_the_event(
    rows, late, strata, times
):
    drawn = Drawn(rows, late, strata, times)
    values = drawn.random.normal(size=rows)
    ordered = drawn.sets.ordered(values)
    highest = drawn.sets.highest_at_risk(ordered)
    beside = drawn.sets.highest_at_risk(ordered, beside_events=True)
    nobody = 0
    for j, there, own in drawn.some_times():
        assert ordered[highest[j]] == values[there].max()
        if (there & ~own).any():
            assert ordered[beside[j]] == values[there & ~own].max()
        else:
            assert beside[j] == -1
            nobody += 1
    assert nobody < 40


@pytest.mark.parametrize("late", [False, True])
@pytest.mark.parametrize("cells", [7, 1 << 15])
def test_events_one_by_one_give_the_likelihood_of_all_at_once(late, cells, monkeypatch):
    monkeypatch.setattr(one_by_one, "CELLS", cells)
    random = np.random.default_rng(3)
    exit_time = random.exponential(size=500)
    entry = np.where(random.random(500) < 0.4, exit_time * random.random(500), -np.inf)
    data = follow_up(
        exit_time,
        random.random(500) < 0.6,
        entry if late else None,
        count=random.integers(1, 4, 500),
    )
    sets, x, beta = risk_sets(data, BRESLOW), random.normal(size=(3, 500)), np.array([0.5, -1, 2])
    assert sets.one_by_one
    entered = np.take(x, sets.entering, axis=1) if late else None
    seen = seen_at_events(sets, x)
    found = one_by_one_likelihood(sets, x, seen, beta @ x, entered)
    wanted = likelihood(sets, x, seen, beta, np.zeros(500))
    assert found.value == pytest.approx(wanted.value, rel=1e-12)
    assert found.gradient == pytest.approx(wanted.gradient, rel=1e-9)
    assert found.information == pytest.approx(wanted.information, rel=1e-9)
