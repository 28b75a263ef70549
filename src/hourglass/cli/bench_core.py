"""Measuring the core against the floor of the same machine in the same run."""

import statistics
import time
import tracemalloc
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.comparison.log_rank import log_rank
from hourglass.core.comparison.thresholds import PERMUTATIONS, threshold_p, threshold_profile
from hourglass.core.covariates.in_force import in_force
from hourglass.core.covariates.joined_times import joined_times
from hourglass.core.covariates.records import records_of
from hourglass.core.covariates.split import split_where_changed
from hourglass.core.curves.survival import survival_curve
from hourglass.core.followup import FollowUp, follow_up
from hourglass.core.regression.changing_fit import fit_changing
from hourglass.core.regression.columns import usable_columns
from hourglass.core.regression.concordance import concordance
from hourglass.core.regression.effects import STEADY, AlongTime, Effect, over_time
from hourglass.core.regression.fit import fit
from hourglass.core.regression.fitted import HazardsFit
from hourglass.core.regression.likelihood import cross_product
from hourglass.core.regression.problem import evaluation
from hourglass.core.regression.proportionality import event_residuals, proportionality_test
from hourglass.core.regression.risk_sets import risk_sets
from hourglass.core.regression.ties import EFRON
from hourglass.core.regression.time_functions import TimeItself
from hourglass.core.risk_table import risk_table

REPEATS = 5
COLUMNS = 10
GROUPS = 5
STRATA = 10
MATCHED, MATCHED_COLUMNS = 100_000, 5
ALONG_TIME = 5_000
PERMUTED = 100_000
GROWTH = ((10_000, 100_000, 1_000_000), (5, 20, 80))


@dataclass(frozen=True, slots=True)
class Made:
    """Made-up follow-up of one kind, with its columns."""

    name: str
    data: FollowUp
    x: FloatArray
    stratum: IntArray | None = None


def run_core_bench(rows: int) -> None:
    """Print seconds, and how many times its floor each piece of work takes."""
    rng = np.random.default_rng(7)
    print(f"{rows:,} rows, {COLUMNS} columns; median of {REPEATS} runs\n")
    print(f"{'work':<44}{'floor':>9}{'seconds':>9}{'times':>8}")
    for made in _made(rng, rows):
        _measure(made, rng)
    _matched(rng, min(rows, MATCHED))
    _along_time(rng, min(rows, ALONG_TIME))
    _permutations(rng, min(rows, PERMUTED))


def run_growth_bench() -> None:
    """Print what a Newton step takes as rows and columns grow, and how many times its floor."""
    sizes, widths = GROWTH
    print(f"\n{'Newton step, heavy ties':<24}" + "".join(f"{p:>14} columns" for p in widths))
    for rows in sizes:
        cells = []
        for p in widths:
            rng = np.random.default_rng(rows + p)
            x = rng.normal(size=(rows, p))
            data = follow_up(_coarse(rng.exponential(size=rows)), rng.random(rows) < 0.6)
            step, floor = _step(Made("", data, x)), _floor(x)
            cells.append(f"{step:>11.4f} s {step / floor:>5.1f} ×")
        print(f"{rows:>14,} rows     " + "".join(f"{c:>22}" for c in cells), flush=True)


def run_records_bench(subjects: int = 100_000, each: int = 10) -> None:
    """Print how long rows take to be parted by records of a covariate, against sorting the records."""
    rng = np.random.default_rng(11)
    data = follow_up(rng.exponential(5, subjects), rng.random(subjects) < 0.5)
    of, at = np.repeat(np.arange(subjects), each), rng.uniform(0, 8, subjects * each)
    value, places, zero = rng.normal(size=at.size), np.arange(subjects), np.zeros(subjects)

    def parted() -> None:
        records = records_of(of, joined_times(data.exit, at), value)
        split_where_changed(data, places, [in_force(records, zero)])

    floor = median_seconds(lambda: np.lexsort((at, of)))
    print(f"\n{subjects:,} subjects with {at.size:,} records", flush=True)
    _line("rows parted by a value in force", parted, floor)


def _made(rng: np.random.Generator, rows: int) -> list[Made]:
    x = rng.normal(size=(rows, COLUMNS))
    t = rng.exponential(np.exp(-x @ np.linspace(-0.4, 0.4, COLUMNS)))
    s = rng.random(rows) < 0.6
    tied = _coarse(t)
    entry = np.where(rng.random(rows) < 0.5, t * rng.random(rows), -np.inf)
    return [
        Made("distinct times", follow_up(t, s), x),
        Made("heavy ties", follow_up(tied, s), x),
        Made("late entry", follow_up(t, s, entry), x),
        Made("counts", follow_up(tied, s, count=rng.integers(1, 9, rows)), x),
        Made(f"{STRATA} strata", follow_up(tied, s), x, rng.integers(0, STRATA, rows)),
    ]


def _coarse(t: FloatArray) -> FloatArray:
    return np.ceil(t * 365) / 365


def _measure(made: Made, rng: np.random.Generator) -> None:
    print(f"\n{made.name}", flush=True)
    data, x, stratum = made.data, made.x, made.stratum
    group = rng.integers(0, GROUPS, data.exit.size)
    sort = median_seconds(lambda: np.argsort(data.exit))
    times = np.unique(data.exit[data.event()])
    logs = sort + median_seconds(lambda: (np.log(times), np.exp(times)))
    _line("curve with log–log intervals", lambda: survival_curve(risk_table(data)), logs)
    _line(
        f"log-rank, {GROUPS} groups", lambda: log_rank(data, group, GROUPS, stratum=stratum), sort
    )
    floor, step = _floor(x), _step(made)
    _show(f"Newton step, {COLUMNS} columns", floor, step)
    found = fit(data, x, stratum=stratum)
    _line(f"whole fit, {found.iterations} steps", lambda: fit(data, x, stratum=stratum), floor)
    _line("concordance", lambda: concordance(data, found.linear, stratum), sort)
    _line("residuals of events", lambda: event_residuals(data, x, found), step)
    _line("proportional hazards test", lambda: proportionality_test(data, x, found), step)
    _peak("peak of the fit, over the matrix", lambda: fit(data, x, stratum=stratum), x.nbytes)
    score = found.linear
    _peak(
        "peak of concordance, over the times",
        lambda: concordance(data, score, stratum),
        data.exit.nbytes + (0 if data.entry is None else data.entry.nbytes),
    )


def _matched(rng: np.random.Generator, rows: int) -> None:
    x = rng.normal(size=(rows, MATCHED_COLUMNS))
    data = follow_up(_coarse(rng.exponential(size=rows)), rng.random(rows) < 0.6)
    pair, floor = np.arange(rows) // 2, _floor(x)
    print(f"\n{rows // 2:,} strata of 2 rows, {MATCHED_COLUMNS} columns")
    _show("Newton step", floor, _step(Made("", data, x, pair)))
    _line("whole fit", lambda: fit(data, x, stratum=pair), floor)


def _along_time(rng: np.random.Generator, rows: int) -> None:
    x = rng.normal(size=(rows, MATCHED_COLUMNS))
    data = follow_up(rng.exponential(size=rows), rng.random(rows) < 0.6)
    effects: list[Effect] = [AlongTime(TimeItself()), *[STEADY] * (MATCHED_COLUMNS - 1)]
    made, sets = over_time(data, effects), risk_sets(data)
    # Every row has a score of its own at each event time that it is at risk at.
    at_risk = rng.normal(size=int((sets.last + 1).mean()))
    floor = rows * median_seconds(lambda: np.exp(at_risk))

    def fitted() -> HazardsFit | None:
        return fit_changing(data, x, made, EFRON, None, sets)

    print(f"\n{rows:,} rows with an effect along time, against the exponentials of their scores")
    _line("whole fit", fitted, floor)
    _peak("peak of the fit, over the matrix", fitted, x.nbytes)


def _permutations(rng: np.random.Generator, rows: int) -> None:
    data = follow_up(rng.exponential(size=rows), rng.random(rows) < 0.5)
    x = rng.normal(size=rows)
    sort = median_seconds(lambda: np.argsort(x, kind="stable"))
    profile = threshold_profile(data, x)
    print(f"\ncut of {rows:,} values, against stable sorts of as many")
    _line("profile of all cuts", lambda: threshold_profile(data, x), sort)
    begun = time.perf_counter()
    threshold_p(data, x, profile, seed=1)
    _show(f"{PERMUTATIONS:,} permutations", PERMUTATIONS * sort, time.perf_counter() - begun)


def _floor(x: FloatArray) -> float:
    """One weighted cross-product of the columns."""
    columns, weight = np.ascontiguousarray(x.T), np.ones(x.shape[0])
    return median_seconds(lambda: cross_product(columns, weight))


def _step(made: Made) -> float:
    sets = risk_sets(made.data, stratum=made.stratum)
    z = usable_columns(made.x, sets.order, sets.counted).z
    evaluate = evaluation(sets, z, np.zeros(z.shape[1]), EFRON)
    zero = np.zeros(z.shape[0])
    return median_seconds(lambda: evaluate(zero))


def median_seconds(work: Callable[[], object]) -> float:
    """What work takes, of several times."""
    taken = []
    for _ in range(REPEATS):
        begun = time.perf_counter()
        work()
        taken.append(time.perf_counter() - begun)
    return statistics.median(taken)


def _line(name: str, work: Callable[[], object], floor: float) -> None:
    _show(name, floor, median_seconds(work))


def _show(name: str, floor: float, seconds: float) -> None:
    print(f"  {name:<42}{floor:>9.4f}{seconds:>9.3f}{seconds / floor:>6.1f} ×", flush=True)


def _peak(name: str, work: Callable[[], object], of: int) -> None:
    """The most memory that the work holds at once, beyond what there is when it begins."""
    tracemalloc.start()
    work()
    most = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    print(f"  {name:<42}{most / 1e6:>15.1f} MB{most / of:>6.1f} ×", flush=True)
