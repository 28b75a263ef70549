"""What a model gives beyond its ratios: predictions, adjusted curves, subgroups, candidates, causes."""

import math
from functools import partial

import numpy as np
import pytest

from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.model import sampled
from hourglass.analysis.model.adjusted import adjusted_levels
from hourglass.analysis.model.fitting import fit_model
from hourglass.analysis.model.statement import ModelStatement, Profile, ProfileValue
from hourglass.analysis.model.terms.category import CategoryTerm
from hourglass.analysis.model.terms.changing import Periods
from hourglass.analysis.model.terms.curve import SplineTerm
from hourglass.analysis.model.terms.number import NumberTerm
from hourglass.analysis.model.terms.product import ProductTerm
from hourglass.core.progress import no_progress
from hourglass.core.regression.adjusted import adjusted_curves
from hourglass.core.regression.predicted_means import predicted_means
from hourglass.core.regression.prediction import baselines_of
from hourglass.core.regression.subgroups import subgroups
from making import STUDY, demo_cohort, marks_of, section, timed_table
from stages import compare, model, part_of

candidates = part_of("model", "candidates")
causes = part_of("model", "causes")

LARKMOOR = demo_cohort("larkmoor")
DROPS, VESSELS = CategoryTerm(column="drops"), CategoryTerm(column="vessels")
AGE = NumberTerm(column="age", unit=10)
TERMS = (DROPS, VESSELS, AGE)


def profile(**values):
    return Profile(values=tuple(ProfileValue(column=c, value=v) for c, v in values.items()))


def test_a_profile_is_predicted_with_what_is_not_stated_taken_as_usual():
    stated = ModelStatement(
        terms=TERMS, profiles=(profile(drops="extended"), profile(age="80")), times=(24,)
    )
    found = model(LARKMOOR, stated)
    fitted = fit_model(LARKMOOR, stated)
    coded = fitted.design
    baseline = baselines_of(coded.data, coded.x, fitted.fit)[0]
    age = float(np.median(LARKMOOR.table.column("age").values))
    direct = baseline.survival(np.array([1.0, 0.0, 0.0, age]))
    lines = marks_of(found.figure.track("predicted"), "line")
    assert lines[0].y[1:] == pytest.approx(direct.survival, rel=1e-12)
    bands = marks_of(found.figure.track("predicted"), "area")
    assert bands[0].low == pytest.approx(direct.lower, rel=1e-12)
    table = section(found, "predictions").blocks[0]
    assert "else usual: vessels none" in table.rows[0][0].below
    place = int(np.searchsorted(direct.time, 24, side="right")) - 1
    assert table.rows[0][3].raw == pytest.approx(direct.survival[place], rel=1e-12)
    assert table.rows[0][1].raw == direct.quantile(0.5).time
    assert table.rows[0][2].raw == pytest.approx(direct.restricted_mean(direct.last), rel=1e-12)
    assert timed_table(found).series[0].columns[0] == pytest.approx(direct.survival, rel=1e-12)
    assert found.figure.track("unadjusted") is not None
    assert "Predicted for drops extended and for age 80, read at 24." in found.sentence.text


@pytest.mark.parametrize(
    "terms",
    [
        (DROPS, SplineTerm(column="age", knots=3), ProductTerm(column="drops", partner="age")),
        (CategoryTerm(column="drops", changing=Periods(ends=(24,))), AGE),
    ],
)
def test_curves_products_and_changing_ratios_are_predicted_at_their_values(terms):
    stated = ModelStatement(
        terms=terms, strata=("eye",), profiles=(profile(drops="standard", age="70", eye="right"),)
    )
    found = model(LARKMOOR, stated)
    fitted = fit_model(LARKMOOR, stated)
    coded = fitted.design
    row = int(np.flatnonzero(LARKMOOR.table.column("age").values == 70)[0])
    x = np.concatenate([b.x[row] for b in coded.blocks])
    x[0] = 0.0  # the reference level
    if len(coded.blocks) == 3:
        x[-2:] = 0.0
    baseline = baselines_of(coded.data, coded.x, fitted.fit)[coded.strata.index("right")]
    at = x if coded.over_time is None else coded.over_time.profile(x, baseline.time)
    (line,) = marks_of(found.figure.track("predicted"), "line")
    assert line.y[1:] == pytest.approx(baseline.survival(at).survival, rel=1e-9)


def test_predicted_means_have_limits_from_refits(monkeypatch):
    stated = ModelStatement(
        terms=(DROPS, AGE), profiles=(profile(drops="extended"), profile(age="80"))
    )
    monkeypatch.setattr(sampled, "predicted_means", partial(predicted_means, samples=15))
    (part,) = part_of("model", "means")(LARKMOOR, {**STUDY, "model": stated}).sections
    shown = section(model(LARKMOOR, stated), "predictions").blocks[0].rows
    for row, other in zip(part.blocks[0].rows, shown, strict=True):
        assert row[1].raw == pytest.approx(other[2].raw, rel=1e-12)
        assert " to " in row[1].text
    offered = section(model(LARKMOOR, stated), "means")
    assert offered.offer == "Fit the model again on 500 samples", (
        "hundreds of refits wait for a request"
    )


def test_a_profile_that_cannot_be_gives_the_reason():
    stated = ModelStatement(
        terms=TERMS, profiles=(profile(drops="none at all"), profile(age="old"))
    )
    rows = section(model(LARKMOOR, stated), "predictions").blocks[0].rows
    assert "drops has no level" in rows[0][1].text
    assert "is no number for age" in rows[1][1].text


def test_adjusted_curves_put_everybody_at_each_level_with_the_products():
    stated = ModelStatement(
        terms=(DROPS, VESSELS, ProductTerm(column="drops", partner="vessels")), adjusted="drops"
    )
    fitted = fit_model(LARKMOOR, stated)
    coded, at = fitted.design, np.array([12.0, 36.0])
    found = adjusted_levels(LARKMOOR, fitted, stated.adjusted, 0.95, at, 20)
    levels = []
    for value in (0.0, 1.0):
        x = coded.x.copy()
        x[:, 0] = value
        x[:, 3:5] = value * x[:, 1:3]
        levels.append(x)
    direct = adjusted_curves(coded.data, coded.x, fitted.fit, levels, at, 1, 0.95, 20)
    assert (found.curves.survival == direct.survival).all()
    assert found.labels == ("standard", "extended")
    drawn = model(LARKMOOR, stated).figure.track("adjusted")
    assert [m.label for m in marks_of(drawn, "line")] == ["standard", "extended"]


def tones(figure, track):
    return {mark.label: mark.tone for mark in marks_of(figure.track(track), "line")}


@pytest.mark.parametrize("reference", ["standard", "extended"])
def test_a_level_has_one_tone_whichever_is_the_reference(reference):
    compared = compare(LARKMOOR, CompareStatement(by="drops")).figure
    own = {group.label: group.tone for group in compared.groups}
    other_way = compare(LARKMOOR, CompareStatement(by="drops", reference=reference)).figure
    assert tones(other_way, "survival") == tones(compared, "survival") == own
    stated = ModelStatement(
        terms=(VESSELS, CategoryTerm(column="drops", reference=reference)),
        adjusted="drops",
        profiles=(profile(drops="extended"), profile(drops="standard")),
    )
    found = model(LARKMOOR, stated).figure
    assert {group.key: group.tone for group in found.groups} == {
        group.key: group.tone for group in compared.groups
    }
    assert tones(found, "adjusted") == tones(found, "unadjusted") == own
    assert tones(found, "predicted") == {f"drops {label}": tone for label, tone in own.items()}


def test_profiles_that_share_a_level_have_tones_that_no_level_has():
    stated = ModelStatement(terms=(DROPS, AGE), profiles=(profile(age="40"), profile(age="70")))
    found = model(LARKMOOR, stated).figure
    assert not found.track("predicted").grouped
    assert not {*tones(found, "predicted").values()} & {*tones(found, "unadjusted").values()}


def test_the_main_term_is_shown_within_subgroups_with_the_p_of_each_product():
    stated = ModelStatement(terms=TERMS, subgroups=("vessels", "age"))
    figure = model(LARKMOOR, stated).figure
    track = figure.track("subgroups")
    alone = model(LARKMOOR, ModelStatement(terms=TERMS)).figure.track("ratios")
    assert figure.track("ratios").across == track.across, "forests on one page share their axis"
    assert track.across.high >= alone.across.high
    coded = fit_model(LARKMOOR, stated).design
    code = np.array(
        [
            ("none", "1-2 quadrants", "3-4 quadrants").index(
                LARKMOOR.table.column("vessels").cell(k)
            )
            for k in coded.place
        ]
    )
    direct = subgroups(coded.data, coded.x, [0], code, 3)
    cells = {c.head: c.cells for c in track.columns}
    shown = [cells["ratio (95% CI)"][k].raw for k in (1, 2, 3)]
    expected = [math.exp(direct.divided.beta[p]) for p in direct.place[:, 0]]
    assert shown == pytest.approx(expected, rel=1e-9)
    assert cells["p of the product"][0].raw == pytest.approx(direct.test.p, rel=1e-9)
    assert [cells["events"][k].raw for k in (1, 2, 3)] == [t.events for t in direct.levels]
    assert track.axis.categories[5:] == ["age ≤ 57", "age > 57, ≤ 66", "age > 66"]
    assert "not planned confirms nothing" in track.note


def test_candidates_stand_alone_and_together_and_none_is_chosen():
    stated = ModelStatement(terms=(DROPS,), candidates=("drops", "donor_cells", "gone"))
    (part,) = candidates(LARKMOOR, {**STUDY, "model": stated}, no_progress).sections
    drops, cells = part.blocks[0].rows
    alone = model(LARKMOOR, ModelStatement(terms=(DROPS,))).terms[0].coefficients[0].adjusted
    assert (drops[1].raw, drops[2].raw) == (600, alone.ratio)
    assert cells[1].raw == 583
    assert "583 rows together" in part.blocks[1].text
    assert "No candidate is chosen for you" in part.blocks[2].text


def test_each_cause_has_its_own_ratio_of_the_same_terms():
    stated = ModelStatement(terms=TERMS)
    (part,) = causes(LARKMOOR, {**STUDY, "model": stated}, no_progress).sections
    (code,) = LARKMOOR.competing
    other = model(LARKMOOR, stated.model_copy(update={"cause": code}))
    column = [row[2].raw for row in part.blocks[0].rows]
    ratios = [c.adjusted.ratio for t in other.terms for c in t.coefficients]
    assert column == ratios
    assert f"({other.events} events)" in part.blocks[0].head[2]
