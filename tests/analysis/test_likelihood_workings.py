"""A spreadsheet redoes the maximum of the likelihood from the sheets."""

import math
from itertools import combinations

import numpy as np
import pytest

from hourglass.analysis.model.fitting import fit_model
from hourglass.analysis.model.likelihood_workings import by_row_workings, steps_workings
from hourglass.analysis.model.sentence import first_model
from hourglass.analysis.model.statement import BySubject, ModelStatement
from hourglass.analysis.model.terms.category import CategoryTerm
from hourglass.analysis.model.terms.number import NumberTerm
from hourglass.analysis.model.workings import hazard_ratio_workings
from hourglass.analysis.shared.subject_workings import subjects_of
from hourglass.analysis.shared.workings import NoWorkingsError
from making import cohort, demo_cohort

LAMPS = demo_cohort("lamps")
ROWS = "t,s,x,g\n1,1,2,a\n1,1,0,b\n1,0,1,a\n2,1,3,b\n3,1,1,a\n3,1,2,a\n4,0,0,b\n5,1,4,b\n"


def columns_of(sheet):
    keys, *rows = sheet.lines()
    return {key: [row[k] for row in rows] for k, key in enumerate(keys)}


def redone(sheet, ties):
    """ln L from the columns that a person has: time, event and exp(xβ), nothing else."""
    s = columns_of(sheet)
    places = range(len(s["time"]))
    total = 0.0
    for time in sorted({s["time"][k] for k in places if s["event"][k]}):
        at_risk = sum(s["score"][k] for k in places if s["time"][k] >= time)
        tied = [k for k in places if s["time"][k] == time and s["event"][k]]
        of_tied = sum(s["score"][k] for k in tied)
        for place, k in enumerate(tied):
            share = place / len(tied) if ties == "Efron" else 0.0
            total += s["linear"][k] - math.log(at_risk - share * of_tied)
    return total


@pytest.mark.parametrize("ties", ["Efron", "Breslow"])
def test_the_likelihood_is_redone_row_by_row_and_is_largest_at_the_estimate(ties):
    stated = ModelStatement(terms=(NumberTerm(column="x"), CategoryTerm(column="g")), ties=ties)
    fitted = fit_model(cohort(ROWS), stated)
    sheet = by_row_workings(fitted, "")
    assert redone(sheet, ties) == pytest.approx(fitted.fit.value, rel=1e-12)
    assert sum(columns_of(sheet)["term"]) == pytest.approx(fitted.fit.value, rel=1e-12)
    assert [one.key for one in sheet.columns if one.opens == subjects_of(None)] == ["time"]
    here = [float(v) for v in sheet.typed.value.split(",")]
    for moved in ((0.01, 0), (-0.01, 0), (0, 0.01), (0, -0.01)):
        typed = ", ".join(str(a + b) for a, b in zip(here, moved, strict=True))
        away = by_row_workings(fitted, typed)
        assert sum(columns_of(away)["term"]) < fitted.fit.value
    with pytest.raises(NoWorkingsError, match="2 coefficients, but 1"):
        by_row_workings(fitted, "0.3")
    with pytest.raises(NoWorkingsError, match="numbers with commas"):
        by_row_workings(fitted, "0.3; 1")


def test_exact_ties_are_worked_out_by_event_time():
    rows = ROWS.replace("5,1,4,b", "3,1,4,b")
    stated = ModelStatement(terms=(NumberTerm(column="x"), CategoryTerm(column="g")), ties="exact")
    fitted = fit_model(cohort(rows), stated)
    sheet = columns_of(by_row_workings(fitted, ""))
    assert sheet["events"] == [2, 1, 3]
    assert sum(sheet["term"]) == pytest.approx(fitted.fit.value, rel=1e-12)
    x, beta = fitted.design.x, fitted.fit.beta
    linear = (x - x.mean(axis=0)) @ beta
    whole = math.fsum(math.exp(sum(some)) for some in combinations(linear, 2))
    assert sheet["subsets"][0] == pytest.approx(math.log(whole), rel=1e-12)
    for column in (0, 1):
        terms = columns_of(hazard_ratio_workings(fitted, column, 0.95))
        assert sum(terms["score"]) == pytest.approx(0, abs=1e-9)
        weights = [math.exp(sum(some)) for some in combinations(linear, 2)]
        sums = [sum(some) for some in combinations(x[:, column], 2)]
        mean = np.average(sums, weights=weights)
        assert terms["mean"][0] == pytest.approx(mean / 2, rel=1e-12)
        spread = np.average((np.array(sums) - mean) ** 2, weights=weights)
        assert terms["information"][0] == pytest.approx(spread, rel=1e-10)


def test_a_likelihood_without_a_largest_value_is_shown_at_0_and_states_so():
    apart = cohort("t,s,x\n1,1,1\n2,1,1\n3,1,0\n4,0,0\n")
    fitted = fit_model(apart, ModelStatement(terms=(NumberTerm(column="x"),)))
    sheet = by_row_workings(fitted, "")
    assert sheet.typed.value == "0"
    assert "no finite estimate" in sheet.formula[-1]
    assert sum(columns_of(sheet)["term"]) == pytest.approx(-math.log(4 * 3 * 2), rel=1e-12)
    assert "row x: —" in steps_workings(fitted).formula[-1]
    constant = cohort("t,s,x\n1,1,1\n2,1,1\n3,0,1\n")
    nothing = fit_model(constant, ModelStatement(terms=(NumberTerm(column="x"),)))
    with pytest.raises(NoWorkingsError, match="every column was left out"):
        steps_workings(nothing)


def test_newtons_steps_rise_to_the_estimate_of_the_lamps():
    fitted = fit_model(LAMPS, first_model(LAMPS))
    steps = columns_of(steps_workings(fitted))
    assert steps["beta_1"][0] == 0
    assert steps["beta_1"][-1] == pytest.approx(fitted.fit.beta[0], rel=1e-9)
    assert (np.diff(steps["value"]) > -1e-9).all()
    sheet = by_row_workings(fitted, "")
    assert redone(sheet, "Efron") == pytest.approx(steps["value"][-1], rel=1e-12)


def test_a_sheet_states_by_which_errors_intervals_and_ties_a_ratio_is_shown():
    rows = cohort(ROWS)

    def formula_of(**more):
        stated = ModelStatement(terms=(NumberTerm(column="x"),), **more)
        return " ".join(hazard_ratio_workings(fit_model(rows, stated), 0, 0.95).formula)

    assert "se = 1 / √information" in formula_of()
    assert "is robust" in formula_of(robust=BySubject())
    assert "the profile likelihood" in formula_of(intervals="profile")
    assert "the penalised profile likelihood" in formula_of(penalised=True)
    assert "x̄" in formula_of(ties="exact")


def test_a_count_deals_the_factors_of_its_time_to_its_copies():
    lines = [(1, 1, 2, 3), (1, 1, 0, 2), (1, 0, 1, 4), (2, 1, 3, 1), (2, 0, 1, 2)]
    counted = "t,s,x,n\n" + "".join(f"{t},{s},{x},{n}\n" for t, s, x, n in lines)
    copies = "t,s,x\n" + "".join(f"{t},{s},{x}\n" * n for t, s, x, n in lines)
    stated = ModelStatement(terms=(NumberTerm(column="x"),))
    one, other = (
        columns_of(by_row_workings(fit_model(rows, stated), "0.4"))
        for rows in (cohort(counted, count="n"), cohort(copies))
    )
    # The columns are centred on the mean over rows, which shifts nothing in ln L.
    assert sum(one["term"]) == pytest.approx(sum(other["term"]), rel=1e-12)
