"""The sentences in which steps are written fit the steps they make."""

from typing import get_args

import pytest
from pydantic import TypeAdapter

from hourglass.cohort.steps.apply import Step
from hourglass.cohort.steps.forms import FORMS

KINDS = {kind.model_fields["kind"].default: kind for kind in get_args(get_args(Step)[0])}
FILLED = {
    "column": "a", "columns": ["a"], "text": "b", "number": 3, "points": [1.0, 2.0],
    "words": ["x"], "levels": {"x": "y"}, "order": ["x", "y"], "level": "x", "formula": "a + 1",
    "pairs": {"a": "event"},
    "condition": {"join": "and", "clauses": [{"column": "a", "test": "is", "values": ["x"]}]},
}  # fmt: skip


def filled(form):
    """A step with every place of its sentence filled."""
    body = dict(form.start)
    for part in form.parts:
        place = part.place
        if place is not None and place.at != "choice" and not isinstance(body[place.field], int):
            body[place.field] = "" if place.optional else FILLED[place.at]
            if place.optional and place.at in ("order", "columns", "words"):
                body[place.field] = []
    return body


@pytest.mark.parametrize("form", FORMS, ids=lambda form: form.kind)
def test_a_form_makes_a_step_of_its_kind(form):
    step = TypeAdapter(Step).validate_python(filled(form))
    assert type(step) is KINDS[form.kind]
    assert step.named()


@pytest.mark.parametrize("form", FORMS, ids=lambda form: form.kind)
def test_every_choice_of_a_form_is_one_that_the_step_knows(form):
    choices = [part.place for part in form.parts if part.place and part.place.at == "choice"]
    for place in choices:
        values = [option.value for option in place.options]
        assert form.start[place.field] in values
        for value in values:
            TypeAdapter(Step).validate_python({**filled(form), place.field: value})
    fields = {field for part in form.parts for field in part.when}
    assert fields <= {place.field for place in choices}, "what a part waits for can be chosen"


def test_forms_are_of_different_kinds():
    assert len({form.kind for form in FORMS}) == len(FORMS)
