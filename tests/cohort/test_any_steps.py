"""Any steps on any table: carried out or refused with a reason, and what is left is a sound table."""

import contextlib

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from pydantic import BaseModel, TypeAdapter, ValidationError

from examples import examples
from hourglass.analysis.prepare.run import prepare
from hourglass.analysis.prepare.step_preview import preview_step
from hourglass.cohort.findings.find import find
from hourglass.cohort.findings.finding import statement_for, steps_for
from hourglass.cohort.layouts import recognise
from hourglass.cohort.proposal.propose import propose
from hourglass.cohort.proposal.waiting import with_waiting_filled
from hourglass.cohort.steps.apply import Step, apply_steps
from hourglass.cohort.steps.document import PlacedStep
from hourglass.cohort.table import NumberColumn, TextColumn
from making import table, timed

STEP = TypeAdapter(Step)
NAMES = ["t", "s", "g", "d", "x", "gone", "new", ""]
name = st.sampled_from(NAMES)


def one_of(*values):
    return st.sampled_from(values)


word = one_of("a", "b", "", "7", "2020-01-05", "NA", "=x", "é")
number = st.sampled_from([-1, 0, 0.5, 3, 10, 1e9])
clause = st.fixed_dictionaries(
    {
        "column": name,
        "test": one_of("is", "is not", "under", "at least", "contains", "is missing"),
        "values": st.lists(word, max_size=2),
        "missing": st.booleans(),
    }
)
formula = st.sampled_from(
    [
        "t + 1",
        "t / s",
        'if g = "a" then x else t',
        "d - d",
        "d + t",
        "max(t, x)",
        "g",
        "t +",
        "gone",
    ]
)
pairs = st.dictionaries(name, word, min_size=1, max_size=2)
KINDS = {
    "set_aside": {"rows": st.lists(st.integers(-1, 9), max_size=4), "why": word},
    "set_aside_where": {
        "condition": st.fixed_dictionaries(
            {"join": one_of("and", "or"), "clauses": st.lists(clause, min_size=1, max_size=2)}
        ),
        "keep": st.booleans(),
    },
    "set_aside_missing": {"columns": st.lists(name, min_size=1, max_size=2)},
    "set_aside_repeats": {
        "key": st.lists(name, min_size=1, max_size=2), "stays": one_of("first", "last"), "along": name,
    },
    "swap_cells": {
        "rows": st.lists(st.integers(0, 9), max_size=3),
        "columns": st.lists(name, min_size=2, max_size=2),
    },
    "correct_cell": {"row": st.integers(0, 9), "column": name, "value": word},
    "fill_missing": {"column": name, "by": one_of("value", "median", "most frequent"), "value": word},
    "mark_missing": {"column": name, "values": st.lists(word, min_size=1, max_size=2)},
    "respell_levels": {"column": name, "spelling": st.dictionaries(word, word), "into": name},
    "order_levels": {"column": name, "order": st.lists(word, max_size=2), "reference": word},
    "label_column": {"column": name, "label": word, "unit": word},
    "rename_column": {"column": name, "into": word},
    "read_as_text": {"column": name},
    "read_as_numbers": {"column": name, "decimal": one_of(".", ","), "thousands": one_of("", ",")},
    "read_as_dates": {
        "column": name, "order": one_of("day first", "year month day", "spreadsheet days"),
        "serials": st.booleans(),
    },
    "split_number": {
        "column": name, "by": one_of("points", "median", "quantiles"),
        "points": st.lists(number, max_size=3), "bands": st.integers(2, 5), "into": name,
    },
    "transform": {"column": name, "by": one_of("per", "log", "square root", "centre"), "into": name},
    "time_between": {"start": name, "end": name, "into": one_of("new", "t")},
    "new_column": {"name": one_of("new", "t"), "formula": formula},
    "spread_counts": {"counts": pairs, "time": name, "at_risk": name},
    "stack_groups": {"groups": pairs},
    "gather_records": {"subject": name, "date": name, "record": name},
    "take_mark_apart": {"column": name, "marked": one_of("censored", "event"), "into": name},
    "read_colons": {"column": name, "first": one_of("hours", "minutes")},
    "take_ends_apart": {"column": name, "keep": one_of("both", "first", "second")},
    "fill_down": {"column": name},
    "first_known": {"columns": st.lists(name, min_size=1, max_size=3), "into": one_of("new", "t")},
    "century_earlier": {"column": name, "after": name},
    "whole_days": {"column": name, "ahead": st.integers(-12, 14)},
    "first_by_subject": {"subject": name, "column": name, "into": one_of("new", "t")},
}  # fmt: skip
steps = st.one_of(
    *(st.fixed_dictionaries({"kind": st.just(kind), **fields}) for kind, fields in KINDS.items())
)
rows = st.lists(
    st.tuples(
        one_of("", "0", "1", "2.5", "9", "-3"),
        one_of("", "0", "1", "2"),
        one_of("", "a", "A ", "b", "13/01/2020", "12+", "7:05", "1-9", "44000"),
        one_of("", "2020-01-05", "2021-06-30"),
        one_of("", "7", "1e9", "-0.5"),
    ),
    min_size=1,
    max_size=9,
)


def sound(now):
    """Every column as long as the table, codes within levels, numbers finite or missing."""
    assert len(np.unique(now.numbers)) == now.size
    assert len({c.name for c in now.columns}) == len(now.columns)
    for column in now.columns:
        assert column.missing.size == now.size
        if isinstance(column, TextColumn):
            assert column.codes.min(initial=-1) >= -1
            assert column.codes.max(initial=-1) < len(column.levels)
            assert "" not in column.counts()
        if isinstance(column, NumberColumn):
            assert not np.isinf(column.values).any()
        for k in range(now.size):
            assert (column.cell(k) == "") == column.missing[k]


anything = settings(
    max_examples=examples(200), deadline=None, suppress_health_check=[HealthCheck.too_slow]
)


def text_of(made):
    return "t,s,g,d,x\n" + "".join(",".join(row) + "\n" for row in made)


@anything
@given(rows, st.lists(steps, min_size=1, max_size=5))
def test_steps_are_carried_out_or_give_the_reason_not(made, stated):
    chosen = []
    for step in stated:
        with contextlib.suppress(ValidationError):
            chosen.append(STEP.validate_python(step))
    before = table(text_of(made))
    cells = [[c.cell(k) for k in range(before.size)] for c in before.columns]
    after, effects = apply_steps(before, chosen)
    sound(after)
    for effect in effects:
        assert effect.name
        assert "the program could not" not in effect.broken, "a fault of the step"
    assert [[c.cell(k) for k in range(before.size)] for c in before.columns] == cells
    again, _ = apply_steps(before, [STEP.validate_json(STEP.dump_json(s)) for s in chosen])
    assert [c.name for c in again.columns] == [c.name for c in after.columns]
    for a, b in zip(after.columns, again.columns, strict=True):
        assert [a.cell(k) for k in range(after.size)] == [b.cell(k) for k in range(after.size)]


@anything
@given(rows, steps)
def test_a_preview_states_what_taking_the_step_then_does(made, stated):
    try:
        step = STEP.validate_python(stated)
    except ValidationError:
        return
    before = table(text_of(made))
    seen = preview_step(before, step, timed())
    answered = prepare(before, [PlacedStep(id=1, step=step)], timed(), {})
    (done,) = answered.steps
    assert (seen.name, seen.rows_set_aside, seen.broken) == (
        done.name,
        done.rows_set_aside,
        done.broken,
    )
    assert (seen.cells_changed, seen.made, seen.note) == (done.cells_changed, done.made, done.note)
    if done.broken:
        assert any(done.broken in b.sentence for b in answered.blocks), "later stages wait"


@anything
@given(rows)
def test_every_choice_of_every_finding_and_layout_can_be_carried_out(made):
    before = table(text_of(made))
    statement = propose(before)
    for finding in find(before, statement):
        for choice in finding.choices:
            after, effects = apply_steps(before, steps_for(finding, choice.name))
            with_waiting_filled(statement_for(choice, statement), before, after)
            assert [e.broken for e in effects if e.broken] == []
            sound(after)
    for guess in recognise(before):
        after, effects = apply_steps(before, guess.steps)
        assert [e.broken for e in effects if e.broken] == []
        sound(after)
        assert guess.change(statement).version == 1


class Faulty(BaseModel):
    """A step with a fault in it."""

    def named(self):
        return "Faulty"

    def on(self, table):
        raise OverflowError("Python int too large to convert to C long")


def test_a_fault_of_a_step_passes_it_over_and_the_study_goes_on():
    before = table("t,s\n1,1\n2,0\n")
    after, effects = apply_steps(before, [Faulty()])
    assert after is before
    assert "OverflowError: Python int too large" in effects[0].broken


@pytest.mark.parametrize("row", [2**63, 2**70, -1])
def test_rows_beyond_what_a_table_can_number_are_refused_where_they_enter(row):
    with pytest.raises(ValidationError):
        STEP.validate_python({"kind": "set_aside", "rows": [row], "why": ""})
