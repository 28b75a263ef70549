"""One form of a curve throughout a study: what Estimate states holds where nothing else is stated."""

import math

import pytest

from hourglass.analysis.catalogue.estimators import ESTIMATORS
from hourglass.analysis.catalogue.weights import WEIGHTS
from hourglass.analysis.check.statement import RESIDUAL_KEYS, CheckStatement
from hourglass.analysis.check.weighed import WEIGHED
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.model.statement import HazardsModel, KeptModel, ModelStatement
from hourglass.analysis.model.terms.category import CategoryTerm
from hourglass.analysis.registry import STAGES
from hourglass.analysis.shared.earlier_keys import EARLIER_KEYS
from hourglass.analysis.shared.stage import stage_of
from hourglass.core.normal import normal_quantile
from hourglass.core.progress import no_progress
from making import demo_cohort, timed_table
from stages import compare, estimate, model, part_of

medians_beside = part_of("model", "medians")

LARKMOOR = demo_cohort("larkmoor")
FORM = EstimateStatement(
    by="drops", confidence=0.8, estimator="Nelson–Aalen", scale="arcsine",
    times=(12,),
)  # fmt: skip
DROPS = CategoryTerm(column="drops")


def test_compare_and_medians_beside_ratios_have_the_form_of_estimate():
    estimated = estimate(LARKMOOR, FORM)
    compared = compare(LARKMOOR, CompareStatement(by="drops"), FORM)
    assert [c.quartiles for c in compared.curves] == [c.quartiles for c in estimated.curves]
    assert [c.points for c in compared.curves] == [c.points for c in estimated.curves]
    assert timed_table(compared).head[2] == timed_table(estimated).head[2] == "80% CI (pointwise)"
    stated = {"estimate": FORM, "model": ModelStatement(terms=(DROPS,))}
    (part,) = medians_beside(LARKMOOR, stated, no_progress).sections
    medians = [row[3].text for row in part.blocks[0].rows]
    assert medians == [c.median.whole(LARKMOOR.decimals) for c in estimated.curves]
    assert part.blocks[0].head[3] == "median, months (80% CI)"


def test_ratios_take_the_level_alone():
    usual = model(LARKMOOR, ModelStatement(terms=(DROPS,)), form=FORM.study_form)
    ratio = usual.terms[0].coefficients[0].adjusted
    assert ratio.beta - ratio.standard_error * normal_quantile(0.8) == pytest.approx(
        math.log(ratio.lower), rel=1e-12
    )


def test_who_states_another_level_states_so_in_the_sentence():
    follows = compare(LARKMOOR, CompareStatement(by="drops"), FORM)
    stated = compare(LARKMOOR, CompareStatement(by="drops", confidence=0.9), FORM)
    assert "with 80% intervals" in follows.sentence.text
    assert "with 90% (in Estimate 80%) intervals" in stated.sentence.text
    assert timed_table(stated).head[2] == "90% CI (pointwise)"
    (slot,) = [p.slot for p in stated.sentence.parts if p.slot and p.slot.id == "confidence"]
    assert next((o.label, o.value) for o in slot.options) == ("as in Estimate (80%)", None)
    fitted = model(LARKMOOR, ModelStatement(terms=(DROPS,), confidence=0.9), form=FORM.study_form)
    assert "with 90% (in Estimate 80%) Wald intervals" in fitted.sentence.text


def test_bars_and_nothing_drawn_keep_the_limits_of_tables():
    for kind in ("none", "standard-error bars"):
        found = estimate(LARKMOOR, FORM.model_copy(update={"intervals": kind}))
        plain = estimate(LARKMOOR, FORM.model_copy(update={"intervals": "pointwise"}))
        assert [c.points for c in found.curves] == [c.points for c in plain.curves]
        assert "limits in tables: 80% on the arcsine scale" in found.sentence.text


def test_an_older_statement_with_the_usual_level_follows_that_of_the_study():
    old = {"stage": "compare", "version": 3, "by": "g", "confidence": 0.95}
    assert CompareStatement.read(old).confidence is None
    assert CompareStatement.read({**old, "confidence": 0.9}).confidence == 0.9
    kept = KeptModel(letter="A", model=HazardsModel(terms=(DROPS,))).model_dump(mode="json")
    kept["model"]["confidence"] = 0.95
    body = {**ModelStatement(terms=(DROPS,)).model_dump(mode="json"), "version": 3}
    found = ModelStatement.read({**body, "confidence": 0.99, "kept": [kept]})
    assert (found.confidence, found.kept[0].model.confidence) == (0.99, None)


def test_an_older_statement_names_its_methods_as_the_field_does_now():
    statements = {
        "estimator": (EstimateStatement, "estimate", 3, ESTIMATORS),
        "weight": (CompareStatement, "compare", 4, WEIGHTS),
        "question": (CheckStatement, "check", 3, WEIGHED),
        "residual": (CheckStatement, "check", 3, RESIDUAL_KEYS),
    }
    assert statements.keys() == EARLIER_KEYS.keys()
    for field, (kind, stage, version, known) in statements.items():
        for before, now in EARLIER_KEYS[field].items():
            old = {"stage": stage, "version": version, field: before}
            assert now in known, (field, now)
            assert before not in known, (field, before)
            assert getattr(kind.read(old), field) == now
            words = stage_of(STAGES, stage).field_words.get(field)
            if words is not None:
                assert words.value(before) == words.value(now), (field, before)
