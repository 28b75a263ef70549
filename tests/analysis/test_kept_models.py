"""Kept models, and two of them side by side."""

import pytest
from scipy.special import chdtrc

from hourglass.analysis.model.kept_models import kept_choices
from hourglass.analysis.model.statement import HazardsModel, KeptModel, ModelStatement
from hourglass.analysis.model.terms.category import CategoryTerm
from hourglass.analysis.model.terms.curve import SplineTerm
from hourglass.analysis.model.terms.number import NumberTerm
from hourglass.core.progress import no_progress
from making import STUDY, demo_cohort, section
from stages import model, part_of

kept_models = part_of("model", "kept")

LARKMOOR = demo_cohort("larkmoor")
DROPS, VESSELS = CategoryTerm(column="drops"), CategoryTerm(column="vessels")
AGE, CELLS = NumberTerm(column="age", unit=10), NumberTerm(column="donor_cells", unit=100)


def put(act, **answer):
    """The statement that an act puts, its question answered."""
    statement = ModelStatement.read(act.statement)
    if not act.question:
        return statement
    place = int(act.field.split(".")[1])
    kept = list(statement.kept)
    kept[place] = kept[place].model_copy(update={"note": answer["note"]})
    return statement.model_copy(update={"kept": tuple(kept)})


def act(choices, letter, label):
    item = next(one for one in choices.items if one.key == letter)
    return next(one for one in item.acts if one.label == label)


def test_a_model_is_kept_planned_dropped_shown_again_and_taken_off():
    first = ModelStatement(terms=(DROPS,))
    offer, _ = kept_choices(first).offers
    kept = put(offer, note="in the protocol")
    assert [(k.letter, k.note) for k in kept.kept] == [("A", "in the protocol")]
    (rules,) = kept_choices(kept).offers
    assert [k.model.ties for k in put(rules).kept] == ["Efron", "Breslow", "exact"]
    assert kept_choices(put(rules)).offers == [], "what is kept is not offered again"
    wider = kept.model_copy(update={"terms": (DROPS, AGE)})
    both = put(kept_choices(wider).offers[0], note="")
    planned = put(act(kept_choices(both), "A", "Name as the planned model"))
    planned = put(act(kept_choices(planned), "B", "Name as the planned model"))
    assert [k.planned for k in planned.kept] == [False, True], "one at most is planned"
    dropped = put(act(kept_choices(planned), "A", "Drop, with a reason"), note="age matters")
    item = kept_choices(dropped).items[0]
    assert (item.mark, item.below, item.chosen) == ("dropped", "age matters", False)
    shown = put(item.opens)
    assert shown.terms == (DROPS,)
    assert kept_choices(shown).items[0].chosen
    left = put(act(kept_choices(shown), "B", "Remove from the kept models"))
    assert [k.letter for k in left.kept] == ["A"]
    assert left.next_letter == "B"


def beside(terms, other, **more):
    one = KeptModel(letter="B", model=HazardsModel(terms=other, **more))
    return model(LARKMOOR, ModelStatement(terms=terms, kept=(one,), beside="B"))


def test_ratios_are_aligned_and_those_of_one_model_alone_stand_after_them():
    found = beside((DROPS, AGE), (AGE, VESSELS))
    track = found.figure.track("ratios")
    cells = {c.head: c.cells for c in track.columns}
    assert track.axis.categories == [
        "drops", "extended", "age", "vessels", "1-2 quadrants", "3-4 quadrants",
    ]  # fmt: skip
    alone = model(LARKMOOR, ModelStatement(terms=(AGE, VESSELS)))
    age, *levels = [c.adjusted.worded for t in alone.terms for c in t.coefficients]
    assert [c and c.text for c in cells["in B"]] == [None, "—", age, None, *levels]
    here = found.terms[1].coefficients[0].adjusted.ratio
    there = alone.terms[0].coefficients[0].adjusted.ratio
    assert cells["change"][2].text == f"{100 * (here / there - 1):+.1f}%".replace("-", "−")
    assert "Neither model holds the other" in section(found, "beside").blocks[-1].text


@pytest.mark.parametrize("wide", [(DROPS, AGE), (DROPS, SplineTerm(column="age", knots=3))])
def test_a_model_that_holds_the_other_is_tested_against_it(wide):
    narrow = (DROPS,) if AGE in wide else (DROPS, AGE)
    tables = {
        b.label: b for b in section(beside(wide, narrow), "beside").blocks if b.kind == "table"
    }
    lines = [
        model(LARKMOOR, ModelStatement(terms=t)).minus_two_log_likelihood for t in (narrow, wide)
    ]
    (nested,) = tables["Nested test"].rows
    assert nested[1].raw == pytest.approx(lines[0] - lines[1], rel=1e-9)
    assert nested[2].raw == 1
    assert [c.raw for c in tables["Criteria on the same rows"].rows[0][1:]] == lines[::-1]


@pytest.mark.parametrize(
    ("other", "why"),
    [
        ({"ties": "Breslow"}, "handle ties in different ways"),
        ({"penalised": True}, "a likelihood is penalised"),
        ({"strata": ("vessels",)}, "stratified differently"),
        ({"left_out": (1,)}, "of other rows"),
    ],
)
def test_criteria_of_other_likelihoods_are_blank_and_give_the_reason(other, why):
    found = beside((DROPS, AGE), (DROPS,), **other)
    section_of = section(found, "beside")
    assert not any(
        b.label == "Criteria on the same rows" for b in section_of.blocks if b.kind == "table"
    )
    words = " ".join(b.text for b in section_of.blocks if b.kind == "words")
    assert why in words or "other rows" in words
    kept = (KeptModel(letter="B", model=HazardsModel(terms=(DROPS,), **other)),)
    stated = {**STUDY, "model": ModelStatement(terms=(DROPS, AGE), kept=kept)}
    table, rows = kept_table(stated)
    assert [one.split(":")[0] for one in table.head] == ["", "shown", "B"]
    assert [rows[name][2].raw for name in ("−2ℓ", "AIC", "BIC")] == [None] * 3
    assert why in "".join(under_table(stated))


def test_models_of_other_rows_are_refitted_on_their_common_rows():
    found = beside((DROPS, AGE), (DROPS, CELLS))
    blocks = section(found, "beside").blocks
    assert not any(b.kind == "table" for b in blocks), "no criteria across other rows"
    (offer,) = [b for b in blocks if b.kind == "action"]
    common = ModelStatement.read(offer.statement)
    again = model(LARKMOOR, common)
    assert again.rows == 583
    assert "on the rows that have age, donor_cells and drops" in again.sentence.text
    assert any(b.kind == "table" for b in section(again, "beside").blocks)


def kept_table(statements):
    (part,) = kept_models(LARKMOOR, statements, no_progress).sections
    table = part.blocks[0]
    return table, {row[0].text: row for row in table.rows}


def under_table(statements):
    """What stands under the table of kept models."""
    (part,) = kept_models(LARKMOOR, statements, no_progress).sections
    return [text for block in part.blocks[1:] for text in (block.text, *block.items)]


def test_every_kept_model_has_a_column_with_its_ratios_and_what_they_rest_on():
    kept = (
        KeptModel(letter="A", model=HazardsModel(terms=(DROPS,))),
        KeptModel(letter="B", model=HazardsModel(terms=(DROPS, CELLS)), note="fewer rows"),
        KeptModel(letter="C", model=HazardsModel(terms=(NumberTerm(column="gone"),))),
    )
    stated = ModelStatement(terms=(DROPS, AGE), kept=kept)
    stated = {**STUDY, "model": stated}
    table, rows = kept_table(stated)
    assert [one.split(":")[0] for one in table.head] == ["", "shown", "A", "B", "C"]
    shown, alone = model(LARKMOOR, stated["model"]), model(LARKMOOR, ModelStatement(terms=(DROPS,)))
    ratios = [one.terms[0].coefficients[0].adjusted.ratio for one in (shown, alone)]
    drops = next(row for label, row in rows.items() if label.startswith("drops"))
    assert [cell.raw for cell in drops[1:3]] == ratios
    assert rows["rows"][1:][2].raw == 583
    assert [cell.raw for cell in rows["AIC"][3:]] == [None, None], "other rows have no AIC"
    moved = next(row for label, row in rows.items() if label.startswith("change of drops"))
    assert moved[2].text == f"{100 * (ratios[1] / ratios[0] - 1):+.1f}%".replace("-", "−")
    tested = rows["p against the model shown"]
    lines = [one.minus_two_log_likelihood for one in (alone, shown)]
    assert tested[2].raw == pytest.approx(float(chdtrc(1, lines[0] - lines[1])), rel=1e-9)
    assert [cell.raw for cell in (tested[1], *tested[3:])] == [None] * 3
    under = under_table(stated)
    assert "B: drops and donor_cells per 100 (fewer rows)" in under
    assert any("no column called" in text for text in under)


def test_three_rules_for_ties_stand_in_one_table():
    _, every = kept_choices(ModelStatement(terms=(DROPS,))).offers
    stated = {**STUDY, "model": put(every)}
    table, rows = kept_table(stated)
    rules = ("Efron", "Breslow", "exact (discrete)")
    named = [f"{letter}: drops, ties by {rule}" for letter, rule in zip("ABC", rules, strict=True)]
    assert table.head == ["", *named], "the model shown is one of them"
    (drops,) = (row for label, row in rows.items() if label.startswith("drops"))
    ratios = [
        model(LARKMOOR, ModelStatement(terms=(DROPS,), ties=ties)).terms[0].coefficients[0]
        for ties in ("Efron", "Breslow", "exact")
    ]
    assert [cell.raw for cell in drops[1:]] == [one.adjusted.ratio for one in ratios]
    assert any("ties by Breslow" in text for text in under_table(stated))


def test_a_kept_model_is_called_by_what_shows_it_from_the_others():
    long = (DROPS, VESSELS, AGE, CELLS)
    models = [
        HazardsModel(terms=long),
        HazardsModel(terms=long, ties="Breslow"),
        HazardsModel(terms=(*long, SplineTerm(column="wait_days", knots=3)), strata=("centre",)),
        HazardsModel(terms=(DROPS, VESSELS, AGE, NumberTerm(column="donor_age", unit=10))),
    ]
    kept = tuple(
        KeptModel(letter=letter, model=one) for letter, one in zip("ABCD", models, strict=True)
    )
    names = [item.words for item in kept_choices(ModelStatement(kept=kept)).items]
    assert names[0] == "donor_cells per 100, ties by Efron"
    assert names[1] == "donor_cells per 100, ties by Breslow"
    assert names[2].endswith("ties by Efron, stratified by centre")
    assert "wait_days" in names[2]
    assert names[3] == "donor_age per 10, ties by Efron"
