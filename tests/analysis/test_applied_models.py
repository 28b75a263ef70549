"""A model applied to other rows: the prediction for each row is that for its profile."""

import numpy as np
import pytest

from hourglass.analysis.applied.coded import coded_rows
from hourglass.analysis.applied.readouts import applied_result
from hourglass.analysis.applied.run import applied, applied_columns
from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.model.fitting import fit_model
from hourglass.analysis.model.profiles import core_profile, whom
from hourglass.analysis.model.statement import HazardsModel, ModelStatement, Profile, ProfileValue
from hourglass.analysis.model.terms.category import CategoryTerm, TrendTerm
from hourglass.analysis.model.terms.curve import SplineTerm
from hourglass.analysis.model.terms.number import DoublingTerm, NumberTerm
from hourglass.analysis.model.terms.product import ProductTerm
from hourglass.core.progress import no_progress
from hourglass.core.regression.concordance import concordance
from hourglass.core.regression.prediction import baselines_of
from making import cohort
from stages import check


def rows(n, seed, levels=("none", "some", "many"), sites=("east", "west")):
    random = np.random.default_rng(seed)
    lines = ["t,s,age,cells,vessels,site"]
    for _ in range(n):
        age, cells = random.integers(20, 90), random.integers(500, 3000)
        level, site = random.choice(levels), random.choice(sites)
        rate = 0.02 * np.exp(0.02 * (age - 50) + 0.5 * (level == "many"))
        t, end = random.exponential(1 / rate), random.uniform(5, 80)
        lines.append(f"{min(t, end):.3f},{int(t <= end)},{age},{cells},{level},{site}")
    return "\n".join(lines)


MODELS = {
    "numbers and levels": HazardsModel(
        terms=(NumberTerm(column="age", unit=10), CategoryTerm(column="vessels", reference="some"))
    ),
    "curve, doubling, trend": HazardsModel(
        terms=(
            SplineTerm(column="age", knots=3),
            DoublingTerm(column="cells"),
            TrendTerm(column="vessels"),
        )
    ),
    "product in strata": HazardsModel(
        terms=(
            NumberTerm(column="age"),
            CategoryTerm(column="vessels"),
            ProductTerm(column="age", partner="vessels"),
        ),
        strata=("site",),
    ),
}


@pytest.fixture(scope="module")
def own():
    return cohort(rows(150, 1))


@pytest.fixture(scope="module")
def other():
    """Other rows: levels in another order, one that the model has never seen, and values missing."""
    text = rows(
        60, 2, levels=("many", "unheard of", "none", "some"), sites=("west", "north", "east")
    )
    return cohort(text + "\n9.5,1,,900,none,east\n9.75,0,44,900,,west")


@pytest.mark.parametrize("name", MODELS)
def test_every_row_has_the_prediction_of_its_profile(own, other, name):
    model, at = MODELS[name], 20.0
    found = applied(own, model, other, at)
    fitted = fit_model(own, model)
    coded = fitted.design
    baselines = baselines_of(coded.data, coded.x, fitted.plain)
    columns = [other.table.column(c) for c in dict.fromkeys((*model.term_columns, *model.strata))]
    places, expected = np.flatnonzero(found.rows.used), 0.0
    for k, place in enumerate(places):
        values = tuple(ProfileValue(column=c.name, value=c.cell(int(place))) for c in columns)
        profile = core_profile(own, coded, model, whom(own, model, Profile(values=values)))
        baseline = baselines[profile.stratum]
        curve = baseline.survival(profile.x)
        upto = int(np.searchsorted(curve.time, at, side="right"))
        assert found.survival[k] == pytest.approx(curve.survival[upto - 1], rel=1e-12)
        until = np.searchsorted(curve.time, other.follow_up.exit[place], side="right")
        expected += np.concatenate([[0.0], curve.cumulative])[until]
    assert found.expected == pytest.approx(expected, rel=1e-10)
    known = {"none", "some", "many"}
    expected_rows = [
        k
        for k in range(other.table.size)
        if all(not c.missing[k] for c in columns)
        and other.table.column("vessels").cell(k) in known
        and (not model.strata or other.table.column("site").cell(k) != "north")
    ]
    assert places.tolist() == expected_rows
    assert sum(one.rows for one in found.rows.left_out) >= other.table.size - len(places)


def test_on_its_own_rows_it_states_what_check_states(own):
    model = MODELS["numbers and levels"]
    found = applied(own, model, own, 20.0)
    fitted = fit_model(own, model)
    assert found.linear == pytest.approx(fitted.fit.linear, rel=1e-9, abs=1e-12)
    assert found.there == concordance(own.follow_up, fitted.fit.linear)
    assert found.expected == pytest.approx(found.events, rel=1e-9)
    stated = ModelStatement(terms=model.terms)
    shown = check(own, stated, CheckStatement(question="overall fit", time=20.0))
    (theirs,) = (t for t in shown.figure.tracks if t.id == "calibration")
    text = applied_result(own, model, own, 20.0, no_progress)
    (ours,) = text.figure.tracks
    for mark, other_mark in zip(ours.marks, theirs.marks, strict=True):
        for name in ("x", "y", "low", "high"):
            if hasattr(mark, name):
                assert getattr(mark, name) == pytest.approx(getattr(other_mark, name), rel=1e-9)


def test_predictions_stand_beside_the_other_rows(own, other):
    found = applied(own, MODELS["numbers and levels"], other, 20.0)
    linear, survival = applied_columns(other, found)
    assert linear.values[found.rows.used].tolist() == found.linear.tolist()
    assert np.isnan(survival.values[~found.rows.used]).all()
    assert survival.name == "predicted survival at 20"


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("t,s,vessels\n1,1,none\n2,0,some", "there is no column called “age”"),
        ("t,s,age,vessels\n1,1,old,none\n2,0,young,some", "age does not hold numbers"),
        ("t,s,age,vessels\n1,1,50,unheard of\n2,0,60,unheard of", "no row there has a value"),
    ],
)
def test_a_model_that_cannot_be_applied_gives_the_reason(own, text, words):
    shown = applied_result(own, MODELS["numbers and levels"], cohort(text), None, no_progress)
    assert words in shown.blank
    assert shown.sections == []


def test_past_the_follow_up_of_the_model_nothing_is_predicted(own, other):
    shown = applied_result(own, MODELS["numbers and levels"], other, 5000.0, no_progress)
    assert shown.figure is None
    assert "past the follow-up that the model was fitted to" in shown.blank
    longer = cohort(rows(20, 3) + "\n900.5,0,50,900,none,east\n901.5,1,50,900,none,west")
    assert applied(own, MODELS["numbers and levels"], longer, 20.0).beyond == 2


@pytest.mark.parametrize("time", [0.0, -3.0, float("inf"), float("nan")])
def test_a_time_that_is_none_is_refused(own, other, time):
    shown = applied_result(own, MODELS["numbers and levels"], other, time, no_progress)
    assert "a time above 0" in shown.blank


def test_levels_keep_the_codes_of_the_model(own, other):
    model = MODELS["numbers and levels"]
    coded = fit_model(own, model).design
    found = coded_rows(own, coded, model, other)
    vessels = other.table.column("vessels")
    labels = [vessels.cell(int(k)) for k in np.flatnonzero(found.used)]
    at = [c.label for c in coded.columns].index("many")
    assert found.x[:, at].tolist() == [float(label == "many") for label in labels]
