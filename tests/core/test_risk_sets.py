"""Sums over risk sets against the rows at risk at each time, added up one by one."""

import numpy as np
import pytest

from hourglass.core.followup import follow_up
from hourglass.core.regression.risk_sets import risk_sets


@pytest.mark.parametrize("rows", [60, 5000])
@pytest.mark.parametrize("late", [False, True])
@pytest.mark.parametrize("strata", [1, 3])
@pytest.mark.parametrize("times", [10, 4000])
def test_sums_are_those_of_the_rows_at_risk(rows, late, strata, times):
    random = np.random.default_rng(rows + times)
    exit, status = 1.0 + random.integers(0, times, rows), random.random(rows) < 0.6
    entry = np.where(random.random(rows) < 0.4, exit * random.random(rows), 0) if late else None
    stratum = random.integers(0, strata, rows) if strata > 1 else None
    sets = risk_sets(follow_up(exit, status, entry), stratum=stratum)
    values = random.lognormal(size=rows)
    rest, tied = sets.over(sets.ordered(values))
    for j in random.integers(0, sets.time.size, 40):
        there = exit >= sets.time[j]
        if entry is not None:
            there &= entry < sets.time[j]
        if stratum is not None:
            there &= stratum == sets.stratum[j]
        own = there & status & (exit == sets.time[j])
        assert tied[j] == pytest.approx(values[own].sum(), rel=1e-12)
        assert rest[j] == pytest.approx(values[there & ~own].sum(), rel=1e-12)
