"""Compare in full: strata, order, pairs, weights, means, chosen times, rates, margins, competing events."""

import re

import numpy as np
import pytest

from hourglass.analysis.compare.groups import comparison
from hourglass.analysis.compare.sentence import compare_sentence
from hourglass.analysis.compare.statement import CompareStatement, Margin
from hourglass.analysis.compare.tried import tried_comparison
from hourglass.analysis.compare.workings import WORKINGS
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.curve_form import USUAL
from hourglass.analysis.shared.figure.drawing import drawn
from hourglass.analysis.shared.figure.table import figure_tables
from hourglass.core.comparison.adjustments import HOLM, adjusted
from hourglass.core.comparison.log_rank import log_rank
from hourglass.core.comparison.weights import WEIGHTS
from hourglass.core.progress import no_progress
from making import all_cells, cohort, demo_cohort, marks_of, section
from stages import compare, estimate, part_of

median_ratios = part_of("compare", "medians")
other_weights = part_of("compare", "weights")
thresholds_part = part_of("compare", "threshold")


def made(n=300, seed=5, competing=False):
    random = np.random.default_rng(seed)
    g, h = random.integers(0, 3, n), random.integers(0, 2, n)
    t = np.ceil(random.exponential(20 / np.exp(0.5 * (g == 2) + 0.6 * h), n) * 2) / 2
    s = random.choice([0, 1, 1, 2] if competing else [0, 1, 1], n)
    lines = [f"{a:g},{b},{'abc'[c]},{'uv'[e]}" for a, b, c, e in zip(t, s, g, h)]
    return "t,s,g,h\n" + "\n".join(lines) + "\n"


ROWS = cohort(made())
LARKMOOR = demo_cohort("larkmoor")
TIMES = EstimateStatement(times=(6, 12))


def cells(found, id):
    return section(found, id).blocks[0].rows


def test_strata_are_added_up_and_named():
    found = compare(ROWS, CompareStatement(by="g", within=("h",)), TIMES)
    data = ROWS.follow_up
    codes = {name: np.array([ROWS.table.column(name).cell(k) for k in range(300)]) for name in "gh"}
    group = np.searchsorted(["a", "b", "c"], codes["g"])
    wanted = log_rank(data, group, 3, stratum=(codes["h"] == "v").astype(int)).test
    assert found.test.statistic == pytest.approx(wanted.statistic)
    assert "within strata of h" in found.sentence.text
    evidence = drawn(found.figure, whole=True).track("evidence")
    assert marks_of(evidence, "line")[0].y[-1] == pytest.approx(
        comparison(ROWS, CompareStatement(by="g", within=("h",)), USUAL).log_rank.excess[0]
    )
    words = " ".join(b.text for b in section(found, "test").blocks if b.kind == "words")
    assert "2 strata of h" in words
    alone = compare(ROWS, CompareStatement(by="g"), TIMES)
    assert alone.test.statistic != pytest.approx(found.test.statistic)


def test_a_row_without_a_stratum_is_left_out_and_counted():
    text = made().replace(",u\n", ",\n", 3)
    found = compare(cohort(text), CompareStatement(by="g", within=("h",)))
    assert "3 rows without a stratum left out." in [
        b.text for b in section(found, "test").blocks if b.kind == "words"
    ]


def test_the_order_of_groups_has_a_test_that_its_workings_add_up_to():
    statement = CompareStatement(by="g", ordered=True, scores=(0, 1, 5))
    found = compare(ROWS, statement)
    (row,) = next(
        b for b in section(found, "test").blocks if getattr(b, "label", "") == "Test of trend"
    ).rows
    worked = next(w for w in WORKINGS if w.key == "trend")
    sheet = worked.work(ROWS, {"compare": statement, "estimate": TIMES}, worked.about())
    product = next(c.values for c in sheet.columns if c.key == "product").sum()
    scores = np.array([0, 1, 5])
    variance = np.column_stack([c.values for c in sheet.columns if c.key.startswith("variance")])
    assert product**2 / (scores @ variance @ scores) == pytest.approx(row[1].raw)
    assert row[2].raw == 1
    usual = statement.model_copy(update={"scores": ()})
    for plain in (usual, statement.model_copy(update={"scores": (1, 2, 3)})):
        found = compare(ROWS, plain)
        tests = [b for b in section(found, "test").blocks if b.kind == "table"]
        (of_trend,) = [one for one in tests if one.label == "Test of trend"]
        assert of_trend.rows[0][1].raw == comparison(ROWS, usual, USUAL).log_rank.trend().statistic
    short = compare(ROWS, statement.model_copy(update={"scores": (1, 2)}))
    assert any("write one score" in getattr(b, "text", "") for b in section(short, "test").blocks)


@pytest.mark.parametrize(("kind", "tests"), [("all", 3), ("reference", 2)])
def test_pairs_stand_in_a_matrix_with_raw_and_adjusted_p(kind, tests):
    found = compare(ROWS, CompareStatement(by="g", pairs=kind, adjustment="Bonferroni"))
    filled = [c for row in cells(found, "pairs") for c in row[1:] if c.text]
    assert len(filled) == tests
    for cell in filled:
        raw = float(cell.below.removeprefix("raw ").replace("< ", ""))
        assert cell.raw == pytest.approx(min(1, tests * raw), abs=tests * 0.0011)
    assert section(compare(ROWS, CompareStatement(by="g")), "pairs") is None


def test_every_weight_stands_beside_the_planned_one():
    statement = CompareStatement(by="h", weight="Peto–Peto")
    found = compare(ROWS, statement)
    assert section(found, "weights").part == "weights"
    brought = other_weights(ROWS, {"compare": statement, "estimate": TIMES}, no_progress)
    rows = cells(brought, "weights")
    assert len(rows) == len(WEIGHTS)
    (planned,) = [row for row in rows if row[0].strong]
    assert planned[0].text == "Peto–Peto"
    assert planned[3].raw == found.test.p
    assert section(brought, "weights").blocks[1].rows[0][2].workings.figure == "combined"


def test_differences_means_and_rates_are_shown_against_the_reference():
    found = compare(ROWS, CompareStatement(by="h"), EstimateStatement(times=(6, 12), limit=15))
    six, twelve = cells(found, "chosen-times")
    first, second = (c.points[0].survival for c in found.curves)
    assert six[2].raw == pytest.approx(second - first)
    assert six[5].raw == pytest.approx(1 / (second - first))
    assert "for harm" in six[5].text
    assert twelve[1].raw == 12
    assert section(found, "mean").title == "Restricted mean survival time to 15 months"
    (a, b) = cells(found, "rates")
    assert b[3].raw == pytest.approx(b[2].raw / a[2].raw)
    assert a[3].text == "reference"


def test_a_group_has_its_censored_and_a_mean_its_error():
    found = compare(LARKMOOR, CompareStatement(by="drops"))
    data, column = LARKMOOR.follow_up, LARKMOOR.table.column("drops")
    for row in cells(found, "rates"):
        own = np.array([column.cell(k) == row[0].text for k in range(data.exit.size)])
        censored = int((own & (data.status == 0)).sum())
        assert row[1].raw == censored
        assert row[1].text.endswith(f"({formatting.percent(censored / own.sum())})")
    mean = section(found, "mean").blocks[0].rows[0]
    width = mean[1].limits.upper - mean[1].limits.lower
    assert mean[2].raw == pytest.approx(width / (2 * 1.959963984540054), rel=1e-9)


@pytest.mark.parametrize(
    ("size", "text"),
    [(0.6, "not worse by that margin"), (0.02, "worse by more"), (0.2, "is not shown")],
)
def test_a_margin_is_a_line_and_a_sentence(size, text):
    found = compare(ROWS, CompareStatement(by="h", margin=Margin(size=size, at=12)))
    assert text in section(found, "margin").blocks[0].text
    rules = marks_of(found.figure.track("difference"), "rule")
    assert [r.at for r in rules] == [0, -size]
    assert "not worse than" in found.sentence.text


def test_with_competing_events_both_tests_stand_side_by_side():
    rows = cohort(made(competing=True))
    found = compare(rows, CompareStatement(by="g"))
    rates, incidence = cells(found, "incidence")
    assert rates[1].raw == found.test.statistic
    assert incidence[0].text == "Gray, cumulative incidence"
    assert incidence[1].raw > 0
    assert section(found, "chosen-times") is not None
    assert len(marks_of(found.figure.track("incidence"), "line")) == 3
    assert not found.figure.track("incidence").shown
    assert section(compare(ROWS, CompareStatement(by="g")), "incidence") is None


def test_a_ratio_of_medians_has_limits_from_what_is_drawn():
    stated = {"compare": CompareStatement(by="h"), "estimate": TIMES}
    found = median_ratios(ROWS, stated, no_progress)
    ((name, ratio, limits),) = found.sections[0].blocks[0].rows
    medians = [c.median.time for c in compare(ROWS, CompareStatement(by="h")).curves]
    assert name.text == "v"
    assert ratio.raw == pytest.approx(medians[1] / medians[0])
    assert " to " in limits.text
    gone = median_ratios(ROWS, {**stated, "compare": CompareStatement(by="zz")}, no_progress)
    assert "no column" in gone.sections[0].blocks[0].text


def test_a_number_is_compared_at_thresholds_and_crossed_with_a_category():
    found = compare(ROWS, CompareStatement(by="g", crossed="h", contrast="b, u"))
    assert len(found.curves) == 6
    assert (
        comparison(ROWS, CompareStatement(by="g", crossed="h", contrast="b, u"), USUAL).contrasted
        == "b, u"
    )
    slots = {
        p.slot.id for p in compare_sentence(ROWS, CompareStatement(by="g"), USUAL).parts if p.slot
    }
    assert {"within", "ordered", "pairs", "margin", "crossed"} <= slots
    assert all(cell.text is not None for cell in all_cells(found))


def numbered(n=160, seed=9):
    random = np.random.default_rng(seed)
    x = random.normal(50, 10, n).round(1)
    t = np.ceil(random.exponential(20 / np.exp(0.8 * (x > 58)), n) * 4) / 4
    lines = [f"{a:g},{b},{c},{'uv'[d]}" for a, b, c, d in
             zip(t, random.choice([0, 1, 1], n), x, random.integers(0, 2, n))]  # fmt: skip
    return cohort("t,s,x,h\n" + "\n".join(lines) + "\n")


NUMBERED = numbered()


def test_a_stated_threshold_is_cautioned_and_set_beside_all_others():
    statement = CompareStatement(by="x", thresholds=(50,))
    found = compare(NUMBERED, statement)
    assert "threshold" in [c.key for c in found.cautions]
    _, table, note, *_ = section(found, "test").blocks
    assert table.rows[0][3].raw == found.test.p
    assert "if this threshold was stated beforehand" in note.text
    assert section(found, "threshold").part == "threshold"
    assert "threshold" not in [c.key for c in compare(NUMBERED, CompareStatement(by="x")).cautions]
    stated = {"compare": statement, "estimate": TIMES}
    ours, largest = thresholds_part(NUMBERED, stated, no_progress).sections[0].blocks[0].rows
    assert ours[2].raw == found.test.statistic
    assert largest[2].raw >= ours[2].raw
    data, x = NUMBERED.follow_up, NUMBERED.table.column("x").values
    at_best = log_rank(data, (x > largest[1].raw).astype(int), 2).test
    assert largest[2].raw == pytest.approx(at_best.statistic)
    assert at_best.p < largest[3].raw
    worked = next(w for w in WORKINGS if w.key == "thresholds")
    sheet = worked.work(NUMBERED, stated, worked.about())
    assert np.nanmax(sheet.columns[1].values) == largest[2].raw
    assert section(compare(NUMBERED, CompareStatement(by="h")), "threshold") is None


def test_a_threshold_that_is_dragged_is_tried_without_a_p_value():
    statement = CompareStatement(by="x", thresholds=(50,), within=("h",))
    stated = {"compare": statement, "estimate": TIMES}
    tried, whole = tried_comparison(NUMBERED, stated), compare(NUMBERED, statement)
    (point,) = tried.over["thresholds"]
    assert point.x.tolist() == [50]
    assert point.y.tolist() == [whole.test.statistic]
    below, above, ratio, statistic = tried.readings
    for reading, group in zip((below, above), whole.curves):
        assert reading == f"{group.label}: {group.subjects} rows, {group.events} events"
    rates = [row[3].text for row in section(whole, "rates").blocks[0].rows]
    assert rates[1].startswith(ratio.removeprefix("rate ratio "))
    assert formatting.statistic(whole.test.statistic) in statistic
    drawn = tried.model_copy(update={"note": ""})
    assert not re.search(r"\bp\b", drawn.model_dump_json())
    assert not tried_comparison(NUMBERED, {**stated, "compare": CompareStatement(by="h")}).over


def test_the_thresholds_that_were_tried_are_counted_and_a_moved_one_is_judged_by_the_maximum():
    first = screened_variables({"column": "x", "threshold": 40}, "h")
    again = screened_variables({"column": "x", "threshold": 50}, "h")
    earlier = [first.model_dump(mode="json"), {"by": "x", "thresholds": [60.0]}]
    assert first.informed_by([]).tried_of("x") == 1
    assert again.informed_by(earlier).tried_of("x") == 3
    assert again.informed_by([again.model_dump(mode="json")]).tried_of("x") == 1
    moved = compare(NUMBERED, again.informed_by(earlier))
    cells = {row[0].text: row for row in section(moved, "screening").blocks[0].rows}
    alone = {"compare": CompareStatement(by="x", thresholds=(50,)), "estimate": TIMES}
    _, largest = thresholds_part(NUMBERED, alone, no_progress).sections[0].blocks[0].rows
    own = compare(NUMBERED, alone["compare"]).test.p
    assert cells["x"][4].raw == pytest.approx(own)
    assert "stated beforehand" in cells["x"][0].below
    assert formatting.p_phrase(largest[3].raw) in cells["x"][4].below
    both = adjusted([largest[3].raw, cells["h"][4].raw], HOLM)
    assert [cells["x"][5].raw, cells["h"][5].raw] == pytest.approx(both)
    words = " ".join(b.text for b in section(moved, "screening").blocks if b.kind == "words")
    assert "x at 3 thresholds" in words
    still = compare(NUMBERED, first.informed_by([]))
    assert not any(row[4].below for row in section(still, "screening").blocks[0].rows)


def test_the_profile_of_thresholds_is_a_track_over_the_number_with_the_one_in_the_sentence():
    found = compare(NUMBERED, CompareStatement(by="x", thresholds=(50,)))
    track = found.figure.track("thresholds")
    assert track.shown
    assert "x" in track.across.label
    (line,), (best,) = marks_of(track, "line"), marks_of(track, "points")
    stated = {"compare": CompareStatement(by="x"), "estimate": TIMES}
    worked = next(w for w in WORKINGS if w.key == "thresholds")
    sheet = worked.work(NUMBERED, stated, worked.about())
    there = np.isfinite(sheet.columns[1].values)
    assert line.x.tolist() == sheet.columns[0].values[there].tolist()
    assert line.y.tolist() == sheet.columns[1].values[there].tolist()
    assert best.y[0] == line.y.max()
    (handle,) = track.handles
    assert (handle.at, handle.field, handle.decimals) == (50, "thresholds.0", 1)
    assert track.across.low < line.x[0] <= line.x[-1] < track.across.high
    tables = figure_tables(found.figure, ["thresholds"])
    assert tables[0].rows(0, 2) == [[line.x[k], line.y[k]] for k in (0, 1)]
    for none in (CompareStatement(by="h"), CompareStatement(by="x", thresholds=(40, 60))):
        assert compare(NUMBERED, none).figure.track("thresholds") is None


def test_each_variable_in_turn_is_ordered_by_evidence_with_adjusted_p():
    found = compare(NUMBERED, CompareStatement(each=True, adjustment="Bonferroni"))
    rows = cells(found, "screening")
    assert [row[0].text for row in rows] == ["x", "h"]
    raw = [row[4].raw for row in rows]
    assert raw == sorted(raw)
    assert [row[5].raw for row in rows] == pytest.approx([min(1, 2 * p) for p in raw])
    assert rows[0][3].raw == 2
    (track,) = found.figure.tracks
    assert [p.title.split(",")[0] for p in track.panels] == ["x", "h"]
    assert len(marks_of(track, "line")) == 0
    assert "each variable in turn" in found.sentence.text
    first = section(found, "screening-actions").blocks[0]
    assert CompareStatement.read(first.statement).by == "x"
    assert first.sentence == f"x: {formatting.p_phrase(rows[0][5].raw)} adjusted"
    assert "screen" in [c.key for c in found.cautions]
    nothing = compare(cohort("t,s\n1,1\n2,0\n"), CompareStatement(each=True))
    assert "no variable" in nothing.blank


def screened_variables(*variables, **more):
    stated = [v if isinstance(v, dict) else {"column": v} for v in variables]
    return CompareStatement.model_validate({"each": True, "variables": stated, **more})


def test_each_variable_is_tested_as_it_is_stated_within_strata_and_in_order():
    larkmoor = demo_cohort("larkmoor")
    age = {"column": "age", "threshold": 60}
    found = compare(
        larkmoor,
        screened_variables("vessels", age, {"column": "donor_cells", "split": "quarters"},
                           within=("centre",), order="name"),
    )  # fmt: skip
    rows = {row[0].text: row for row in cells(found, "screening")}
    assert list(rows) == ["age", "donor_cells", "vessels"]
    alone = {
        "age": CompareStatement(by="age", thresholds=(60,), within=("centre",)),
        "vessels": CompareStatement(by="vessels", within=("centre",)),
    }
    for name, statement in alone.items():
        assert rows[name][2].raw == compare(larkmoor, statement).test.statistic
    assert rows["donor_cells"][3].raw == 3
    text = found.sentence.text
    assert "turn: vessels, age and donor_cells, with age at 60 and donor_cells in quarters" in text
    assert "within strata of centre" in text
    assert "ordered by name" in text
    assert "3 variables were tested" in section(found, "screening").blocks[1].text


def test_what_numbers_the_rows_is_no_candidate_and_the_rest_is():
    lines = "".join(
        f"{k % 9 + 1},{k % 2},{1000 + 3 * k},{k % 7 / 2},{'ab'[k % 2]}\n" for k in range(40)
    )
    numbered_rows = cohort(f"t,s,tag,x,h\n{lines}")
    found = compare(numbered_rows, CompareStatement(each=True))
    assert {row[0].text for row in cells(found, "screening")} == {"x", "h"}
    (slot,) = (p.slot for p in found.sentence.parts if p.slot and p.slot.id == "variables")
    assert slot.label == "all 2 variables"
    out = next(o for o in slot.options if o.label == "h")
    less = compare(numbered_rows, CompareStatement(each=True, variables=out.value))
    assert [row[0].text for row in cells(less, "screening")] == ["x"]


def test_a_threshold_is_typed_for_the_variable_that_it_stands_beside():
    larkmoor = demo_cohort("larkmoor")

    def entries(statement):
        slots = (part.slot for part in compare(larkmoor, statement).sentence.parts if part.slot)
        return {s.title: s.entry and s.entry.field for s in slots if s.id.startswith("split")}

    gone = screened_variables("gone", "age", "donor_cells")
    assert entries(gone) == {
        "How age is split": "variables.1.threshold",
        "How donor_cells is split": "variables.2.threshold",
    }
    assert set(entries(CompareStatement(each=True)).values()) == {None}, "no variable is named yet"
    parts = compare(larkmoor, gone).sentence.parts
    (slot,) = (p.slot for p in parts if p.slot and p.slot.id == "variables")
    every = CompareStatement(each=True, variables=slot.options[0].value)
    assert set(entries(every)) == set(entries(gone))
    assert None not in entries(every).values()


def test_the_statistic_of_a_screened_variable_opens_its_sums():
    median, as_it_is = ({"column": "x", "split": split} for split in ("median", "as it is"))
    statement = screened_variables(median)
    ((row,),) = (cells(compare(NUMBERED, one), "screening") for one in (statement,))
    (figure,) = (one for one in WORKINGS if one.key == row[2].workings.figure)
    about = figure.about.model_validate(row[2].workings.about)
    sheet = figure.work(NUMBERED, {"compare": statement, "estimate": TIMES}, about)
    assert formatting.statistic(row[2].raw) in sheet.title
    terms = {c.key: np.asarray(c.values) for c in sheet.columns}
    above = "x above the median"
    assert sum(terms[f"events, {above}"]) + sum(terms["events, x up to the median"]) == sum(
        terms["events"]
    )
    u = (terms[f"events, {above}"] - terms[f"expected, {above}"]).sum()
    assert u**2 / terms[f"variance, {above}"].sum() == pytest.approx(row[2].raw, rel=1e-9)
    ((other,),) = (cells(compare(NUMBERED, screened_variables(as_it_is)), "screening"),)
    assert other[2].workings is None


def opened(result):
    """The label of each row with the groups whose workings it opens."""
    tables = [b for s in result.sections for b in s.blocks if b.kind == "table"]
    return [
        (row[0].text, cell.workings.about["group"])
        for table in tables
        for row in table.rows
        for cell in row
        if cell.workings is not None and "group" in cell.workings.about
    ]


@pytest.mark.parametrize("reference", ["standard", "extended"])
def test_numbers_and_workings_go_by_the_group_and_not_by_its_tone(reference):
    found = compare(LARKMOOR, CompareStatement(by="drops", reference=reference))
    labels = [group.label for group in found.groups]
    assert labels[0] == reference
    table = next(
        b
        for s in found.sections
        for b in s.blocks
        if b.kind == "table" and b.label == "Observed and expected events"
    )
    observed = {row[0].text: row[1].raw for row in table.rows if row[0].text in labels}
    assert observed == {"standard": 146, "extended": 124}
    shown = opened(found)
    assert {label for label, _ in shown} >= {*labels}
    assert all(labels[place] == label for label, place in shown if label in labels)
    read = estimate(LARKMOOR, EstimateStatement(by="drops", reference=reference))
    own = [curve.label for curve in read.curves]
    assert own[0] == reference
    assert all(own[place] == label for label, place in opened(read) if label in own)
