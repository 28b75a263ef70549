"""Workings redone from what they show: their tables as a spreadsheet has them, nothing else.

The rows hold ties, two other causes, late entry where it is allowed, counts and several rows of a
subject in turn.
"""

import pickle

import numpy as np
import pytest
from scipy.stats import beta, binom, chi2, norm

from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.compare.workings import WORKINGS as OF_COMPARE
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.estimate.workings import WORKINGS as OF_ESTIMATE
from hourglass.analysis.registry import STAGES
from hourglass.analysis.shared.figure.table import figure_tables
from hourglass.analysis.shared.subject_workings import subjects_of
from hourglass.analysis.shared.workings import NoWorkingsError, Workings, decimal, whole
from hourglass.core.progress import no_progress
from hourglass.report.print.figure import Printable
from hourglass.report.print.files import print_figures
from hourglass.report.print.settings import PrintSettings
from making import all_cells, cohort
from stages import compare, estimate, part_of, shown

median_ratios = part_of("compare", "medians")

Z = norm.ppf(0.975)
TIMES = EstimateStatement(times=(4, 9), limit=11)


def made(n=90, seed=4, causes=(0, 1, 1, 2), entry=False):
    random = np.random.default_rng(seed)
    g = random.integers(0, 3, n)
    t = np.ceil(random.exponential(6 + 4 * g) * 2) / 2
    late = np.where(random.random(n) < 0.3, np.floor(t / 2), 0.0)
    lines = [
        f"{a:g},{b},{'xyz'[c]},{k}{f',{e:g}' if entry else ''}"
        for k, (a, b, c, e) in enumerate(zip(t, random.choice(causes, n), g, late, strict=True))
    ]
    head = "t,s,g,id,e\n" if entry else "t,s,g,id\n"
    return cohort(head + "\n".join(lines) + "\n", late_entry="e" if entry else None)


COMPETING, PLAIN, LATE = made(), made(causes=(0, 1, 1)), made(causes=(0, 1, 1), entry=True)


def sheet(rows, statement, figure, figures=OF_COMPARE, **about) -> Workings:
    """The workings of a figure."""
    worked = next(one for one in figures if one.key == figure)
    key = "compare" if figures is OF_COMPARE else "estimate"
    stated = {"estimate": TIMES, key: statement}
    return worked.work(rows, stated, worked.about.model_validate(about))


def column(made_of: Workings, key: str):
    """A column by its key."""
    return next(c for c in made_of.columns if c.key == key).values


def raw_of(found, figure, **about):
    """The value of the one cell that opens a figure with such an about."""
    values = {
        cell.raw
        for cell in all_cells(found)
        if cell.workings and cell.workings.figure == figure and cell.workings.about == about
    }
    (value,) = values
    return value


def test_a_difference_at_a_time_is_redone_from_its_last_line():
    statement = CompareStatement(by="g")
    found = compare(PLAIN, statement, TIMES)
    made_of = sheet(PLAIN, statement, "difference", group=2, t=4.0)
    a, b = (column(made_of, f"survival_{k}")[-1] for k in "ab")
    v_a, v_b = (column(made_of, f"sigma2_{k}")[-1] for k in "ab")
    assert raw_of(found, "difference", group=2, t=4.0) == pytest.approx(b - a, rel=1e-12)
    half = Z * np.sqrt(a**2 * v_a + b**2 * v_b)
    limits = f"{b - a - half:.7g} to {b - a + half:.7g}".replace("-", "−")
    assert limits in made_of.formula[2]
    z = np.log(np.log(a) / np.log(b)) / np.sqrt(v_a / np.log(a) ** 2 + v_b / np.log(b) ** 2)
    p = next(
        cells[4].raw for cells in _rows(found, "Differences at chosen times") if cells[1].raw == 4
        and cells[0].text == "z"
    )  # fmt: skip
    assert p == pytest.approx(2 * norm.sf(abs(z)), rel=1e-9)


def _rows(found, label):
    return next(
        block.rows
        for section in found.sections
        for block in section.blocks
        if getattr(block, "label", "") == label
    )


def test_means_differ_by_what_their_lines_state():
    statement = CompareStatement(by="g")
    made_of = sheet(PLAIN, statement, "means", group=1)
    m, e = column(made_of, "mean"), column(made_of, "standard_error")
    found = compare(PLAIN, statement, TIMES)
    difference, p = (_rows(found, "Differences of restricted means")[0][k].raw for k in (1, 3))
    assert difference == pytest.approx(m[1] - m[0], rel=1e-12)
    assert p == pytest.approx(2 * norm.sf(abs(m[1] - m[0]) / np.hypot(*e)), rel=1e-9)
    ratio, p = (_rows(found, "Ratios of restricted means")[0][k].raw for k in (1, 3))
    assert ratio == pytest.approx(m[1] / m[0], rel=1e-12)
    of_log = np.hypot(*(e / m))
    assert p == pytest.approx(2 * norm.sf(abs(np.log(m[1] / m[0])) / of_log), rel=1e-9)
    alone = sheet(PLAIN, statement, "mean", group=1)
    assert column(alone, "area").sum() == pytest.approx(m[1], rel=1e-12)
    assert column(alone, "variance_term").sum() == pytest.approx(e[1] ** 2, rel=1e-9)


def test_a_ratio_of_rates_is_redone_from_events_and_times():
    statement = CompareStatement(by="g")
    found = compare(LATE, statement, TIMES)
    made_of = sheet(LATE, statement, "rate-ratio", group=1)
    (d_a, d_b), (t_a, t_b) = column(made_of, "events"), column(made_of, "time")
    assert raw_of(found, "rate-ratio", group=1) == pytest.approx((d_b / t_b) / (d_a / t_a))
    low = beta.ppf(0.025, d_b, d_a + 1)
    assert f"{low / (1 - low) * t_a / t_b:.7g}" in made_of.formula[1]
    chance = t_b / (t_a + t_b)
    p = 2 * min(binom.sf(d_b - 1, d_a + d_b, chance), binom.cdf(d_b, d_a + d_b, chance))
    assert _rows(found, "Rates and their ratios")[1][4].raw == pytest.approx(min(p, 1), rel=1e-9)
    own = sheet(LATE, statement, "rate", group=1)
    assert column(own, "event").sum() == d_b
    assert column(own, "time").sum() == pytest.approx(t_b, rel=1e-12)


def test_a_ratio_of_medians_has_its_limits_among_the_samples_shown():
    statement = CompareStatement(by="g", seed=8)
    made_of = sheet(PLAIN, statement, "median-ratio", group=2)
    ratio = column(made_of, "ratio")
    assert ratio.size == 1000
    medians = column(made_of, "median_b") / column(made_of, "median_a")
    both = np.isfinite(medians)
    assert ratio[both] == pytest.approx(medians[both])
    stated = {"compare": statement, "estimate": TIMES}
    shown = median_ratios(PLAIN, stated, no_progress).sections[0].blocks[0].rows[1]
    limits = made_of.formula[1].rpartition(": ")[2].split(" to ")
    below = [(ratio <= float(v)).mean() for v in limits]
    assert below[0] == pytest.approx(0.025, abs=0.01)
    assert below[1] >= 0.975
    assert shown[1].raw == pytest.approx(float(made_of.formula[0].rpartition("= ")[2]))


def test_a_pair_is_tested_on_its_own_rows_and_its_p_adjusted_as_stated():
    statement = CompareStatement(by="g", pairs="all", adjustment="Holm")
    found = compare(PLAIN, statement, TIMES)
    raw, shown = {}, {}
    for a, b in ((0, 1), (0, 2), (1, 2)):
        made_of = sheet(PLAIN, statement, "pair", a=a, b=b)
        one, other = ("xyz"[a], "xyz"[b])
        excess = column(made_of, f"events, g {other}") - column(made_of, f"expected, g {other}")
        variance = np.nansum(column(made_of, f"variance, g {other}"))
        assert np.all(column(made_of, "at_risk") == sum(
            column(made_of, f"at risk, g {k}") for k in (one, other)
        ))  # fmt: skip
        raw[a, b] = chi2.sf(excess.sum() ** 2 / variance, 1)
        shown[a, b] = raw_of(found, "pair", a=a, b=b)
    order = sorted(raw, key=raw.get)
    stepped = np.maximum.accumulate([raw[pair] * (3 - k) for k, pair in enumerate(order)])
    for pair, p in zip(order, stepped, strict=True):
        assert shown[pair] == pytest.approx(min(p, 1), rel=1e-9)
    with pytest.raises(NoWorkingsError, match="not tested as a pair"):
        sheet(PLAIN, statement, "pair", a=2, b=1)


def test_any_weight_has_its_own_sheet_and_several_at_once_their_correlations():
    two = made(causes=(0, 1, 1), n=120)
    lines = "t,s,h\n" + "\n".join(
        f"{t:g},{s},{'uv'[k % 2]}"
        for k, (t, s) in enumerate(zip(two.follow_up.exit, two.follow_up.status, strict=True))
    )
    rows, statement = cohort(lines + "\n"), CompareStatement(by="h")
    made_of = sheet(rows, statement, "log-rank", weight="Gehan–Breslow")
    w = column(made_of, "weight")
    assert w.tolist() == column(made_of, "at_risk").tolist()
    excess = (w * (column(made_of, "events, h v") - column(made_of, "expected, h v"))).sum()
    variance = np.nansum(column(made_of, "variance, h v"))
    statistic = f"{excess**2 / variance:.2f}"
    assert made_of.title.endswith(f"χ² {statistic}")
    together = sheet(rows, statement, "combined")
    z = column(together, "z")
    correlation = np.column_stack([c.values for c in together.columns[2:]])
    assert np.diag(correlation) == pytest.approx(1)
    p = float(together.formula[2].rpartition("= ")[2])
    random = np.random.default_rng(2)
    values, vectors = np.linalg.eigh(correlation)
    draws = random.normal(size=(400_000, z.size)) @ (vectors * np.sqrt(values.clip(0))).T
    chance = (np.abs(draws).max(axis=1) >= np.abs(z).max()).mean()
    assert p == pytest.approx(chance, abs=4 * np.sqrt(p * (1 - p) / 400_000))


def test_grays_test_adds_up_over_the_times_of_every_cause():
    statement = CompareStatement(by="g")
    found = compare(COMPETING, statement, TIMES)
    made_of = sheet(COMPETING, statement, "gray")
    z = [
        (column(made_of, f"events_{g}") - column(made_of, f"expected_{g}")).sum() for g in (1, 2, 3)
    ]
    assert sum(z) == pytest.approx(0, abs=1e-9)
    text = made_of.formula[-2].partition(": ")[2].replace("−", "-")
    v = np.array([[float(x) for x in row.split(", ")] for row in text.split("; ")])
    statistic = z @ np.linalg.pinv(v, rcond=1e-5) @ z
    gray = next(row for row in _rows(found, "Two tests") if "Gray" in row[0].text)
    assert gray[1].raw == pytest.approx(statistic, rel=1e-4)
    with pytest.raises(NoWorkingsError, match="delayed entry"):
        sheet(LATE, statement, "gray")


def test_the_median_follow_up_is_where_the_reversed_curve_reaches_a_half():
    statement = EstimateStatement(by="g")
    found = estimate(PLAIN, statement)
    for group in (0, 1, 2):
        made_of = sheet(PLAIN, statement, "follow-up", OF_ESTIMATE, group=group)
        n, d = column(made_of, "at_risk"), column(made_of, "events")
        at = np.flatnonzero(np.cumprod(1 - d / n) <= 0.5 + 1e-12)[0]
        assert made_of.marked == at
        assert raw_of(found, "follow-up", group=group) == column(made_of, "time")[at]


@pytest.mark.parametrize("rows", [PLAIN, COMPETING, LATE], ids=["plain", "competing", "late"])
def test_behind_every_line_of_the_survival_table_stand_its_subjects(rows):
    statement = EstimateStatement(by="g")
    table = sheet(rows, statement, "table", OF_ESTIMATE, group=1)
    opens = table.columns[0].cell(0).workings
    assert (opens.figure, opens.about["group"]) == ("subjects", 1)
    assert opens.about["t"] == table.columns[0].raw(0)
    for k in range(table.size):
        about = table.columns[0].cell(k).workings.about
        behind = sheet(rows, statement, "subjects", OF_ESTIMATE, **about)
        text = [behind.columns[-1].cell(i).text for i in range(behind.size)]
        assert len(text) == column(table, "at_risk")[k]
        assert text.count("the event") == column(table, "events")[k]
        assert text[: text.count("the event")] == ["the event"] * text.count("the event")
        left = sum("before the next" in one for one in text)
        entered = column(behind, "entered") if rows is LATE else np.zeros(behind.size)
        assert (entered < about["t"]).all()
        assert left == column(table, "censored_before_next")[k] - _came_and_went(
            rows, 1, about["t"], _next(table, k)
        )
    numbers = column(behind, "row")
    assert set(numbers) <= set(rows.table.numbers)


def _next(table, k):
    time = column(table, "time")
    return time[k + 1] if k + 1 < time.size else np.inf


def _came_and_went(rows, group, t, until):
    """Who entered after an event time and left before the next: at risk at neither."""
    data = rows.follow_up
    if data.entry is None:
        return 0
    own = np.array([rows.table.column("g").cell(k) == "y" for k in range(rows.table.size)])
    return int((own & (data.entry >= t) & (data.exit < until) & ~data.event()).sum())


def test_the_test_s_lines_open_the_subjects_of_all_groups():
    statement = CompareStatement(by="g")
    table = sheet(LATE, statement, "log-rank")
    about = table.columns[0].cell(3).workings.about
    behind = sheet(LATE, statement, "subjects", **about)
    assert behind.size == column(table, "at_risk")[3]
    groups = [
        c.cell(k).text for c in behind.columns if c.key == "group" for k in range(behind.size)
    ]
    for name in "xyz":
        assert groups.count(name) == column(table, f"at risk, g {name}")[3]


def test_stages_and_their_workings_go_to_another_process_and_back():
    assert len(pickle.loads(pickle.dumps(STAGES))) == len(STAGES)
    made_of = sheet(LATE, CompareStatement(by="g"), "subjects", t=4.0)
    again = pickle.loads(pickle.dumps(made_of))
    assert list(again.lines()) == list(made_of.lines())


def test_terms_are_sorted_by_any_column_and_those_without_a_value_stand_last():
    opens = subjects_of(None)
    made_of = Workings(
        title="",
        formula=(),
        columns=(
            decimal("time", "time", np.array([1.0, 2, 3, 4]), opens),
            whole("n", "n", np.array([5, 3, 5, 1])),
            decimal("v", "v", np.array([np.nan, 2.0, 1.0, 3.0])),
        ),
        marked=1,
    )
    by_n = made_of.sorted(1)
    assert column(by_n, "time").tolist() == [4, 2, 1, 3]
    assert by_n.marked == 1
    assert by_n.columns[0].cell(0).workings.about == {"t": 4.0}
    assert column(made_of.sorted(2), "time").tolist() == [3, 2, 4, 1]
    assert column(made_of.sorted(2, descending=True), "time").tolist() == [4, 2, 3, 1]
    with pytest.raises(NoWorkingsError, match="no column 3"):
        made_of.sorted(3)


def awkward(n=36, groups=3, causes=(0, 1, 1), entry=False, counts=False):
    """Few rows with ties, long names of groups, and a number to be split."""
    random = np.random.default_rng(n)
    t = np.ceil(random.exponential(9, n))
    columns = {
        "t": [f"{v:g}" for v in t],
        "s": [str(v) for v in random.choice(causes, n)],
        "g": [
            f"the {'abcdef'[k]} bed with a long name of its own"
            for k in random.integers(0, groups, n)
        ],
        "x": [f"{v:.1f}" for v in random.normal(50, 9, n)],
    }
    more = {}
    if entry:
        columns["e"] = [f"{v:g}" for v in np.floor(t * random.random(n) * 0.6)]
        more["late_entry"] = "e"
    if counts:
        columns["n"] = [str(v) for v in random.integers(1, 9, n)]
        more["count"] = "n"
    lines = [",".join(columns), *(",".join(row) for row in zip(*columns.values(), strict=True))]
    return cohort("\n".join(lines) + "\n", **more)


def in_episodes(n=30):
    """Subjects of two rows each, the second perhaps in the other group."""
    random, lines = np.random.default_rng(n), ["id,e,t,s,g,x"]
    for k in range(n):
        end = random.integers(4, 40)
        cut, group, x = random.integers(1, end), random.integers(0, 2, 2), random.normal(50, 9)
        lines.append(f"{k},0,{cut},0,{'uv'[group[0]]},{x:.1f}")
        lines.append(f"{k},{cut},{end},{random.integers(0, 2)},{'uv'[group[1]]},{x:.1f}")
    text = "\n".join(lines) + "\n"
    return cohort(text, late_entry="e", subject="id", several_rows=True)


AWKWARD = {
    "seven rows": awkward(7, 2),
    "six groups": awkward(80, 6),
    "competing": awkward(causes=(0, 1, 2)),
    "late entry": awkward(entry=True),
    "counts of all kinds": awkward(60, causes=(0, 1, 2), entry=True, counts=True),
    "several rows": in_episodes(),
}
STATED = (
    EstimateStatement(times=(4, 9)),
    EstimateStatement(by="g", times=(4, 9), ignoring=True, intervals="standard-error bars"),
    EstimateStatement(by="x", times=(4, 9), estimator="Nelson–Aalen, ties spread", scale="arcsine"),
    CompareStatement(by="g", pairs="all", ordered=True),
    CompareStatement(by="x", thresholds=(50,)),
)


@pytest.mark.parametrize("name", AWKWARD)
@pytest.mark.filterwarnings("error::RuntimeWarning")
def test_every_figure_opens_its_workings_prints_and_has_a_table_on_any_rows(name):
    rows, opened = AWKWARD[name], set()
    for statement in STATED:
        stage = next(one for one in STAGES if one.name == statement.stage)
        stated = {"estimate": TIMES, statement.stage: statement}
        found = shown(stage.name, rows, stated)
        assert found.blank is None
        every = [track.id for track in found.figure.tracks]
        assert print_figures([Printable(found.figure, PrintSettings(tracks=every))], "svg")
        assert figure_tables(found.figure, every)
        cells = [cell for cell in all_cells(found) if cell.workings]
        for opens in (cell.workings for cell in cells):
            worked = next(one for one in stage.workings if one.key == opens.figure)
            made_of = worked.work(rows, stated, worked.about.model_validate(opens.about))
            assert "nan" not in f"{made_of.title} {made_of.formula}".lower().split()
            assert len(list(made_of.lines())) == made_of.size + 1
            opened.add(opens.figure)
    assert opened >= {"survival", "quantile", "table", "mean", "means", "rate", "rate-ratio"}
    assert opened >= {"follow-up", "subjects", "log-rank", "difference"}
