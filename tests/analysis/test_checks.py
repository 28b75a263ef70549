"""Every question of Check: what it shows, its verdict, its remedies, and its workings redone by hand."""

import math

import numpy as np
import pytest

from hourglass.analysis.check.calibration_workings import TENTH_OF_CALIBRATION
from hourglass.analysis.check.courses import course_times
from hourglass.analysis.check.mean_at_risk import mean_workings
from hourglass.analysis.check.proportionality_workings import scaled_workings, test_workings
from hourglass.analysis.check.row_sheet import rows_sheet
from hourglass.analysis.check.row_values import model_columns
from hourglass.analysis.check.row_workings import row_workings, under_check
from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.check.weighed import WEIGHED
from hourglass.analysis.check.workings import WORKINGS
from hourglass.analysis.model.fitting import fit_model
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.model.terms.category import CategoryTerm
from hourglass.analysis.model.terms.changing import Periods
from hourglass.analysis.model.terms.curve import SplineTerm
from hourglass.analysis.model.terms.number import NumberTerm
from hourglass.analysis.shared.workings import NoWorkingsError
from hourglass.core.errors import NotEstimableError
from hourglass.core.progress import no_progress
from hourglass.core.regression.added import beside_the_model
from hourglass.core.regression.proportionality import event_residuals, proportionality_test
from hourglass.core.regression.residuals import at_estimate, by_subject, changes_without
from hourglass.core.regression.terms import cubic_columns, sample_knots
from hourglass.core.regression.time_functions import TIME_FUNCTIONS
from hourglass.core.variants import variant
from making import STUDY, cohort, demo_cohort, marks_of
from stages import check, model, part_of

with_optimism = part_of("check", "optimism")

test_workings.__test__ = False
LARKMOOR = demo_cohort("larkmoor")
TERMS = (
    CategoryTerm(column="drops"),
    CategoryTerm(column="vessels"),
    NumberTerm(column="age", unit=10),
)
STATED = ModelStatement(terms=TERMS)


def shown(question, stated=STATED, rows=LARKMOOR, **more):
    return check(rows, stated, CheckStatement(question=question, **more))


def actions(found):
    return [b for s in found.sections for b in s.blocks if b.kind == "action"]


def of_lines(sheet):
    """The columns of workings by their keys, as a spreadsheet has them."""
    keys, *rows = sheet.lines()
    return {
        key: np.array(column, dtype=float) for key, column in zip(keys, zip(*rows), strict=True)
    }


@pytest.mark.parametrize("question", WEIGHED)
def test_each_question_is_one_of_a_line_with_every_verdict(question):
    found = shown(question)
    assert [q.key for q in found.questions] == list(WEIGHED)
    chosen = [q for c, q in zip(found.choices.items, found.questions, strict=True) if c.chosen]
    assert [q.key for q in chosen] == [question]
    assert [q.verdict for q in found.questions] == [c.verdict for c in found.choices.items]
    assert all(q.words for q in found.questions)
    for choice, of in zip(found.choices.items, found.questions, strict=True):
        assert choice.words.lower() == of.name
        if not choice.chosen:
            assert CheckStatement.read(choice.opens.statement).question == of.key
    assert found.figure.tracks
    assert found.verdict == "fails", "the most serious of all, whichever is shown"


def test_rows_it_misses_are_drawn_named_and_can_be_left_out():
    found = shown("outliers")
    (dots,) = marks_of(found.figure.tracks[0], "points")
    fitted = fit_model(LARKMOOR, STATED.hazards_model)
    coded = fitted.design
    deviance = by_subject(coded.data, at_estimate(coded.data, coded.x, fitted.fit)).deviance
    assert dots.y == pytest.approx(deviance, rel=1e-12)
    assert dots.rows == coded.numbers.tolist()
    table = found.sections[0].blocks[0]
    farthest = int(coded.numbers[np.argmax(np.abs(deviance))])
    assert table.rows[0][0].raw == farthest
    assert table.rows[0][0].workings.about == {"row": farthest}
    offer = actions(found)[0]
    left = ModelStatement.read(offer.statement)
    assert left.left_out == (farthest,)
    assert [k.letter for k in left.kept] == ["A", "B"]
    assert left.beside == "A"
    assert model(LARKMOOR, left).rows == 599


def test_who_carries_the_result_by_row_and_by_centre():
    found = shown("influence")
    fitted = fit_model(LARKMOOR, STATED.hazards_model)
    coded = fitted.design
    changes = changes_without(coded.data, at_estimate(coded.data, coded.x, fitted.fit))
    errors = changes / fitted.fit.standard_error
    for k, track in enumerate(found.figure.tracks):
        (dots,) = marks_of(track, "points")
        assert dots.y == pytest.approx(-errors[:, k], rel=1e-9)
    largest = float(np.abs(errors).max())
    assert f"{largest:.2f}" in found.questions[3].words
    centres = shown("influence", together="centre")
    (dots,) = marks_of(centres.figure.tracks[0], "points")
    column = LARKMOOR.table.column("centre")
    cells = np.array([column.cell(k) for k in range(LARKMOOR.table.size)])
    labels = centres.figure.tracks[0].across.categories
    sums = [errors[cells == label, 0].sum() for label in labels]
    assert dots.y == pytest.approx(-np.array(sums), rel=1e-9)
    (offer,) = actions(centres)
    rows = ModelStatement.read(offer.statement).left_out
    numbers = LARKMOOR.table.numbers.tolist()
    assert len({cells[numbers.index(n)] for n in rows}) == 1
    assert len(rows) == int((cells == cells[numbers.index(rows[0])]).sum())


def test_the_scale_of_a_number_is_tested_against_a_spline_and_drawn_without_it():
    found = shown("functional form", variable="age")
    coded = fit_model(LARKMOOR, STATED.hazards_model).design
    age = LARKMOOR.table.column("age").values
    knots = sample_knots(age, LARKMOOR.follow_up.count, 3)
    fitted = fit_model(LARKMOOR, STATED.hazards_model).fit
    bend = cubic_columns(age, knots)[:, 1:]
    (direct,) = beside_the_model(coded.data, coded.x, fitted, bend)
    line = found.sections[0].blocks[0].rows[0]
    assert (line[1].raw, line[2].raw) == (pytest.approx(direct.statistic, rel=1e-9), 1)
    residuals, curve = found.figure.tracks
    rest = fit_model(LARKMOOR, ModelStatement(terms=TERMS[:2]).hazards_model)
    coded = rest.design
    martingale = by_subject(coded.data, at_estimate(coded.data, coded.x, rest.fit)).martingale
    assert marks_of(residuals, "points")[0].y == pytest.approx(martingale, rel=1e-9)
    slope = fit_model(LARKMOOR, STATED.hazards_model).fit.beta[3]
    ghost = marks_of(curve, "line")[1]
    assert ghost.y[-1] == pytest.approx(math.exp(slope * (ghost.x[-1] - 62)), rel=1e-9)
    tried = ModelStatement.read(actions(found)[0].statement)
    assert isinstance(tried.terms[2], SplineTerm)
    cells = shown("functional form", variable="donor_cells")
    assert cells.figure.tracks[0].subtitle == "of the model, which it is not in"


def test_fit_and_ranking_show_the_diagonal_concordance_and_calibration():
    found = shown("overall fit", time=24)
    snell, calibrated = found.figure.tracks
    hazard = marks_of(snell, "line")[1]
    assert abs(hazard.y[len(hazard.y) // 2] - hazard.x[len(hazard.x) // 2]) < 0.1
    (tenths,) = marks_of(calibrated, "points")
    assert len(tenths.x) == 10
    assert (np.diff(tenths.x) > 0).all()
    assert "at 24 months" in found.sentence.text
    part = with_optimism(
        LARKMOOR, {**STUDY, "model": STATED, "check": CheckStatement()}, no_progress
    )
    assert part.corrected < part.apparent
    assert f"{part.apparent:.3f}" in found.questions[4].words


def test_a_tenth_of_calibration_is_redone_from_its_sheet():
    stated = {**STUDY, "model": STATED, "check": CheckStatement(question="overall fit", time=24)}
    (tenths,) = marks_of(shown("overall fit", time=24).figure.tracks[1], "points")
    everybody = set()
    for k in tenths.rows:
        about = TENTH_OF_CALIBRATION.about(row=k)
        terms = of_lines(TENTH_OF_CALIBRATION.work(LARKMOOR, stated, about))
        everybody |= set(terms["row"])
        assert terms["predicted"].mean() == pytest.approx(tenths.x[k - 1], rel=1e-12)
        left = 1.0
        for t in np.unique(terms["time"][(terms["event"] > 0) & (terms["time"] <= 24)]):
            died = (terms["event"] > 0) & (terms["time"] == t)
            left *= 1 - died.sum() / ((terms["time"] >= t) & (terms["entry"] < t)).sum()
        assert left == pytest.approx(tenths.y[k - 1], rel=1e-12)
    assert len(everybody) == fit_model(LARKMOOR, STATED).design.data.size
    with pytest.raises(NoWorkingsError, match="there are 10 deciles"):
        TENTH_OF_CALIBRATION.work(LARKMOOR, stated, TENTH_OF_CALIBRATION.about(row=11))


def test_how_far_a_ratio_moves_stands_beside_its_p():
    found = shown("proportional hazards")
    words = {t.name: t.words for t in found.terms}
    assert words["vessels"].startswith("fails, fades; ")
    assert words["vessels"].endswith(" late")
    few = cohort("t,s,x\n" + "".join(f"{k},{k % 2},{k * 7 % 5}\n" for k in range(1, 31)))
    stated = ModelStatement(terms=(NumberTerm(column="x"),))
    assert "15 events seldom show a change" in check(few, stated, CheckStatement()).terms[0].words


def test_the_course_of_a_ratio_goes_by_time_where_strata_have_event_times_of_their_own():
    stated = ModelStatement(terms=TERMS[1:], strata=("drops",))
    fitted = fit_model(LARKMOOR, stated)
    data, x = fitted.design.data, fitted.design.x
    residuals = event_residuals(data, x, fitted.plain)
    tested = proportionality_test(data, x, fitted.plain, variant(TIME_FUNCTIONS, "time"))
    assert (np.diff(tested.time) < 0).any()
    times = course_times(residuals, tested)
    assert (np.diff(times.time) > 0).all()
    # What is a straight line over time must come out as that line.
    smooth = times.smoother.smooth(2 * residuals.time - 1, 1.0)
    assert smooth.y == pytest.approx(2 * times.time - 1, rel=1e-9)


def test_a_row_is_worked_out_to_its_residuals():
    under = under_check(LARKMOOR, {**STUDY, "model": STATED, "check": CheckStatement()})
    for row in (1, 223, 400):
        sheet = row_workings(under, row)
        terms = of_lines(sheet)
        at = int(np.flatnonzero(under.row == row)[0])
        assert terms["score"] == pytest.approx(np.exp(terms["linear"]), rel=1e-12)
        assert terms["expected"].sum() == pytest.approx(under.by_subject.expected[at], rel=1e-9)
        martingale = under.by_subject.events[at] - terms["expected"].sum()
        assert f"{martingale:.6g}".replace("-", "−")[:6] in sheet.formula[4]
    with pytest.raises(NoWorkingsError):
        row_workings(under, 10_000)


def test_the_test_over_time_is_redone_from_its_sheets():
    under = under_check(LARKMOOR, {**STUDY, "model": STATED, "check": CheckStatement()})
    found = shown("proportional hazards")
    covariance = under.fitted.fit.covariance
    for column in range(4):
        terms = of_lines(test_workings(under, column))
        beside = np.array([terms[f"information_{k + 1}"] for k in range(4)])
        u = (terms["g"] * terms["score"]).sum()
        along = beside @ terms["g"]
        theta = (terms["g"] ** 2 * beside[column]).sum()
        statistic = u**2 / (theta - along @ covariance @ along)
        assert beside.sum(axis=1) == pytest.approx(np.linalg.inv(covariance)[column], rel=1e-9)
        if column in (0, 3):  # terms of one column each
            name = "drops" if column == 0 else "age per 10"
            text = next(t.test.statistic for t in found.terms if t.label == name)
            assert statistic == pytest.approx(text, rel=1e-9)
    ratios = next(s for s in found.sections if s.id == "ratios").blocks[0].rows
    assert [r[1].workings.about["column"] for r in ratios] == [0, 1, 2, 3]
    row = int(under.row[np.flatnonzero(under.by_subject.events)[0]])
    sheet = scaled_workings(under, row, 0)
    terms = of_lines(sheet)
    scaled = under.fitted.fit.beta[0] + 270 * terms["product"].sum()
    (dots,) = marks_of(found.figure.tracks[0], "points")
    if row in dots.rows:
        assert dots.y[dots.rows.index(row)] == pytest.approx(math.exp(scaled), rel=1e-9)
    assert f"{scaled:.7g}".replace("-", "−") in sheet.title
    place = int(np.flatnonzero(under.row == row)[0])
    for column, (_, opens) in enumerate(sheet.more):
        assert opens.about == {"row": row, "column": column}
        mean = under.fitted.design.x[place, column] - terms["residual"][column]
        at_risk = mean_workings(under, row, column)
        assert f"{mean:.7g}" in at_risk.title
        lines = of_lines(at_risk)
        tied, d = lines["event"] == 1, int(lines["event"].sum())
        factors = [
            [(lines[name] * (1 - k / d * tied)).sum() for name in ("product", "score")]
            for k in range(d)
        ]
        assert np.mean([a / b for a, b in factors]) == pytest.approx(mean, rel=1e-9)
        assert lines["time"].min() == LARKMOOR.follow_up.exit[under.place[place]]
    behind = next(one for one in WORKINGS if one.key == "subjects")
    about = behind.about(t=float(lines["time"].min()))
    stated = {**STUDY, "model": STATED, "check": CheckStatement()}
    rows = behind.work(LARKMOOR, stated, about).columns[0].values
    assert sorted(rows) == sorted(lines["row"]), "those at risk, and nobody else"


def test_a_penalised_model_and_exact_ties_have_no_residuals_and_state_so():
    text = [
        shown("outliers", STATED.model_copy(update=change)).blank
        for change in ({"penalised": True}, {"ties": "exact"})
    ]
    assert "without penalty" in text[0]
    assert "exact ties" in text[1]


def test_any_residual_is_drawn_against_any_number():
    found = shown("outliers", residual="martingale", against="donor_cells")
    (dots,) = marks_of(found.figure.tracks[0], "points")
    under = under_check(LARKMOOR, {**STUDY, "model": STATED, "check": CheckStatement()})
    cells = LARKMOOR.table.column("donor_cells").values[under.place]
    known = np.isfinite(cells)
    assert (dots.x == cells[known]).all()
    assert dots.y == pytest.approx(under.by_subject.martingale[known], rel=1e-12)
    assert "by martingale residuals against donor_cells" in found.sentence.text


def test_every_row_has_its_values_beside_it_also_where_rows_are_parted():
    columns = {c.name: c.values for c in model_columns(LARKMOOR, STATED)}
    under = under_check(LARKMOOR, {**STUDY, "model": STATED, "check": CheckStatement()})
    assert columns["deviance residual"] == pytest.approx(under.by_subject.deviance, rel=1e-12)
    event = LARKMOOR.follow_up.event()
    assert np.isfinite(columns["Schoenfeld residual of age"])[event].all()
    assert np.isnan(columns["scaled Schoenfeld residual of age"])[~event].all()
    assert columns["score residual of age"].sum() == pytest.approx(0, abs=1e-8)
    periods = NumberTerm(column="donor_cells", unit=100, changing=Periods(ends=(24,)))
    parted = {c.name: c.values for c in model_columns(LARKMOOR, ModelStatement(terms=(periods,)))}
    missing = LARKMOOR.table.column("donor_cells").missing
    assert (np.isnan(parted["martingale residual"]) == missing).all()
    assert np.nansum(parted["martingale residual"]) == pytest.approx(0, abs=1e-8)
    with pytest.raises(NotEstimableError):
        model_columns(LARKMOOR, ModelStatement())


def test_every_value_of_every_row_is_a_sheet_that_is_sorted():
    sheet = rows_sheet(LARKMOOR, STATED)
    keys = next(iter(sheet.lines()))
    worst = sheet.sorted(keys.index("deviance_residual"), descending=True)
    first = worst.page().rows[0]
    assert (first[0].raw, first[0].workings.about) == (223, {"row": 223})
    assert len(set(keys)) == len(keys)
    assert any(s.id == "values" for s in shown("overall fit").sections)


def test_a_model_is_kept_in_spite_of_a_doubt_with_a_reason():
    keep = actions(shown("functional form"))[-1]
    assert (keep.do, keep.about) == ("decide", "doubt: functional form")
    assert "age as a curve: p" in keep.sentence
    assert not any(a.do == "decide" for a in actions(shown("influence")))


def test_a_tenth_that_all_had_the_event_is_drawn_without_an_interval():
    rng = np.random.default_rng(1)
    x = np.repeat(np.arange(10), 12)
    t = np.round(rng.exponential(30 * np.exp(0.6 * x)), 2) + 0.01
    lines = [f"{a},1,{b}\n" for a, b in zip(t, x, strict=True)]
    rows = cohort("t,s,x\n" + "".join(lines))
    stated = ModelStatement(terms=(NumberTerm(column="x"),))
    last = float(t[x == 0].max())
    track = shown("overall fit", stated, rows, time=last).figure.track("calibration")
    (bars,), (tenths,) = marks_of(track, "bars"), marks_of(track, "points")
    nobody_left = {x for x, y in zip(tenths.x, tenths.y, strict=True) if y == 0}
    assert nobody_left
    assert set(bars.at) == set(tenths.x) - nobody_left
    assert np.isfinite([*bars.low, *bars.high]).all()
