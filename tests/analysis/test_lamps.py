"""The harbour lamps, redone by hand: every figure the screens show for them.

Times (a + marks a lamp still burning when last seen):

    Ostrey  410 520 520 640 700+ 760 880 880 960+ 1040 1200+ 1200+
    Vane    520 640+ 760 880 960 1040 1120+ 1200+ 1200+ 1200+ 1200+ 1200+
"""

from fractions import Fraction as F
from math import exp, log, sqrt
from statistics import NormalDist

import numpy as np
import pytest
from scipy.stats import chi2

from hourglass.analysis.catalogue.weights import WEIGHTS
from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.compare.groups import comparison
from hourglass.analysis.compare.log_rank_workings import log_rank_workings
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.model.fitting import fit_model
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.model.terms.category import CategoryTerm
from hourglass.analysis.model.workings import hazard_ratio_workings
from hourglass.analysis.shared.curve_form import USUAL, CurveForm
from hourglass.analysis.shared.curve_workings import quantile_workings, survival_workings
from hourglass.analysis.shared.curves import curve_of
from hourglass.core.progress import no_progress
from making import STUDY, all_cells, demo_cohort, timed_table
from stages import check, compare, estimate, model, part_of

ranking = part_of("model", "ranking")

# At each event time: Ostrey at risk and failing, Vane at risk and failing.
TABLE = {
    410: (12, 1, 12, 0),
    520: (11, 2, 12, 1),
    640: (9, 1, 11, 0),
    760: (7, 1, 10, 1),
    880: (6, 2, 9, 1),
    960: (4, 0, 8, 1),
    1040: (3, 1, 7, 1),
}
Z = NormalDist().inv_cdf(0.975)
LAMPS = demo_cohort("lamps")
BY_MAKER = CompareStatement(by="maker", reference="Ostrey")
MODEL = ModelStatement(terms=(CategoryTerm(column="maker", reference="Ostrey"),))


def product(times, at_risk, events):
    """S and σ² after the given event times."""
    s, sigma2 = F(1), F(0)
    for t in times:
        n, d = at_risk(t), events(t)
        s *= F(n - d, n)
        sigma2 += F(d, n * (n - d))
    return s, sigma2


def everyone(t):
    return product(
        [u for u in TABLE if u <= t],
        lambda u: TABLE[u][0] + TABLE[u][2],
        lambda u: TABLE[u][1] + TABLE[u][3],
    )


def of(maker, t):
    k = {"Ostrey": 0, "Vane": 2}[maker]
    times = [u for u in TABLE if u <= t and TABLE[u][k + 1]]
    return product(times, lambda u: TABLE[u][k], lambda u: TABLE[u][k + 1])


def limits(s, sigma2):
    stretch = Z * sqrt(sigma2) / log(s)
    return float(s) ** exp(-stretch), float(s) ** exp(stretch)


@pytest.fixture(scope="module")
def estimated():
    return estimate(LAMPS, EstimateStatement(times=(500, 750, 1000)))


@pytest.fixture(scope="module")
def compared():
    return compare(LAMPS, BY_MAKER, EstimateStatement(times=(500, 750, 1000)))


@pytest.fixture(scope="module")
def fitted():
    return model(LAMPS, MODEL)


def test_survival_of_everyone(estimated):
    assert everyone(1040)[0] == F(20, 24) * F(19, 20) * F(15, 17) * F(12, 15) * F(11, 12) * F(8, 10)
    for point, followed, events in zip(
        estimated.curve.points, (23, 17, 10), (1, 5, 11), strict=True
    ):
        s, sigma2 = everyone(point.time)
        assert point.survival == pytest.approx(float(s), rel=1e-12)
        assert (point.lower, point.upper) == pytest.approx(limits(s, sigma2), rel=1e-12)
        assert (point.at_risk, point.events) == (followed, events)


def test_quartiles_and_follow_up(estimated):
    lower, median, upper = estimated.curve.quartiles
    assert (lower.time, median.time, upper.time) == (760, 1040, None)
    # Half are gone when S is first at or under ½; the limits by the same rule on S's limits.
    reach = {t: limits(*everyone(t)) for t in TABLE}
    assert median.lower == next(t for t in TABLE if reach[t][0] <= 0.5) == 760
    assert median.upper is next((t for t in TABLE if reach[t][1] <= 0.5), None) is None
    c = estimated.cohort
    assert (c.rows, c.events, c.censored, c.competing) == (24, 13, 11, 0)
    total = 410 + 520 * 3 + 640 * 2 + 700 + 760 * 2 + 880 * 3 + 960 * 2 + 1040 * 2 + 1120 + 1200 * 7
    assert c.person_time == total
    # Reversed: 640+ of 20 at risk, 700+ of 18, 960+ of 12, 1120+ of 8, then 7 of 7 at 1200.
    still = F(19, 20) * F(17, 18) * F(11, 12) * F(7, 8)
    assert still > F(1, 2)
    assert c.median_follow_up.time == 1200
    assert estimated.headline == "median 1\u202f040 hours"


def test_curves_by_maker(compared):
    ostrey, vane = compared.curves
    assert ostrey.label == "Ostrey"
    for curve in (ostrey, vane):
        for point in curve.points:
            s, sigma2 = of(curve.label, point.time)
            assert point.survival == pytest.approx(float(s), rel=1e-12)
            if s < 1:
                assert (point.lower, point.upper) == pytest.approx(limits(s, sigma2), rel=1e-12)
    assert of("Ostrey", 1040)[0] == F(16, 63)
    assert of("Vane", 1040)[0] == F(11, 20)
    assert [c.quartiles[1].time for c in (ostrey, vane)] == [880, None]
    assert [p.at_risk for p in ostrey.points] == [11, 7, 3]
    assert [p.at_risk for p in vane.points] == [12, 10, 7]


def test_the_difference_of_the_curves(compared):
    timed = timed_table(compared)
    found = timed.series[timed.rows[-1].cells[0].series]
    difference, lower, upper = found.columns
    k = list(found.time).index(760)
    (a, va), (b, vb) = of("Ostrey", 760), of("Vane", 760)
    half = Z * sqrt(a**2 * va + b**2 * vb)
    assert difference[k] == pytest.approx(float(b - a))
    assert (lower[k], upper[k]) == pytest.approx((float(b - a) - half, float(b - a) + half))


def expected_and_variance():
    expected, variance = F(0), F(0)
    for no, do, nv, dv in TABLE.values():
        n, d = no + nv, do + dv
        expected += F(no * d, n)
        variance += F(d * (n - d), n - 1) * F(no, n) * F(nv, n)
    return expected, variance


def test_log_rank(compared):
    expected, variance = expected_and_variance()
    ostrey, vane = compared.groups
    assert (ostrey.observed, vane.observed) == (8, 5)
    assert ostrey.expected == pytest.approx(float(expected), rel=1e-12)
    assert vane.expected == pytest.approx(float(13 - expected), rel=1e-12)
    statistic = float((8 - expected) ** 2 / variance)
    assert compared.test.statistic == pytest.approx(statistic, rel=1e-12)
    assert compared.test.p == pytest.approx(chi2.sf(statistic, 1), rel=1e-12)
    assert compared.test.df == 1


def factors(theta):
    """(φ, x̄) of every factor when Vane's rate is θ times Ostrey's (Efron)."""
    for no, do, nv, dv in TABLE.values():
        d = do + dv
        for step in range(d):
            left, right = no - step / d * do, theta * (nv - step / d * dv)
            yield left + right, right / (left + right)


def solve():
    low, high = 0.01, 10.0
    for _ in range(200):
        middle = (low + high) / 2
        excess = 5 - sum(mean for _, mean in factors(middle))
        low, high = (middle, high) if excess > 0 else (low, middle)
    return low


def test_the_hazard_ratio(fitted):
    theta = solve()
    information = sum(mean * (1 - mean) for _, mean in factors(theta))
    error = 1 / sqrt(information)
    (coefficient,) = fitted.terms[0].coefficients
    found = coefficient.adjusted
    assert (coefficient.label, coefficient.against) == ("Vane", "Ostrey")
    assert found.ratio == pytest.approx(theta, rel=1e-9)
    assert found.standard_error == pytest.approx(error, rel=1e-9)
    assert (found.lower, found.upper) == pytest.approx(
        (theta * exp(-Z * error), theta * exp(Z * error)), rel=1e-9
    )
    wald = (log(theta) / error) ** 2
    assert found.p == pytest.approx(chi2.sf(wald, 1), rel=1e-8)
    value = 5 * log(theta) - sum(log(phi) for phi, _ in factors(theta))
    at_one = -sum(log(phi) for phi, _ in factors(1.0))
    score = 5 - sum(mean for _, mean in factors(1.0))
    score_information = sum(mean * (1 - mean) for _, mean in factors(1.0))
    assert [t.statistic for t in fitted.tests] == pytest.approx(
        [2 * (value - at_one), wald, score**2 / score_information], rel=1e-8
    )
    assert fitted.minus_two_log_likelihood == pytest.approx(-2 * value, rel=1e-10)
    assert fitted.aic == pytest.approx(-2 * value + 2, rel=1e-10)
    assert fitted.bic == pytest.approx(-2 * value + log(13), rel=1e-10)
    assert next(c.raw for c in all_cells(fitted) if c.text == "13.0") == 13, (
        "events per coefficient"
    )
    assert coefficient.alone == found, "with a single term, alone and adjusted are one model"


def test_concordance_by_counting_pairs():
    lamps = [(t, True, 0) for t in (410, 520, 520, 640, 760, 880, 880, 1040)]
    lamps += [(t, False, 0) for t in (700, 960, 1200, 1200)]
    lamps += [(t, True, 1) for t in (520, 760, 880, 960, 1040)]
    lamps += [(t, False, 1) for t in (640, 1120, 1200, 1200, 1200, 1200, 1200)]
    agree, pairs = 0.0, 0
    for t, failed, vane in lamps:
        for u, other_failed, other_vane in lamps:
            if failed and (t < u or (t == u and not other_failed)):
                pairs += 1
                # Ostrey has the higher rate, so it should fail first.
                agree += 1 if vane < other_vane else 0.5 if vane == other_vane else 0
    found = ranking(LAMPS, {**STUDY, "model": MODEL}, no_progress)
    assert found.concordance == pytest.approx(agree / pairs, rel=1e-12)


def test_the_check_of_proportional_hazards():
    theta = solve()
    times, s = list(TABLE), [1.0]
    for t in times:
        s.append(float(everyone(t)[0]))
    clock = {t: 1 - s[k] for k, t in enumerate(times)}
    u = bb = bt = tt = 0.0
    for t, (no, do, nv, dv) in TABLE.items():
        d = do + dv
        means = []
        for step in range(d):
            left, right = no - step / d * do, theta * (nv - step / d * dv)
            means.append(right / (left + right))
        v = sum(m * (1 - m) for m in means)
        u += clock[t] * (dv - d * np.mean(means))
        bb, bt, tt = bb + v, bt + clock[t] * v, tt + clock[t] ** 2 * v
    statistic = u**2 / (tt - bt**2 / bb)
    found = check(LAMPS, MODEL, CheckStatement())
    assert found.together.statistic == pytest.approx(statistic, rel=1e-8)
    assert found.terms[0].test.p == pytest.approx(chi2.sf(statistic, 1), rel=1e-8)


def column(sheet, key):
    return next(c for c in sheet.columns if c.key == key).values.tolist()


def test_workings_of_survival_show_the_product():
    curve = curve_of(LAMPS.follow_up, CurveForm(0.95), "everyone", -1)
    sheet = survival_workings(curve, 750, "hours")
    assert "(1 − 1/24) × (1 − 3/23) × (1 − 1/20) = 0.7916667" in sheet.formula[1]
    s, sigma2 = everyone(750)
    assert f"{float(sigma2):.7g}" in sheet.formula[2]
    low, high = limits(s, sigma2)
    assert f"{low:.7g} to {high:.7g}" in sheet.formula[3]
    assert sheet.marked == 2
    assert column(sheet, "time") == list(TABLE)
    assert np.prod(column(sheet, "factor")) == pytest.approx(column(sheet, "survival")[-1])


def test_workings_at_the_edges_of_the_curve():
    curve = curve_of(LAMPS.follow_up, CurveForm(0.95), "everyone", -1)
    assert survival_workings(curve, 5, "hours").marked is None
    assert "ends at 1200" in survival_workings(curve, 1300, "hours").formula[0]


def test_workings_of_the_median_name_the_step():
    found = comparison(LAMPS, BY_MAKER, USUAL)
    ostrey, vane = (quantile_workings(c, 0.5, "hours", LAMPS.decimals) for c in found.curves)
    assert "880" in ostrey.formula[1]
    assert column(ostrey, "time")[ostrey.marked] == 880
    assert "not reached" in vane.title
    assert vane.marked is None


def test_workings_of_the_log_rank_sum_to_the_statistic():
    sheet = log_rank_workings(comparison(LAMPS, BY_MAKER, USUAL), WEIGHTS["log-rank"])
    expected, variance = expected_and_variance()
    assert sum(column(sheet, "expected, maker Ostrey")) == pytest.approx(float(expected))
    assert sum(column(sheet, "variance, maker Ostrey")) == pytest.approx(float(variance))
    assert sum(column(sheet, "events, maker Ostrey")) == 8
    statistic = float((8 - expected) ** 2 / variance)
    assert f"{statistic:.7g}" in sheet.formula[-1]


def test_workings_of_the_hazard_ratio_balance_at_the_estimate():
    sheet = hazard_ratio_workings(fit_model(LAMPS, MODEL), 0, 0.95)
    assert sum(column(sheet, "score")) == pytest.approx(0, abs=1e-9)
    theta = solve()
    information = sum(mean * (1 - mean) for _, mean in factors(theta))
    assert sum(column(sheet, "information")) == pytest.approx(information, rel=1e-9)
    assert f"{theta:.7g}" in sheet.formula[0]
    assert column(sheet, "at_risk") == [no + nv for no, _, nv, _ in TABLE.values()]
    assert column(sheet, "events") == [do + dv for _, do, _, dv in TABLE.values()]
