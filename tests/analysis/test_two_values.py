"""Numbers of two values are categories everywhere, and a column has one reference level for all stages."""

import pytest

from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.model.new_term import new_term
from hourglass.analysis.model.sentence import model_sentence
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.model.terms.category import CategoryTerm
from hourglass.analysis.model.terms.number import NumberTerm
from hourglass.analysis.prepare.describe import describe
from hourglass.analysis.shared.curve_form import USUAL
from hourglass.cohort.findings.find import find
from hourglass.cohort.findings.finding import steps_for
from hourglass.cohort.followup import form_cohort
from hourglass.cohort.steps.apply import apply_steps
from hourglass.cohort.steps.levels import OrderLevels
from making import cohort, default_statement, table, timed
from stages import compare, model

ROWS = "t,s,diabetes,grade\n" + "".join(
    f"{5 + k * 7 % 23},{int(k % 3 > 0)},{k % 2},{k % 4 + 1}\n" for k in range(60)
)


def slot(sentence, name):
    return next(p.slot for p in sentence.parts if p.slot and p.slot.id == name)


def test_yes_and_no_in_digits_is_a_category_in_every_stage():
    rows = cohort(ROWS)
    assert default_statement("compare", rows).by == "diabetes"
    assert new_term(rows, rows.table.column("diabetes")) == CategoryTerm(column="diabetes")
    found = model(rows, ModelStatement(terms=(CategoryTerm(column="diabetes"),)))
    (term,) = found.terms
    assert [(c.label, c.against) for c in term.coefficients] == [("diabetes 1", "diabetes 0")]
    assert "as high in rows with diabetes 1 as in those with diabetes 0" in found.words[0]
    assert "for each" not in found.words[0]
    described = describe(rows, None)
    assert [r.what for r in described.rows if r.column == "diabetes"] == ["0", "1"]
    assert "diabetes" not in [d.column for d in described.distributions]


def test_somebody_may_state_that_it_is_a_number_after_all():
    rows = cohort(ROWS)
    stated = ModelStatement(terms=(CategoryTerm(column="diabetes"),))
    other = next(
        o
        for o in slot(model_sentence(rows, stated, USUAL), "term-0").options
        if "as a number" in o.label
    )
    assert other.value == NumberTerm(column="diabetes").model_dump(mode="json")
    back = ModelStatement(terms=(NumberTerm(column="diabetes"),))
    assert any(
        "as a category" in o.label
        for o in slot(model_sentence(rows, back, USUAL), "term-0").options
    )


def test_a_few_whole_numbers_are_questions():
    rows = table(ROWS)
    stated = next(f for f in find(rows, timed()) if f.key == "few numbers: grade")
    assert stated.title == "grade is 1, 2, 3, 4: a category or a number?"
    assert [c.label for c in stated.choices] == ["Take it as a category", "Take it as a number"]
    taken, _ = apply_steps(rows, steps_for(stated, "category"))
    assert taken.column("grade").levels == ("1", "2", "3", "4")
    keys = [f.key for f in find(rows, timed())]
    assert "few numbers: diabetes" not in keys
    assert "few numbers: t" not in keys


@pytest.mark.parametrize("reference", ["0", "1"])
def test_the_reference_set_in_prepare_is_that_of_every_stage(reference):
    other = str(1 - int(reference))
    steps = [OrderLevels(column="diabetes", reference=reference)]
    now, _ = apply_steps(cohort(ROWS).table, steps)
    rows = form_cohort(now, timed())
    compared = compare(rows, CompareStatement(by="diabetes"))
    assert [c.label for c in compared.curves] == [f"diabetes {reference}", f"diabetes {other}"]
    fitted = model(rows, ModelStatement(terms=(CategoryTerm(column="diabetes"),)))
    assert fitted.terms[0].coefficients[0].against == f"diabetes {reference}"
    assert [g.label for g in describe(rows, "diabetes").groups][1] == f"diabetes {reference}"


def test_the_first_level_in_order_is_the_reference_where_none_is_set():
    text = "t,s,g\n" + "".join(f"{k + 1},{k % 2},{'b' if k % 3 else 'a'}\n" for k in range(30))
    rows = cohort(text)
    assert compare(rows, CompareStatement(by="g")).curves[0].label == "a", "not the most frequent"
    fitted = model(rows, ModelStatement(terms=(CategoryTerm(column="g"),)))
    assert fitted.terms[0].coefficients[0].against == "a"
