"""Every form of a term, and every way of fitting: what is shown equals a direct call of the core."""

import math

import numpy as np
import pytest

from hourglass.analysis.check.row_values import model_columns
from hourglass.analysis.model.fitting import fit_model, fit_parted
from hourglass.analysis.model.statement import ByColumn, BySubject, ModelStatement
from hourglass.analysis.model.terms.category import CategoryTerm, TrendTerm
from hourglass.analysis.model.terms.changing import AlongFunction, Periods
from hourglass.analysis.model.terms.curve import PolynomialTerm, SplineTerm
from hourglass.analysis.model.terms.number import NumberTerm
from hourglass.analysis.model.terms.product import ProductTerm
from hourglass.analysis.model.workings import hazard_ratio_workings
from hourglass.core.regression.firth import fit_penalised
from hourglass.core.regression.fit import fit
from hourglass.core.regression.profile import profile_interval
from hourglass.core.regression.robust import robust_covariance
from hourglass.core.regression.terms import cubic_columns
from hourglass.core.regression.ties import BRESLOW
from hourglass.core.regression.time_functions import LogTime
from hourglass.core.sample_quantiles import sample_quantiles
from making import cohort, demo_cohort, marks_of
from stages import model

LARKMOOR = demo_cohort("larkmoor")
DROPS, VESSELS = CategoryTerm(column="drops"), CategoryTerm(column="vessels")
AGE, CELLS = NumberTerm(column="age", unit=10), NumberTerm(column="donor_cells", unit=100)


def result_of(*terms, **more):
    return model(LARKMOOR, ModelStatement(terms=terms, **more))


def ratios(found, term):
    return {f"{c.label}|{c.against}": c.adjusted for c in found.terms[term].coefficients}


def test_a_product_shows_the_ratio_that_another_reference_would_make_the_main_one():
    found = result_of(DROPS, VESSELS, ProductTerm(column="drops", partner="vessels"))
    for level in ("none", "1-2 quadrants", "3-4 quadrants"):
        other = result_of(
            DROPS,
            CategoryTerm(column="vessels", reference=level),
            ProductTerm(column="drops", partner="vessels"),
        )
        (main,) = other.terms[0].coefficients
        (within,) = [c for c in found.terms[2].coefficients if level in c.label]
        assert within.adjusted.ratio == pytest.approx(main.adjusted.ratio, rel=1e-9)
        assert within.adjusted.lower == pytest.approx(main.adjusted.lower, rel=1e-9)
        assert f"within vessels {level}" in within.label
    # The main ratio holds at the partner's reference alone, and states it.
    assert "within vessels none" in found.terms[0].coefficients[0].label
    assert found.words[0].startswith(
        "At any moment, within vessels none, the rate of rejection was"
    )


def test_a_number_in_a_product_is_held_at_its_quartiles():
    found = result_of(DROPS, AGE, ProductTerm(column="drops", partner="age"))
    rows = ratios(found, 2)
    fitted = fit_model(
        LARKMOOR, ModelStatement(terms=(DROPS, AGE, ProductTerm(column="drops", partner="age")))
    )
    beta = fitted.fit.beta
    for label, reading in rows.items():
        value = float(label.split("age ")[1].split("|")[0])
        assert reading.beta == pytest.approx(beta[0] + beta[2] * value, rel=1e-9)
    assert len(rows) == 3


def test_a_spline_shows_one_value_against_another_and_draws_its_whole_course():
    found = result_of(SplineTerm(column="donor_cells", knots=4, reference=2000), DROPS)
    fitted = fit_model(LARKMOOR, ModelStatement(terms=(SplineTerm(column="donor_cells"), DROPS)))
    knots = np.array(fitted.design.blocks[0].knots)
    away = np.subtract(*cubic_columns(np.array([2690.0, 2000.0]), knots))
    beta, own = fitted.fit.beta[:3], fitted.fit.covariance[:3, :3]
    reading = ratios(found, 0)["2690|2000"]
    assert reading.ratio == pytest.approx(math.exp(away @ beta), rel=1e-9)
    assert reading.standard_error == pytest.approx(math.sqrt(away @ own @ away), rel=1e-9)
    track = found.figure.track("curve-donor_cells")
    (line,), (ring,) = marks_of(track, "line"), marks_of(track, "points")
    at = int(np.flatnonzero(line.x == 2000)[0])
    assert line.y[at] == 1
    assert (ring.x.tolist(), ring.y.tolist()) == ([2000], [1])


def test_periods_have_a_ratio_each_and_a_function_of_time_is_shown_at_two_times():
    periods = result_of(CategoryTerm(column="vessels", changing=Periods(ends=(24,))), DROPS)
    fitted = fit_model(LARKMOOR, ModelStatement(terms=(VESSELS, DROPS)))
    labels = [c.label for c in periods.terms[0].coefficients]
    assert labels == [
        f"{level}, {when}"
        for level in ("1-2 quadrants", "3-4 quadrants")
        for when in ("until 24 months", "after 24 months")
    ]
    assert periods.words[0].startswith("Until 24 months, the rate of rejection was ")
    assert "vessels 1-2 quadrants against none after 24 months" in periods.words[1]
    assert periods.rows == fitted.fit.size, "rows are counted once, however they are parted"
    along = NumberTerm(column="age", unit=10, changing=AlongFunction(function="log time"))
    moving = fit_model(LARKMOOR, ModelStatement(terms=(along,)))
    made = moving.design.over_time
    own = moving.design.data
    quartiles = sample_quantiles(
        own.exit[own.event()], own.count[own.event()], np.array([0.25, 0.75])
    )
    readings = result_of(along).terms[0].coefficients
    times = [float(reading.label.split()[1]) for reading in readings]
    assert times == pytest.approx(quartiles, abs=0.05)
    for reading, t in zip(readings, quartiles):
        g = float(made.at(np.array([t]))[0, 1])
        expected = 10 * (moving.fit.beta[0] + g * moving.fit.beta[1])
        assert reading.adjusted.beta == pytest.approx(expected, rel=1e-9)


def test_along_a_function_of_time_rows_stay_whole_and_show_what_their_pieces_show():
    along = NumberTerm(column="age", changing=AlongFunction(function="time"))
    stated = ModelStatement(terms=(along, VESSELS, DROPS), strata=("centre",))
    whole = fit_model(LARKMOOR, stated)
    parted = fit_parted(LARKMOOR, stated)
    assert whole.design.whole
    assert whole.design.data.exit.size < parted.design.data.exit.size / 20
    robust = fit_model(LARKMOOR, stated.model_copy(update={"robust": BySubject()}))
    assert robust.fit.beta == pytest.approx(whole.fit.beta, rel=1e-9)
    one, other = whole.concordance(), parted.concordance()
    assert one.pairs == other.pairs
    assert one.value == pytest.approx(other.value, rel=1e-12)
    for name in ("contribution", "variance"):
        first, second = (getattr(f.proportionality(LogTime()), name) for f in (whole, parted))
        assert first == pytest.approx(second, rel=1e-7)
    curves, others = whole.baselines(), parted.baselines()
    assert curves.keys() == others.keys()
    for code, curve in curves.items():
        x = whole.design.over_time.profile(whole.design.x[3], curve.time)
        assert curve.survival(x).lower == pytest.approx(others[code].survival(x).lower, rel=1e-9)
    # Terms alone are terms of their own: those that stay are fitted as such.
    steady = whole.design.with_columns(whole.design.of_term(1))
    assert (steady.whole, steady.over_time, steady.x.shape[1]) == (False, None, 2)
    alone = result_of(along, VESSELS, DROPS, strata=("centre",)).terms[1].coefficients[0].alone
    direct = result_of(VESSELS, strata=("centre",)).terms[0].coefficients[0].adjusted
    assert alone.beta == pytest.approx(direct.beta, rel=1e-9)


def test_levels_in_order_take_a_step_or_the_scores_that_are_stated():
    step, scored = (
        result_of(TrendTerm(column="vessels")),
        result_of(TrendTerm(column="vessels", scores=(0, 2, 4))),
    )
    one, other = (f.terms[0].coefficients[0].adjusted for f in (step, scored))
    assert other.beta == pytest.approx(one.beta / 2, rel=1e-9)
    assert "3 levels" in result_of(TrendTerm(column="vessels", scores=(1, 2))).blank


def test_strata_ties_errors_and_intervals_are_those_of_the_core():
    fitted = fit_model(
        LARKMOOR, ModelStatement(terms=(DROPS, AGE), strata=("centre",), ties="Breslow")
    )
    coded = fitted.design
    direct = fit(coded.data, coded.x, ties=BRESLOW, stratum=coded.stratum)
    assert (fitted.fit.beta == direct.beta).all()
    assert len(np.unique(coded.stratum)) == len(coded.strata) == 5

    robust = fit_model(LARKMOOR, ModelStatement(terms=(DROPS,), robust=ByColumn(column="centre")))
    _, cluster = np.unique(
        [LARKMOOR.table.column("centre").cell(k) for k in range(LARKMOOR.table.size)],
        return_inverse=True,
    )
    plain = fit(robust.design.data, robust.design.x)
    expected = robust_covariance(robust.design.data, robust.design.x, plain, cluster)
    assert robust.fit.standard_error[0] == pytest.approx(math.sqrt(expected[0, 0]), rel=1e-12)

    profile = result_of(DROPS, intervals="profile").terms[0].coefficients[0].adjusted
    only = fit_model(LARKMOOR, ModelStatement(terms=(DROPS,)))
    limits = profile_interval(only.design.data, only.design.x, only.fit, 0)
    assert (profile.lower, profile.upper) == pytest.approx(tuple(np.exp(limits)), rel=1e-12)


def test_a_penalty_makes_finite_what_runs_away_and_has_no_criteria():
    rows = cohort(
        "t,s,g\n" + "".join(f"{k},{int(k < 6)},{'ab'[int(k < 6)]}\n" for k in range(1, 13))
    )
    stated = ModelStatement(terms=(CategoryTerm(column="g", reference="a"),))
    away = model(rows, stated).terms[0].coefficients[0].adjusted
    assert (away.status, away.ratio, away.upper) == ("to +infinity", None, None)
    found = model(rows, stated.model_copy(update={"penalised": True}))
    reading = found.terms[0].coefficients[0].adjusted
    coded = fit_model(rows, stated).design
    direct = fit_penalised(coded.data, coded.x)
    assert reading.beta == pytest.approx(float(direct.beta[0]), rel=1e-12)
    assert reading.p == pytest.approx(direct.likelihood_ratio.p, rel=1e-9)
    assert (found.aic, found.bic) == (None, None)
    both = stated.model_copy(update={"penalised": True, "robust": BySubject()})
    assert "robust errors are not known" in model(rows, both).blank


def test_a_competing_event_takes_the_place_of_the_event():
    (code,) = LARKMOOR.competing
    found = result_of(DROPS, cause=code)
    other = LARKMOOR.follow_up.of_cause(2)
    assert found.events == int(other.count[other.event()].sum())
    assert "no competing event" in result_of(DROPS, cause="9").blank


def test_rows_are_left_out_by_number_and_shown():
    numbers = LARKMOOR.table.numbers[:3].tolist()
    found = result_of(DROPS, left_out=numbers)
    assert found.rows == result_of(DROPS).rows - 3
    assert [(o.rows, o.why) for o in found.left_out] == [(3, "left out by the statement")]
    assert "without rows 1, 2 and 3" in found.sentence.text


@pytest.mark.parametrize(
    ("rows", "terms", "text"),
    [
        ("1,0,5,a\n2,0,6,b\n", (NumberTerm(column="x"),), "no event was observed"),
        ("1,1,5,a\n2,0,6,b\n3,0,1,a\n", (NumberTerm(column="x"),), None),
        ("1,1,5,a\n2,1,5,b\n3,0,5,a\n", (NumberTerm(column="x"),), "takes one value in all rows"),
        ("1,1,5,a\n2,1,6,b\n", (ProductTerm(column="x", partner="g"),), "needs x as a term"),
        ("1,1,5,a\n2,1,6,b\n3,1,5,a\n", (SplineTerm(column="x"),), "no two of them equal"),
        ("1,1,5,a\n2,1,6,b\n3,1,5,a\n", (PolynomialTerm(column="g"),), "does not hold numbers"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_stated_plainly(rows, terms, text):
    found = model(cohort(f"t,s,x,g\n{rows}"), ModelStatement(terms=terms))
    notes = [c.adjusted.note for t in found.terms for c in t.coefficients]
    heard = " ".join([found.blank or "", *notes])
    assert text is None or text in heard
    compared_ratios = [c.adjusted.ratio for t in found.terms for c in t.coefficients]
    assert all(ratio is None or math.isfinite(ratio) for ratio in compared_ratios)


def test_a_term_of_two_products_is_shown_with_the_other_partner_held():
    products = (
        ProductTerm(column="drops", partner="vessels"),
        ProductTerm(column="drops", partner="age"),
    )
    stated = ModelStatement(terms=(DROPS, VESSELS, AGE, *products))
    found = model(LARKMOOR, stated)
    beta = fit_model(LARKMOOR, stated).fit.beta
    age = float(np.median(LARKMOOR.table.column("age").values))
    (level,) = [c for c in found.terms[3].coefficients if "3-4 quadrants" in c.label]
    assert level.adjusted.beta == pytest.approx(beta[0] + beta[5] + beta[6] * age, rel=1e-9)
    assert level.label == "extended, within vessels 3-4 quadrants and age 62"


def test_a_product_of_a_term_with_itself_has_a_ratio_at_each_quartile():
    stated = ModelStatement(terms=(AGE, ProductTerm(column="age", partner="age")))
    beta = fit_model(LARKMOOR, stated).fit.beta
    quartiles = np.quantile(LARKMOOR.table.column("age").values, [0.25, 0.5, 0.75])
    alone, together = model(LARKMOOR, stated).terms
    assert [c.label for c in alone.coefficients] == [f"age, within age {quartiles[1]:g}"]
    found = [c.adjusted.beta for c in together.coefficients]
    assert found == pytest.approx(10 * (beta[0] + quartiles * beta[1]), rel=1e-9)


def test_a_product_of_ratios_that_change_is_refused():
    changing = CategoryTerm(column="drops", changing=Periods(ends=(12,)))
    found = result_of(changing, VESSELS, ProductTerm(column="drops", partner="vessels"))
    assert "a product of ratios that stay the same" in found.blank


def test_a_unit_is_that_of_the_ratio_alone():
    """What stands under the name of a column is per 1 of it, whatever its ratio is shown per."""
    stated = [
        ModelStatement(terms=(NumberTerm(column="age", unit=unit), DROPS), intervals=intervals)
        for unit, intervals in ((1, "standard error"), (10, "standard error"), (10, "profile"))
    ]
    one, ten, profile = (model(LARKMOOR, each) for each in stated)
    fits = [fit_model(LARKMOOR, each) for each in stated]
    assert fits[0].fit.beta == pytest.approx(fits[1].fit.beta, rel=1e-12)
    assert (fits[1].design.x[:, 0] == LARKMOOR.table.column("age").values).all()
    first, tenfold = (f.terms[0].coefficients[0].adjusted for f in (one, ten))
    for name in ("ratio", "lower", "upper"):
        assert getattr(tenfold, name) == pytest.approx(getattr(first, name) ** 10, rel=1e-10)
    assert tenfold.standard_error == pytest.approx(10 * first.standard_error, rel=1e-10)
    lower, _ = fits[2].limits(0, 0.95)
    assert profile.terms[0].coefficients[0].adjusted.lower == pytest.approx(
        math.exp(10 * lower), rel=1e-12
    )
    assert ten.terms[0].coefficients[0].comparison == "per 10"
    sheet = hazard_ratio_workings(fits[1], 0, 0.95)
    assert sheet.title.startswith("Hazard ratio of age, per 10: ")
    assert sheet.formula[0].startswith("hazard ratio per 10 = exp(10 β̂) = exp(10 × ")
    values = {c.name: c.values for c in model_columns(LARKMOOR, stated[1])}
    for name, found in {c.name: c.values for c in model_columns(LARKMOOR, stated[0])}.items():
        assert values[name] == pytest.approx(found, rel=1e-9, abs=1e-12, nan_ok=True)
    inside = model(LARKMOOR, stated[1].model_copy(update={"subgroups": ("vessels",)}))
    cells = {c.head: c.cells for c in inside.figure.track("subgroups").columns}
    own = model(LARKMOOR, stated[0].model_copy(update={"subgroups": ("vessels",)}))
    raw = {c.head: c.cells for c in own.figure.track("subgroups").columns}
    for k in (1, 2, 3):
        per_one = raw["ratio (95% CI)"][k].raw
        assert cells["ratio (95% CI)"][k].raw == pytest.approx(per_one**10, rel=1e-9)
    assert "age, per 10" in cells
