"""A large file is a normal input."""

import numpy as np

from hourglass.cohort.followup import Cohort, form_cohort
from hourglass.cohort.parquet import from_parquet, to_parquet
from hourglass.cohort.reading.read import read
from hourglass.core.curves.quantiles import quantile
from hourglass.core.curves.survival import survival_curve
from hourglass.core.risk_table import risk_table
from making import timed

ROWS = 1_000_000


def test_a_million_rows_are_read_kept_loaded_and_estimated():
    rng = np.random.default_rng(0)
    t, s = np.ceil(rng.exponential(900, ROWS)).astype(int), (rng.random(ROWS) < 0.7).astype(int)
    arm = np.array(["low dose", "high dose"])[rng.integers(0, 2, ROWS)]
    lines = np.char.add(np.char.add(np.char.add(t.astype(str), ","), s.astype(str)), ",")
    text = "t,s,arm\n" + "\n".join(np.char.add(lines, arm)) + "\n"
    table = read(text.encode()).table
    kept = to_parquet(table)
    loaded = from_parquet(kept)
    assert np.array_equal(loaded.column("t").values, t)
    cohort = form_cohort(loaded, timed(unit="days"))
    assert isinstance(cohort, Cohort)
    assert cohort.follow_up.size == ROWS
    median = quantile(survival_curve(risk_table(cohort.follow_up)), 0.5)
    # Censoring is blind to the rate here, so events come at 0.7 of 1/900 a day.
    assert abs(median.time / (900 / 0.7 * np.log(2)) - 1) < 0.02
    assert median.lower <= median.time <= median.upper
