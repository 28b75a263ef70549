"""Cautions that are stated when they are due, in words that fit the figures at hand."""

import mpmath as mp
import numpy as np
import pytest

from core.literal import curves
from core.literal import data as literal
from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.compare.groups import comparison
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.model.terms.category import CategoryTerm
from hourglass.analysis.model.terms.number import NumberTerm
from hourglass.analysis.shared.curve_form import USUAL
from hourglass.cohort.statement import CodeMeaning
from hourglass.core.curves.difference import crossing
from hourglass.core.curves.survival import survival_curve
from hourglass.core.followup import follow_up
from hourglass.core.regression.time_functions import TIME_FUNCTIONS
from hourglass.core.risk_table import risk_table
from hourglass.core.variants import variant
from making import MEANINGS, cohort
from stages import check, compare, estimate, model


def caution(found, key):
    return next((c.sentence for c in found.cautions if c.key == key), None)


@pytest.mark.parametrize("seed", range(60))
def test_curves_cross_by_the_rule(seed):
    rng = np.random.default_rng(seed)
    shape = rng.choice([0.5, 1.0, 3.0])
    t = [np.ceil(rng.exponential(10, 70)), np.ceil(10 * rng.weibull(shape, 70)) + 1]
    s = [rng.integers(0, 2, 70), (rng.random(70) < 0.8).astype(int)]
    lines = [literal.rows(*pair) for pair in zip(t, s)]
    above, below = [], []
    for at in sorted({u for rows in lines for u in literal.event_times(rows)}):
        if min(literal.at_risk(rows, at) for rows in lines) < 10:
            continue
        (sa, va), (sb, vb) = (curves.at(curves.curve(rows), at) for rows in lines)
        if min(sa, sb) <= 0 or sa == sb == 1:
            continue
        z = (sb - sa) / mp.sqrt(sa**2 * va + sb**2 * vb)
        above += [at] if z >= 2.81 else []
        below += [at] if z <= -2.81 else []
    data = [follow_up(*pair) for pair in zip(t, s)]
    found = crossing(*data, *(survival_curve(risk_table(d)) for d in data))
    if above and below:
        assert (found.above, found.below) == (above[0], below[0])
    else:
        assert found is None


def test_both_kinds_of_curves_are_among_them():
    rng = np.random.default_rng(1)
    a = follow_up(rng.exponential(10, 400), np.ones(400))
    b = follow_up(10 * rng.weibull(4, 400), np.ones(400))
    one, other = survival_curve(risk_table(a)), survival_curve(risk_table(b))
    assert crossing(a, b, one, other) is not None
    assert crossing(a, a, one, one) is None


EARLY = "".join(f"{k},1,a\n" for k in range(1, 16)) + "60,0,a\n" * 25


def curves_of(rows):
    return comparison(cohort("t,s,g\n" + rows), CompareStatement(by="g"), USUAL).curves


def test_the_words_on_crossing_curves_fit_the_p_value():
    late = "".join(f"{30 + k / 2},1,b\n" for k in range(1, 29)) + "60,0,b\n" * 12
    found = compare(cohort("t,s,g\n" + EARLY + late), CompareStatement(by="g"))
    assert found.test.p > 0.05
    text = caution(found, "curves cross")
    assert text.startswith("The curve of b lies above that of a at")
    assert f"p = {found.test.p:.3f} does not say that the curves are alike" in text
    section = next(one for one in found.sections if one.id == "crossing")
    table, _, action = section.blocks
    times, apart = ([row[k].raw for row in table.rows] for k in (0, 1))
    assert times == sorted(times)
    assert min(apart) < 0 < max(apart)
    for t, d in zip(times, apart, strict=True):
        a, b = (c.estimate.at(t).survival for c in curves_of(EARLY + late))
        assert d == pytest.approx(b - a)
    assert set(times) <= set(action.statement["times"])
    assert EstimateStatement.read(action.statement).times == tuple(action.statement["times"])
    all_late = "".join(f"{30 + k / 2},1,b\n" for k in range(1, 41))
    clear = compare(cohort("t,s,g\n" + EARLY + all_late), CompareStatement(by="g"))
    assert clear.test.p < 0.05
    text = caution(clear, "curves cross")
    assert "says that the curves differ, not that one group does better throughout" in text
    assert "alike" not in text


def test_a_study_that_never_has_ten_at_risk_is_shown_so_as_a_whole():
    few = cohort("t,s\n" + "".join(f"{k + 1},{k % 2}\n" for k in range(7)))
    text = caution(estimate(few, EstimateStatement()), "few at risk")
    assert text.startswith("Throughout fewer than 10 rows are at risk: one event more or less")
    soon = cohort("t,s\n" + "0,1\n" * 5 + "".join(f"{k + 1},{k % 2}\n" for k in range(7)))
    assert caution(estimate(soon, EstimateStatement()), "few at risk").startswith("Throughout")
    many = cohort("t,s\n" + "".join(f"{k + 1},{k % 2}\n" for k in range(27)))
    assert caution(estimate(many, EstimateStatement()), "few at risk").startswith("Past 18 months")


def test_a_curve_before_anybody_is_followed_is_stated_to_show_nothing():
    text = "t,s,e\n" + "".join(f"{k + 5},{k % 2},{k % 3 + 2.5}\n" for k in range(30))
    words = caution(estimate(cohort(text, late_entry="e"), EstimateStatement()), "nobody at first")
    assert words.startswith("Before 2.5 months nobody is under observation: the curve says nothing")
    for rows, late in ((text.replace(",2.5", ",0"), "e"), (text, None)):
        found = estimate(cohort(rows, late_entry=late), EstimateStatement())
        assert caution(found, "nobody at first") is None
    later = estimate(cohort(text, late_entry="e"), EstimateStatement(start=3.0))
    assert caution(later, "nobody at first") is None


def test_other_causes_are_named_as_they_were_named():
    one = {**MEANINGS, "2": CodeMeaning(meaning="competing", name="renal failure in ICU")}
    two = {**one, "3": CodeMeaning(meaning="competing", name="MI")}
    text = "t,s,x\n" + "".join(f"{k},{k % 4},{k * 7 % 5}\n" for k in range(1, 41))
    stated = ModelStatement(terms=(NumberTerm(column="x"),))
    for meanings, words in (
        (one, "Renal failure in ICU (10 rows) is treated as censoring: a ratio compares rates of the "
        "event among those free of both,"),
        (two, "Renal failure in ICU and MI (20 rows) are treated as censoring: a ratio compares rates of "
        "the event among those free of all,"),
    ):  # fmt: skip
        some = text if meanings is two else text.replace(",3,", ",0,")
        found = model(cohort(some, meanings=meanings), stated)
        assert caution(found, "competing events: ratio").startswith(words)


@pytest.mark.parametrize("time_function", ["one minus survival", "time", "log time", "rank"])
@pytest.mark.parametrize("seed", range(6))
def test_what_model_states_of_a_ratio_is_what_check_states(seed, time_function):
    rng = np.random.default_rng(seed)
    n = 160
    g, x = rng.integers(0, 2, n), rng.normal(50, 10, n).round(1)
    t = np.ceil(20 * rng.weibull(np.where(g == 1, 0.75 + 0.1 * seed, 1.2))) + 1
    lines = "".join(f"{a:g},{int(rng.random() < 0.8)},{'ab'[b]},{c}\n" for a, b, c in zip(t, g, x))
    rows = cohort("t,s,g,x\n" + lines)
    stated = ModelStatement(terms=(CategoryTerm(column="g"), NumberTerm(column="x")))
    checked = check(rows, stated, CheckStatement(time_function=time_function))
    text = (
        caution(
            model(rows, stated, time_function=variant(TIME_FUNCTIONS, time_function)),
            "not proportional",
        )
        or ""
    )
    for term in checked.terms:
        doubted = term.verdict in ("in doubt", "fails")
        assert (f"{term.label} (p" in text) == doubted
    verdicts = {t.verdict for t in checked.terms}
    assert ("Check finds" in text) == ("fails" in verdicts)
    assert ("Check doubts" in text) == ("in doubt" in verdicts)


def test_times_that_are_almost_equal_are_a_caution_and_become_one_where_that_is_chosen():
    text = "t,s,g\n2019.75,1,a\n2019.750000001,1,b\n2020.5,0,a\n2021,1,b\n"
    apart, one = (cohort(text, near_ties=share) for share in (1e-13, 1e-9))
    for found in (
        estimate(apart, EstimateStatement()),
        compare(apart, CompareStatement(by="g")),
        model(apart, ModelStatement(terms=(CategoryTerm(column="g"),))),
    ):
        assert caution(found, "close times").startswith("1 pair of neighbouring times differ")
    assert caution(estimate(one, EstimateStatement()), "close times") is None
    assert one.follow_up.merged == 1
    assert np.unique(one.follow_up.exit).size == 3
