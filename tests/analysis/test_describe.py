"""The baseline table against plain sums, and what goes with it."""

import math
import statistics
from itertools import combinations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from examples import examples
from hourglass.analysis.prepare.describe import describe
from hourglass.report.baseline import baseline_csv
from making import cohort

ROWS = "t,s,arm,age,sex,seen\n" + "".join(
    f"{k + 1},{k % 2},{'ab'[k % 2]},{age},{'fm'[k // 3 % 2]},2020-01-{k + 1:02d}\n"
    for k in range(12)
    for age in ["" if k == 3 else 40 + k * k % 17]
)


def rows_of(found, column):
    return {r.what: r for r in found.rows if r.column == column}


def test_means_medians_shares_and_what_is_missing():
    found = describe(cohort(ROWS), "arm")
    assert [(g.label, g.rows) for g in found.groups] == [("All rows", 12), ("a", 6), ("b", 6)]
    ages = {
        g: [40 + k * k % 17 for k in range(12) if k != 3 and g in ("", "ab"[k % 2])]
        for g in ("", "a", "b")
    }
    age = rows_of(found, "age")
    for cell, values in zip(age["mean (SD)"].cells, ages.values(), strict=True):
        assert cell.values == pytest.approx([statistics.mean(values), statistics.stdev(values)])
        assert cell.text == f"{statistics.mean(values):.1f} ({statistics.stdev(values):.1f})"
    for cell, values in zip(age["median (quartiles)"].cells, ages.values(), strict=True):
        q = statistics.quantiles(values, n=4, method="inclusive")
        assert cell.values == pytest.approx([statistics.median(values), q[0], q[2]])
    assert [c.text for c in age["missing"].cells] == ["1 (8.3%)", "0 (0.0%)", "1 (16.7%)"]
    spread = math.sqrt((statistics.variance(ages["a"]) + statistics.variance(ages["b"])) / 2)
    apart = abs(statistics.mean(ages["a"]) - statistics.mean(ages["b"])) / spread
    assert age["mean (SD)"].difference == pytest.approx(apart, rel=1e-12)
    sex = rows_of(found, "sex")
    women = [sum(1 for k in range(12) if k // 3 % 2 == 0 and k % 2 == g) / 6 for g in (0, 1)]
    p, q = women
    assert sex["f"].cells[1].values == pytest.approx([4, 200 / 3])
    literal = abs(p - q) / math.sqrt((p * (1 - p) + q * (1 - q)) / 2)
    assert sex["f"].difference == pytest.approx(literal, abs=1e-12)
    assert sex["m"].difference is None, "shown once for all levels"
    assert (
        rows_of(found, "seen")["median (earliest to latest)"].cells[0].text.startswith("2020-01-06")
    )


@settings(max_examples=examples(60), deadline=None)
@given(st.lists(st.tuples(st.sampled_from("abc"), st.sampled_from("xyz")), min_size=6, max_size=60))
def test_levels_apart_is_the_largest_over_pairs_of_groups(rows):
    text = "t,s,g,w\n" + "".join(f"{k + 1},1,{g},{w}\n" for k, (g, w) in enumerate(rows))
    found = describe(cohort(text), "g")
    if len(found.groups) < 3 or len({w for _, w in rows}) != 2:
        return
    shares = {}
    first = min(w for _, w in rows)
    for g in {g for g, _ in rows}:
        own = [w for h, w in rows if h == g]
        shares[g] = own.count(first) / len(own)
    wanted = []
    for a, b in combinations(shares.values(), 2):
        within = (a * (1 - a) + b * (1 - b)) / 2
        wanted.append(abs(a - b) / math.sqrt(within) if within else (0.0 if a == b else None))
    shown = next(
        r.difference
        for r in found.rows
        if (r.column == "w" and r.difference is not None) or r.column == "w"
    )
    if None in wanted:
        assert shown is None, "groups that share no level are not so many deviations apart"
    else:
        assert shown == pytest.approx(max(wanted), abs=1e-9)


def test_distributions_and_rates_add_up():
    found = describe(cohort(ROWS), "arm")
    (age,) = found.distributions
    assert [g.known for g in age.groups] == [6, 5]
    for group in age.groups:
        assert sum(group.bins) == pytest.approx(1)
        assert group.at_or_below[-1] == 1
        assert group.x == sorted(group.x)
    (rates,) = (r for r in found.relations if r.column == "sex")
    assert [(b.label, b.rows, b.events, b.time) for b in rates.bands] == [
        ("f", 6, 2, 1 + 2 + 3 + 7 + 8 + 9),
        ("m", 6, 4, 4 + 5 + 6 + 10 + 11 + 12),
    ]
    assert rates.bands[0].rate == pytest.approx(2 / 30)
    (ages,) = (r for r in found.relations if r.column == "age")
    assert sum(b.rows for b in ages.bands) == 12
    assert ages.bands[-1].label == "missing"


def test_groups_that_do_not_vary_have_no_finite_difference():
    flat = "1,1,a,1\n2,0,a,1\n3,1,b,2\n4,0,b,2\n5,0,,3\n"
    found = describe(cohort("t,s,g,x\n" + flat), "g")
    assert rows_of(found, "x")["mean (SD)"].difference is None


def test_the_table_goes_out_at_full_precision():
    lines = baseline_csv(describe(cohort(ROWS), "arm")).decode().splitlines()
    assert lines[0].startswith("column,what,All rows,All rows: first number")
    mean = next(line for line in lines if line.startswith("age,mean (SD)"))
    known = [40 + k * k % 17 for k in range(12) if k != 3]
    assert float(mean.split(",")[3]) == pytest.approx(statistics.mean(known), rel=1e-14)
