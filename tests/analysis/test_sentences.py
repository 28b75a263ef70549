import pytest
from pydantic import ValidationError

from hourglass.analysis.check.sentence import check_sentence
from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.compare.sentence import compare_sentence
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.estimate.sentence import estimate_sentence
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.model.new_term import new_term
from hourglass.analysis.model.sentence import model_sentence
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.model.terms.category import CategoryTerm, TrendTerm
from hourglass.analysis.model.terms.number import DoublingTerm, NumberTerm
from hourglass.analysis.prepare.sentence import follow_up_sentence
from hourglass.analysis.shared.curve_form import USUAL
from hourglass.cohort.statement import CodeMeaning
from making import cohort, default_statement, demo_cohort, demo_follow_up, demo_table, table, timed

ROWS = "t,s,g,x,z\n1,1,a,10,-1\n2,0,b,20,2\n3,1,b,40,3\n4,0,a,30,4\n5,1,b,,5\n"


def slots(sentence):
    return {part.slot.id: part.slot for part in sentence.parts if part.slot}


def set_by(slot, label):
    return next((o.field, o.value) for o in slot.options if o.label.startswith(label))


def test_the_follow_up_reads_as_one_sentence():
    found = follow_up_sentence(demo_table("larkmoor"), demo_follow_up("larkmoor"))
    assert found.text == (
        "Follow grafts from grafted_on to last_seen, in months. In outcome, R is the event, "
        "A and L are censored, D is competing, blank has no meaning yet; the event is called "
        "rejection. Each is known by graft_no. Under observation only from joined_on."
    )
    assert slots(found)["meanings"].state == "open"
    assert [(c.code, c.count, c.meaning) for c in slots(found)["meanings"].codes][:2] == [
        ("", 3, None),
        ("A", 166, "censored"),
    ]


def test_slots_offer_columns_that_fit_and_the_other_clock():
    found = slots(follow_up_sentence(demo_table("larkmoor"), demo_follow_up("larkmoor")))
    assert set_by(found["start"], "joined_on") == ("clock.start", "joined_on")
    assert set_by(found["end"], "age")[1] == {"kind": "duration", "column": "age"}
    assert "2016" in found["start"].options[0].note
    assert {o.label for o in found["start"].options if o.field == "clock.start"} == {
        "grafted_on",
        "last_seen",
        "joined_on",
    }
    assert set_by(found["outcome"], "eye") == (
        "",
        {"ended": "codes", "outcome": "eye", "meanings": {}},
    )
    assert set_by(found["late_entry"], "No delayed entry") == ("late_entry", None)


def test_unfilled_slots_are_open_and_optional_parts_are_offered():
    found = slots(follow_up_sentence(table(ROWS), timed(outcome=None)))
    assert found["outcome"].state == "open"
    assert (found["late_entry"].state, found["subject"].state) == ("add", "add")
    assert "meanings" not in found


def test_many_unknown_codes_are_ended_early():
    lines = "".join(f"1,{k}\n" for k in range(10, 20))
    text = slots(follow_up_sentence(table("t,s\n" + lines), timed()))["meanings"].label
    assert text == "10, 11, 12, 13, 14, 15 and 4 more have no meaning yet"


def test_estimate_reads_as_a_sentence():
    found = estimate_sentence(cohort(ROWS), EstimateStatement(confidence=0.9, times=(1, 2.5)))
    assert found.text == (
        "Estimate the share of rows free of the event, for all rows, with 90% pointwise "
        "intervals on the log–log scale, by Kaplan–Meier, read at 1 and 2.5 months."
    )
    assert slots(found)["times"].entry.value == "1, 2.5"
    assert set_by(slots(found)["confidence"], "99%") == ("confidence", 0.99)


def test_compare_reads_as_a_sentence_and_previews_counts():
    rows = cohort(ROWS)
    found = compare_sentence(rows, CompareStatement(by="g", reference="b"), USUAL)
    assert found.text == (
        "Compare time to the event by g, against b, by the log-rank test, with 95% intervals."
    )
    (by,) = [o for o in slots(found)["by"].options if o.label == "g"]
    assert by.note == "a 2 · b 3"
    assert by.value["by"] == "g"
    assert by.value["reference"] is None
    assert [o.chosen for o in slots(found)["reference"].options] == [False, True]
    uncalled = compare_sentence(rows, CompareStatement(), USUAL)
    assert slots(uncalled)["by"].state == "open"


def test_a_third_group_brings_a_slot_for_the_difference():
    rows = cohort("t,s,g\n" + "".join(f"{k},1,{'abc'[k % 3]}\n" for k in range(1, 10)))
    found = compare_sentence(rows, CompareStatement(by="g", reference="a", contrast="c"), USUAL)
    assert "showing the difference for c" in found.text
    assert [o.label for o in slots(found)["contrast"].options] == ["b", "c"]


def test_model_terms_are_slots_with_units_references_and_a_way_out():
    terms = (CategoryTerm(column="g", reference="a"), NumberTerm(column="x", unit=10))
    found = model_sentence(cohort(ROWS), ModelStatement(terms=terms), USUAL)
    assert found.text == (
        "Rate of the event by g and x per 10, ties by Efron, with 95% Wald intervals."
    )
    terms = slots(found)
    assert set_by(terms["term-0"], "b") == ("terms.0.reference", "b")
    assert set_by(terms["term-1"], "per doubling")[1] == {
        "kind": "doubling",
        "column": "x",
        "changing": None,
    }
    field, left = set_by(terms["term-0"], "Take g out")
    assert field == "terms"
    assert [t["column"] for t in left] == ["x"]
    assert terms["term-1"].entry.field == "terms.1.unit"
    assert {o.label for o in terms["add-term"].options} == {"z"}, (
        "clock and outcome are not offered"
    )
    (z,) = terms["add-term"].options
    assert (z.field, z.adds, z.value["column"]) == ("terms", True, "z")


def test_a_number_with_values_under_zero_cannot_be_doubled():
    rows = cohort(ROWS)
    found = slots(model_sentence(rows, ModelStatement(terms=(NumberTerm(column="z"),)), USUAL))
    assert not any(o.label == "per doubling" for o in found["term-0"].options)
    notes = {o.label: o.note for o in found["add-term"].options}
    assert "1 missing rows would be left out" in notes["x"]


def test_a_category_in_order_keeps_its_form_among_those_offered():
    rows = demo_cohort("larkmoor")

    def offered(term):
        found = slots(model_sentence(rows, ModelStatement(terms=(term,)), USUAL))["term-0"]
        return {one.label: one.chosen for one in found.options}

    of_two, of_more = offered(CategoryTerm(column="drops")), offered(CategoryTerm(column="centre"))
    assert "In order, per level" not in of_two, "two levels have one order"
    assert of_more["In order, per level"] is False
    for column in ("drops", "centre"):
        in_order = offered(TrendTerm(column=column))
        assert in_order["In order, per level"] is True
        assert in_order["Level by level"] is False


def test_a_term_whose_column_is_gone_can_still_be_taken_out():
    found = model_sentence(cohort(ROWS), ModelStatement(terms=(NumberTerm(column="gone"),)), USUAL)
    assert [o.label for o in slots(found)["term-0"].options] == ["Take gone out"]


def test_check_reads_as_a_question():
    stated = ModelStatement(terms=(NumberTerm(column="x"),))
    found = check_sentence(cohort(ROWS), stated, CheckStatement(time_function="log time"))
    assert found.text.endswith("with time measured as the logarithm of time?")
    assert len(slots(found)["time-function"].options) == 4


def test_new_terms_take_a_round_unit_and_leave_the_reference_to_the_column():
    larkmoor = demo_cohort("larkmoor")

    def first(name):
        return new_term(larkmoor, larkmoor.table.column(name))

    assert first("age") == NumberTerm(column="age", unit=10)
    assert first("donor_cells") == NumberTerm(column="donor_cells", unit=100)
    assert first("vessels") == CategoryTerm(column="vessels")
    assert first("graft_no") is None
    assert first("grafted_on") is None


def test_every_stage_has_a_sensible_start():
    larkmoor = demo_cohort("larkmoor")
    assert default_statement("estimate", larkmoor) == EstimateStatement(times=(24, 48, 72, 96))
    compare = default_statement("compare", larkmoor)
    assert isinstance(compare, CompareStatement)
    assert compare.by is not None
    model = default_statement("model", larkmoor)
    assert isinstance(model, ModelStatement)
    assert len(model.terms) == 1
    plain = cohort("t,s\n1,1\n2,0\n")
    assert default_statement("compare", plain) == CompareStatement()
    assert default_statement("model", plain) == ModelStatement()


@pytest.mark.parametrize(
    ("last", "unit", "times"),
    [
        (0.4, "months", (0.1, 0.2, 0.30000000000000004, 0.4)),
        (30, "months", (6, 12, 18, 24)),
        (11, "years", (2, 4, 6, 8)),
        (1e6, "hours", (1e6,)),
    ],
)
def test_chosen_times_are_round_and_within_follow_up(last, unit, times):
    meanings = {"1": CodeMeaning(meaning="event")}
    rows = cohort(f"t,s\n{last},1\n", unit=unit, meanings=meanings)
    assert default_statement("estimate", rows).times == times


@pytest.mark.parametrize(
    "bad",
    [
        {"stage": "estimate", "confidence": 1.0},
        {"stage": "estimate", "times": [-1]},
        {"stage": "estimate", "times": list(range(13))},
        {"stage": "model", "terms": [{"kind": "number", "column": "x", "unit": 0}]},
        {"stage": "model", "version": 5},
        {"stage": "check", "time_function": "sundial"},
        {"stage": "compare", "mystery": 1},
    ],
)
def test_statements_refuse_what_they_do_not_know(bad):
    kinds = {
        "estimate": EstimateStatement,
        "model": ModelStatement,
        "check": CheckStatement,
        "compare": CompareStatement,
    }
    with pytest.raises(ValidationError):
        kinds[bad["stage"]].model_validate(bad)


def test_doubling_is_a_term_of_its_own_kind():
    made = ModelStatement.model_validate({"terms": [{"kind": "doubling", "column": "x"}]})
    assert made.terms == (DoublingTerm(column="x"),)
