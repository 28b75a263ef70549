"""Estimate in full: groups, intervals, tracks, means, and the workings of each."""

import numpy as np
import pytest

from hourglass.analysis.catalogue.estimators import ESTIMATORS
from hourglass.analysis.catalogue.scales import INTERVAL_SCALES
from hourglass.analysis.estimate.curves import estimated
from hourglass.analysis.estimate.row_values import curve_columns
from hourglass.analysis.estimate.sentence import estimate_sentence
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.estimate.tried import tried_estimate
from hourglass.analysis.estimate.workings import WORKINGS
from hourglass.analysis.shared.curve_workings import survival_workings
from hourglass.analysis.shared.figure.drawing import Window, drawn
from hourglass.analysis.shared.figure.figure_settings import Arrangement, arranged
from hourglass.analysis.shared.workings import NoWorkingsError
from hourglass.core.curves.bands import BANDS, simultaneous_band
from hourglass.core.curves.estimators import PRODUCT_LIMIT
from hourglass.core.curves.scales import LOG_LOG
from hourglass.core.variants import variant
from hourglass.report.prepared import prepared_table
from making import all_cells, cohort, demo_cohort, marks_of, section, timed_table
from stages import estimate

LARKMOOR = demo_cohort("larkmoor")


def made(n=240, seed=3, competing=False, late=False):
    random = np.random.default_rng(seed)
    g, x = random.integers(0, 3, n), random.normal(50, 10, n).round(1)
    t = np.ceil(random.exponential(20 / np.exp(0.4 * (g == 2)), n) * 2) / 2
    s = random.choice([0, 1, 2] if competing else [0, 1, 1], n)
    h = random.integers(0, 2, n)
    lines = [f"{a:g},{b},{'abc'[c]},{d},{'uv'[e]}" for a, b, c, d, e in zip(t, s, g, x, h)]
    return "t,s,g,x,h\n" + "\n".join(lines) + "\n"


def text(found):
    return " ".join(cell.text for cell in all_cells(found))


def sheet(figure, rows, statement, **about):
    worked = next(one for one in WORKINGS if one.key == figure)
    return worked.work(rows, {"estimate": statement}, worked.about.model_validate(about))


def column_of(table, key):
    return [row[table.keys.index(key)].raw for row in table.rows]


def column(found, key):
    return next(c.values for c in found.columns if c.key == key)


ROWS = cohort(made())


def test_each_group_has_its_curve_and_its_row():
    found = estimate(ROWS, EstimateStatement(by="g", times=(5, 10)))
    assert [c.label for c in found.curves] == ["a", "b", "c"]
    assert [line.label for line in marks_of(found.figure.track("survival"), "line")] == [
        "a",
        "b",
        "c",
    ]
    assert len(found.figure.track("apart").panels) == 3
    assert sum(c.subjects for c in found.curves) == found.cohort.subjects
    assert [row.label for row in timed_table(found).rows] == ["a", "b", "c"]
    *of_groups, all_groups = section(found, "groups").blocks[0].rows
    assert len(of_groups) == 3
    for place in (1, 2, 3):
        assert all_groups[place].raw == sum(row[place].raw for row in of_groups)
    assert "for each group of g" in found.sentence.text


def test_groups_are_not_crossed_with_a_number_that_has_no_levels():
    rows = cohort("t,s,g,x\n" + "".join(f"{k},1,{'ab'[k % 2]},{k / 7:.4f}\n" for k in range(1, 80)))
    found = estimate(rows, EstimateStatement(by="g", crossed="x"))
    assert "no levels of x" in found.blank


def test_a_reference_group_comes_first_and_crossed_categories_part_each_other():
    found = estimate(ROWS, EstimateStatement(by="g", reference="c", crossed="h"))
    assert found.curves[0].label == "c, u"
    assert len(found.curves) == 6
    assert "each parted by h" in found.sentence.text


@pytest.mark.parametrize(
    ("thresholds", "labels"),
    [
        ((), ["x ≤ {m}", "x > {m}"]),
        ((45.0,), ["x ≤ 45.0", "x > 45.0"]),
        ((60.0, 45.0), ["x ≤ 45.0", "x > 45.0, ≤ 60.0", "x > 60.0"]),
    ],
)
def test_a_number_is_split_at_thresholds_or_at_its_median(thresholds, labels):
    found = estimate(ROWS, EstimateStatement(by="x", thresholds=thresholds))
    values = ROWS.table.column("x").values
    median = ROWS.table.column("x").written(float(np.median(values)))
    assert [c.label for c in found.curves] == [one.format(m=median) for one in labels]
    edges = np.sort(thresholds or [np.median(values)])
    place = np.array([np.sum(v > edges) for v in values])
    assert [c.subjects for c in found.curves] == np.bincount(place).tolist()


def test_bands_hold_the_whole_curve_or_give_the_reason_there_are_none():
    pointwise = estimate(ROWS, EstimateStatement())
    for kind in ("Hall–Wellner", "equal precision"):
        found = estimate(ROWS, EstimateStatement(intervals=kind))
        survival = found.figure.track("survival")
        area, inside = marks_of(survival, "area")
        (narrow,) = marks_of(pointwise.figure.track("survival"), "area")
        middle = np.searchsorted(narrow.x, area.x[len(area.x) // 2])
        assert area.low[len(area.x) // 2] < narrow.low[middle]
        assert inside.low.tolist() == pytest.approx(narrow.low.tolist(), nan_ok=True)
        assert [part.id for part in survival.parts if not part.shown] == [inside.part]
        assert inside not in survival.drawn_of(survival.marks)
        assert "whole curve" in survival.notes
        assert "one time at a time" not in survival.notes
        switched = Arrangement(switched=["survival/limits", "survival/pointwise"])
        other = arranged(found.figure, switched).track("survival")
        assert [m for m in other.drawn_of(other.marks) if m.kind == "area"] == [inside]
        assert "whole curve" not in other.notes
        assert "one time at a time" in other.notes
    stated = EstimateStatement(intervals="Hall–Wellner", scale="logit", times=(5,))
    refused = estimate(ROWS, stated)
    shown = estimate(ROWS, stated.model_copy(update={"intervals": "pointwise"}))
    (area,), (instead,) = (marks_of(f.figure.track("survival"), "area") for f in (refused, shown))
    assert area.low.tolist() == pytest.approx(instead.low.tolist(), nan_ok=True)
    note = refused.figure.track("survival").notes
    assert "95% CI (pointwise)" in note
    assert "in place of" in note
    assert "logit" in note
    assert timed_table(refused).head[2] == "95% CI (pointwise)"
    assert not marks_of(
        estimate(ROWS, EstimateStatement(intervals="none")).figure.track("survival"), "area"
    )


def test_bars_at_chosen_times_are_one_standard_error_and_stated_to_be_no_interval():
    statement = EstimateStatement(by="h", intervals="standard-error bars", times=(5, 10, 1e5))
    found = estimate(ROWS, statement)
    survival = found.figure.track("survival")
    first, _ = marks_of(survival, "bars")
    at = [estimated(ROWS, statement).curves[0].estimate.at(t) for t in (5, 10)]
    assert first.at.tolist() == [5, 10]
    assert first.low.tolist() == [one.survival - one.standard_error for one in at]
    assert "no interval" in survival.notes
    assert not marks_of(survival, "area")
    assert "standard-error bars at the chosen times" in found.sentence.text


def test_given_free_at_a_time_the_curve_begins_there():
    since = EstimateStatement(start=10, times=(5, 20))
    found, whole = estimate(ROWS, since), estimate(ROWS, EstimateStatement(times=(10, 20)))
    early, late = found.curves[0].points
    assert early.survival is None
    at_10, at_20 = whole.curve.points
    assert late.survival == pytest.approx(at_20.survival / at_10.survival, rel=1e-12)
    (line,) = marks_of(found.figure.track("survival"), "line")
    assert (line.x[0], line.y[0]) == (10, 1)
    curve = timed_table(found).series[0]
    assert (curve.before, curve.time[0]) == ([None] * 4, 10)
    assert "given survival to 10 months" in found.sentence.text
    assert estimate(ROWS, EstimateStatement(start=1e6)).blank.startswith("Nobody is followed")


def test_a_mean_is_restricted_to_what_every_group_is_followed_to():
    found = estimate(ROWS, EstimateStatement(by="g"))
    shortest = min(c.last for c in found.curves)
    assert section(
        found, "mean"
    ).title == f"Restricted mean survival time to {shortest:.1f} months".replace(".0 ", " ") or (
        str(shortest) in section(found, "mean").title
    )
    short = next(c for c in found.curves if c.last == shortest)
    beyond = estimate(ROWS, EstimateStatement(by="g", limit=shortest + 1))
    assert short.label in section(beyond, "mean").blocks[0].text
    (handle,) = estimate(ROWS, EstimateStatement(limit=12)).figure.track("survival").handles
    assert (handle.at, handle.field) == (12, "limit")


@pytest.mark.parametrize("by", [None, "g", "h"])
def test_a_limit_of_means_that_is_dragged_shows_the_means_and_the_area_between_two_curves(by):
    statement = EstimateStatement(by=by, limit=15)
    tried = tried_estimate(ROWS, {"estimate": statement})
    means = column_of(section(estimate(ROWS, statement), "mean").blocks[0], "mean")
    assert all(f"{mean:.1f}" in tried.readings[-1] for mean in means)
    if by == "g":
        assert tried.over["survival"] == []
        return
    (area,) = tried.over["survival"]
    shaded = (area.high - area.low) @ np.diff([*area.x, area.end])
    curves = estimated(ROWS, statement).curves
    if by is None:
        assert shaded == pytest.approx(means[0], rel=1e-12)
        return
    at = np.arange(0, 15, 0.5)  # all times are halves
    a, b = (np.array([curve.estimate.at(t).survival for t in at]) for curve in curves)
    assert shaded == pytest.approx(0.5 * np.abs(a - b).sum(), rel=1e-12)
    assert tried_estimate(ROWS, {"estimate": EstimateStatement(by="h")}).over == {}


def test_the_area_adds_up_to_the_mean_and_its_terms_to_the_variance():
    statement = EstimateStatement(by="g", limit=15)
    found = sheet("mean", ROWS, statement, group=1)
    curve = estimated(ROWS, statement).curves[1]
    assert f"{column(found, 'area').sum():.7g}" in found.formula[0]
    error = np.sqrt(column(found, "variance_term").sum())
    assert f"{error:.7g}" in found.formula[1]
    assert column(found, "from")[1] == curve.estimate.table.time[0]


@pytest.mark.parametrize("estimator", ESTIMATORS)
@pytest.mark.parametrize("scale", INTERVAL_SCALES)
def test_survival_is_worked_out_as_it_was_estimated(estimator, scale):
    statement = EstimateStatement(by="g", estimator=estimator, scale=scale, times=(8,))
    point = estimate(ROWS, statement).curves[0].points[0]
    found = sheet("survival", ROWS, statement, group=0, t=8)
    assert found.formula[1].endswith(f"= {point.survival:.7g}")
    assert found.formula[-1].endswith(f"= {point.lower:.7g} to {point.upper:.7g}")
    assert column(found, "survival")[found.marked] == point.survival
    steps, multiplied = column(found, "factor"), estimator == PRODUCT_LIMIT.key
    made = np.cumprod(steps) if multiplied else np.exp(-np.cumsum(steps))
    assert made == pytest.approx(column(found, "survival"), rel=1e-12)


@pytest.mark.parametrize("estimator", [e for e in ESTIMATORS if e != PRODUCT_LIMIT.key])
def test_the_hazard_beside_rows_is_the_one_that_survival_comes_from(estimator):
    values = curve_columns(ROWS, EstimateStatement(estimator=estimator))
    survival, _, hazard = (column.values for column in values[:3])
    assert np.exp(-hazard) == pytest.approx(survival, rel=1e-12)


def test_the_survival_table_counts_everybody_who_leaves():
    found = sheet("table", ROWS, EstimateStatement())
    before = int(found.formula[2].split()[0]) if found.formula[2][0].isdigit() else 0
    left = column(found, "censored_before_next").sum() + before
    assert left + column(found, "events").sum() == 240
    n, d = column(found, "at_risk"), column(found, "events")
    left = column(found, "censored_before_next")
    assert (n[1:] == n[:-1] - d[:-1] - left[:-1]).all()
    with pytest.raises(NoWorkingsError):
        sheet("table", ROWS, EstimateStatement(by="g"), group=9)


def test_the_survival_tables_of_all_groups_stand_in_one():
    together = sheet("tables", ROWS, EstimateStatement(by="g"))
    begin = 0
    for k in range(3):
        own = sheet("table", ROWS, EstimateStatement(by="g"), group=k)
        end = begin + own.columns[0].values.size
        assert {together.columns[0].raw(i) for i in range(begin, end)} == {"abc"[k]}
        for whole, part in zip(together.columns[1:], own.columns, strict=True):
            assert np.array_equal(whole.values[begin:end], part.values, equal_nan=True)
        begin = end
    assert together.columns[0].values.size == begin


def test_rates_are_events_over_the_time_at_risk():
    found = sheet("rate", ROWS, EstimateStatement(by="h"), group=1)
    rows = ROWS.table.column("h").cell
    mine = np.array([rows(k) == "v" for k in range(240)])
    data = ROWS.follow_up
    wanted = data.event()[mine].sum() / data.exit[mine].sum()
    assert column(found, "event").sum() / column(found, "time").sum() == pytest.approx(wanted)
    assert f"{100 * wanted:.2f}" in found.title


def test_causes_and_those_free_of_all_add_up():
    rows = cohort(made(competing=True))
    found = estimate(rows, EstimateStatement())
    whole = drawn(
        found.figure, Window(0, found.figure.high, tracks=["incidence", "incidence_stacked"])
    )
    stacked = marks_of(found.figure.track("incidence_stacked"), "area")
    apart = marks_of(found.figure.track("incidence"), "line")
    assert [one.label for one in apart] == ["the event", "something else"]
    assert stacked[1].high[-1] == pytest.approx(apart[0].y[-1] + apart[1].y[-1])
    probability = marks_of(found.figure.track("event_probability"), "line")[0]
    assert probability.y[-1] > apart[0].y[-1]
    assert "not the share" in found.figure.track("event_probability").note
    assert whole.track("incidence").drawn
    groups = estimate(rows, EstimateStatement(by="g"))
    assert len(groups.figure.track("incidence_stacked").panels) == 3
    assert estimate(ROWS, EstimateStatement()).figure.track("incidence") is None


def test_rings_stand_where_quartiles_are_read():
    found = estimate(ROWS, EstimateStatement(by="h"))
    rings = [m for m in marks_of(found.figure.track("survival"), "points") if m.glyph == "ring"]
    for ring, curve in zip(rings, found.curves, strict=True):
        read = [(q.time, 1 - q.q) for q in curve.quartiles if q.time is not None]
        assert list(zip(ring.x.tolist(), ring.y.tolist(), strict=True)) == read
        assert ring.tone == curve.tone


def test_every_other_track_is_offered_and_drawn():
    found = estimate(ROWS, EstimateStatement(by="h"))
    offered = [t.id for t in found.figure.tracks if not t.shown]
    assert offered == [
        "apart",
        "events_so_far",
        "censored_so_far",
        "event_probability",
        "cumulative_hazard",
        "hazard",
        "log_log",
        "censored",
        "difference",
    ]
    censored = marks_of(found.figure.track("censored"), "line")
    *of_groups, _ = section(found, "groups").blocks[0].rows
    assert [line.y[-1] for line in censored] == [row[3].raw for row in of_groups]
    counted = {
        id: [row.number[-1] for row in found.figure.track(id).counts]
        for id in ("events_so_far", "censored_so_far")
    }
    assert counted["censored_so_far"] == [row[3].raw for row in of_groups]
    assert counted["events_so_far"] == [row[2].raw for row in of_groups]
    assert found.figure.track("hazard").handles[0].field == "bandwidth"
    smoother = estimate(ROWS, EstimateStatement(bandwidth=9.0))
    assert "9.0 months" in smoother.figure.track("hazard").note


def test_what_ignoring_censoring_would_have_stated_stands_beside_what_is_right():
    assert "ignoring" not in [s.id for s in estimate(ROWS, EstimateStatement()).sections]
    found = estimate(ROWS, EstimateStatement(ignoring=True, times=(10,)))
    median, free, known = section(found, "ignoring").blocks[0].rows
    data = ROWS.follow_up
    happened, beyond = data.event() & (data.exit <= 10), data.exit > 10
    assert known[2].raw == pytest.approx(beyond.sum() / (happened.sum() + beyond.sum()))
    assert known[2].raw < known[1].raw
    assert median[2].raw == pytest.approx(np.median(data.exit[data.event()]))
    assert free[2].raw == pytest.approx(1 - (data.event() & (data.exit <= 10)).mean())
    assert free[1].raw == found.curve.points[0].survival
    assert median[2].raw < median[1].raw
    assert free[2].raw > free[1].raw


def test_ignoring_censoring_is_shown_of_the_same_people_as_the_curve():
    found = estimate(ROWS, EstimateStatement(ignoring=True, times=(20,), start=10))
    median, free, known = section(found, "ignoring").blocks[0].rows
    data = ROWS.follow_up
    left = data.exit > 10
    assert median[2].raw == pytest.approx(np.median(data.exit[left & data.event()]))
    happened, beyond = data.event() & (data.exit <= 20), data.exit > 20
    assert free[2].raw == pytest.approx(1 - happened[left].mean())
    assert known[2].raw == pytest.approx(beyond.sum() / (beyond | (happened & left)).sum())
    assert free[2].raw > free[1].raw


def test_each_row_has_the_values_of_its_own_curve_at_its_own_time():
    statement = EstimateStatement(by="g")
    group, *values = curve_columns(ROWS, statement)
    curves = estimated(ROWS, statement).curves
    data = ROWS.follow_up
    for row in (0, 17, 201):
        curve = next(c for c in curves if c.label == group.cell(row))
        at = curve.estimate.at(data.exit[row])
        survival, error, hazard, at_risk, rank = (c.values[row] for c in values)
        assert survival == at.survival
        assert error == pytest.approx(at.standard_error)
        mine = [k for k in range(240) if group.cell(k) == curve.label]
        assert at_risk == sum(data.exit[k] >= data.exit[row] for k in mine)
        times = sorted({data.exit[k] for k in mine if data.status[k] == 1})
        before = [t for t in times if t <= data.exit[row]]
        steps = [
            sum(data.exit[k] == t and data.status[k] == 1 for k in mine)
            / sum(data.exit[k] >= t for k in mine)
            for t in before
        ]
        assert hazard == pytest.approx(sum(steps))
        assert rank == len(before) if data.status[row] == 1 else np.isnan(rank)
    beside = prepared_table(ROWS, curve_columns(ROWS, EstimateStatement()))
    assert beside.columns[-1].name == "rank among event times"
    assert len(beside.columns) == len(prepared_table(ROWS).columns) + 5


def test_a_column_that_is_gone_is_shown():
    found = estimate(ROWS, EstimateStatement(by="nothing"))
    assert "no column “nothing”" in found.blank
    assert "for all rows" in estimate_sentence(ROWS, EstimateStatement()).text


@pytest.mark.parametrize("kind", ["Hall–Wellner", "equal precision"])
def test_panels_readings_tables_and_workings_have_the_limits_that_were_chosen(kind):
    stated = EstimateStatement(by="h", intervals=kind, times=(5,), confidence=0.8)
    found = estimate(ROWS, stated)
    curves = estimated(ROWS, stated).curves
    bands = [simultaneous_band(c.data, c.estimate, variant(BANDS, kind), LOG_LOG) for c in curves]
    name = f"80% band ({kind})"
    timed = timed_table(found)
    assert timed.head[2] == name
    for k, (curve, band) in enumerate(zip(curves, bands)):
        place = int(np.searchsorted(band.time, 5, side="right")) - 1
        limits = [band.lower[place], band.upper[place]]
        read = found.curves[k].points[0]
        assert [read.lower, read.upper] == limits
        series = timed.series[2 * k]
        at = int(np.searchsorted(series.time, 5, side="right")) - 1
        assert [series.columns[1][at], series.columns[2][at]] == limits
        panel = found.figure.track("apart").panels[k]
        area, inside = [m for m in panel.marks if m.kind == "area"]
        pointwise = curve.estimate.lower.tolist()
        assert inside.low[1:].tolist() == pytest.approx(pointwise, nan_ok=True)
        assert area.label == f"{name} of {curve.label}"
        assert area.low[int(np.searchsorted(area.x, 5, side="right")) - 1] == limits[0]
        sheet = survival_workings(curve, 5, "months")
        assert any(line.startswith(name) for line in sheet.formula)
        lower = next(c for c in sheet.columns if c.key == "band_lower")
        assert lower.raw(sheet.marked) == limits[0]
    # Medians invert the pointwise limits, whatever is drawn.
    pointwise = estimate(ROWS, stated.model_copy(update={"intervals": "pointwise"}))
    assert [c.median for c in found.curves] == [c.median for c in pointwise.curves]
