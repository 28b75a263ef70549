"""Sums over risk sets against the rows at risk at each time, added up one by one."""

import numpy as np
import pytest

from hourglass.core.followup import follow_up
from hourglass.core.regression.risk_sets import risk_sets


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
@pytest.mark.parametrize("strata", [1, 3])
def test_sums_are_those_of_the_rows_at_risk(rows, late, strata, times):
    drawn = Drawn(rows, late, strata, times)
    values = drawn.random.lognormal(size=rows)
    rest, tied = drawn.sets.over(drawn.sets.ordered(values))
    for j, there, own in drawn.some_times():
        assert tied[j] == pytest.approx(values[own].sum(), rel=1e-12)
        assert rest[j] == pytest.approx(values[there & ~own].sum(), rel=1e-12)


@pytest.mark.parametrize("late", [False, True])
@pytest.mark.parametrize("strata", [1, 3])
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
