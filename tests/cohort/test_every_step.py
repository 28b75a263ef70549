"""Every kind of step: what it does, its words, and when it does not fit."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter

from examples import examples
from hourglass.cohort.condition import Clause, Condition, UnfitConditionError, fulfilled
from hourglass.cohort.followup import form_cohort
from hourglass.cohort.steps.apply import Step, apply_steps
from hourglass.cohort.steps.document import PlannedStep, StepsDocument
from making import cells, table, timed

STEP = TypeAdapter(Step)
ROWS = table(
    "id,t,s,age,arm,born,start,code,cost\n"
    'p,5,1,70,old,1950-01-01,2020-01-01,1,"1.200,5"\n'
    'q,3,0,,new,1980-07-02,2020-07-02,99,"80,25"\n'
    'q,8,0,41,new,1980-07-02,2021-01-01,2,"3,5"\n'
    'r,2,1,55,,,2020-02-29,1,n/k\n'
    's,9,0,64,mid,1999-12-31,2020-01-01,99,\n'
)  # fmt: skip


def done(**step):
    now, (effect,) = apply_steps(ROWS, [STEP.validate_python(step)])
    return now, effect


def where(join="and", keep=False, **clauses):
    made = [{"column": c, "test": t, "values": v, "missing": m} for c, (t, v, m) in clauses.items()]
    return {"kind": "set_aside_where", "condition": {"join": join, "clauses": made}, "keep": keep}


@pytest.mark.parametrize(
    ("step", "left", "name"),
    [
        (where(age=("at least", ["55"], False)), [2, 3], "Set aside rows where age ≥ 55"),
        (
            where(keep=True, age=("under", ["60"], True)),
            [2, 3, 4],
            "Keep only rows where age < 60 (or is missing)",
        ),
        (
            where("or", arm=("is", ["old", "mid"], False), born=("is missing", [], False)),
            [2, 3],
            "Set aside rows where arm is old or mid or born is missing",
        ),
        (
            where(start=("over", ["2020-01-01"], False), arm=("is not", ["new"], False)),
            [1, 2, 3, 4, 5],
            "Set aside rows where start > 2020-01-01 and arm is not new",
        ),
        (where(id=("contains", ["Q"], False)), [1, 4, 5], "Set aside rows where id contains Q"),
        (
            {"kind": "set_aside_missing", "columns": ["age", "born"]},
            [1, 3, 5],
            "Set aside rows without age or born",
        ),
        (
            {"kind": "set_aside_repeats", "key": ["id"], "stays": "last"},
            [1, 3, 4, 5],
            "Of rows with one id keep the last",
        ),
        (
            {"kind": "set_aside_repeats", "key": ["arm"], "stays": "first"},
            [1, 2, 4, 5],
            "Of rows with one arm keep the first",
        ),
    ],
)
def test_rows_are_set_aside(step, left, name):
    now, effect = done(**step)
    assert now.numbers.tolist() == left
    assert (effect.name, effect.rows_set_aside, effect.broken) == (name, 5 - len(left), "")


MADE = [
    ("fill_missing column=age by=median", "age", "70|59.5|41|55|64", "59.5"),
    ("fill_missing column=arm by=most_frequent", "arm", "old|new|new|new|mid", "new"),
    ("fill_missing column=arm value=x", "arm", "old|new|new|x|mid", ""),
    ("mark_missing column=code values=99,", "code", "1||2|1|", ""),
    ("mark_missing column=start values=2020-01-01,", "start", "|2020-07-02|2021-01-01|2020-02-29|", ""),
    ("respell_levels column=arm spelling=mid:old,new:", "arm", "old||||old", ""),
    ("respell_levels column=arm spelling=mid:old into=two", "two", "old|new|new||old", ""),
    ("read_as_text column=code", "code", "1|99|2|1|99", ""),
    (
        "read_as_numbers column=cost decimal=, thousands=.", "cost", "1200.5|80.25|3.5||",
        "1 cells cannot be read so and are missing now: n/k",
    ),
    ("transform column=t by=per per=10", "t per 10", "0.5|0.3|0.8|0.2|0.9", ""),
    ("transform column=s by=log into=s", "s", "0|||0|", "3 values have none"),
    ("transform column=t by=centre", "t, centred", "-0.4|-2.4|2.6|-3.4|3.6", "mean is 5.4"),
    ("transform column=t by=square_root into=r", "r", "2.236068|1.732051|2.828427|1.414214|3", ""),
    (
        "time_between start=born end=start into=age_then", "age_then",
        "69.998631|40|40.501027||20.002738", "",
    ),
    (
        "split_number column=age points=65,55", "age, split",
        "65 and over||under 55|55 to under 65|55 to under 65", "",
    ),
    (
        "split_number column=t by=median into=half", "half",
        "5 and over|under 5|5 and over|under 5|5 and over", "",
    ),
    (
        "split_number column=s by=quantiles bands=4 into=q", "q",
        "1 and over|under 1|under 1|1 and over|under 1", "fewer bands",
    ),
    ("new_column name=z formula=t*2", "z", "10|6|16|4|18", ""),
]  # fmt: skip


def written(text):
    """A step from its short form: the kind, then field=value; lists have commas, maps colons."""
    kind, *parts = text.split(" ")
    step = {"kind": kind}
    for part in parts:
        field, _, value = part.partition("=")
        value = value.replace("_", " ") if field == "by" else value
        if field == "spelling":
            step[field] = dict(pair.split(":") for pair in value.split(","))
        elif field in ("values", "points"):
            step[field] = [v for v in value.split(",") if v]
        else:
            step[field] = value
    return step


@pytest.mark.parametrize(("step", "column", "shown", "note"), MADE)
def test_cells_and_columns_are_made(step, column, shown, note):
    now, effect = done(**written(step))
    assert effect.broken == ""
    for cell, wanted in zip(cells(now, column), shown.split("|"), strict=True):
        try:
            assert float(cell) == pytest.approx(float(wanted), abs=1e-6)
        except ValueError:
            assert cell == wanted
    assert note in effect.note
    assert ROWS.size == 5, "the table before is as it was"


@pytest.mark.parametrize(
    ("step", "words"),
    [
        (where(age=("is", [], False)), "give a value that age is compared with"),
        (where(age=("is", ["many"], False)), "“many” is not a number"),
        (where(born=("over", ["1.1.2020"], False)), "date such as"),
        (where(arm=("over", ["a"], False)), "no larger and smaller"),
        (where(age=("contains", ["1"], False)), "is no text"),
        (where(nowhere=("is missing", [], False)), "no column called “nowhere”"),
        ({"kind": "fill_missing", "column": "arm", "by": "median"}, "no median"),
        ({"kind": "fill_missing", "column": "arm", "value": " "}, "give the value that missing cells"),
        ({"kind": "mark_missing", "column": "age", "values": ["x"]}, "not all numbers"),
        ({"kind": "order_levels", "column": "arm", "order": ["none"]}, "no level “none”"),
        ({"kind": "split_number", "column": "arm", "points": [1]}, "does not hold numbers"),
        ({"kind": "split_number", "column": "age", "points": []}, "give the points"),
        ({"kind": "transform", "column": "age", "into": "arm"}, "already"),
        ({"kind": "time_between", "start": "age", "end": "start", "into": "x"}, "does not hold dates"),
        ({"kind": "new_column", "name": "x", "formula": "age +"}, "at character 6"),
        ({"kind": "take_unit_apart", "column": "age", "unit": "days"}, "has no levels"),
        ({"kind": "read_as_dates", "column": "cost", "order": "year month day"}, "state which comes first"),
        ({"kind": "stack_groups", "groups": {"s": "a", "arm": "b"}}, "different kinds"),
        ({"kind": "gather_records", "subject": "id", "date": "age", "record": "arm"}, "dates"),
    ],
)  # fmt: skip
def test_what_does_not_fit_is_stated_and_changes_nothing(step, words):
    now, effect = done(**step)
    assert words in effect.broken
    assert now is ROWS


def test_levels_have_an_order_a_reference_a_label_and_a_unit():
    now, effects = apply_steps(
        ROWS,
        [
            STEP.validate_python(s)
            for s in (
                {
                    "kind": "order_levels",
                    "column": "arm",
                    "order": ["old", "mid"],
                    "reference": "mid",
                },
                {"kind": "label_column", "column": "arm", "label": "Treatment", "unit": "dose"},
            )
        ],
    )
    arm = now.column("arm")
    assert list(arm.counts()) == ["old", "mid", "new"]
    assert (arm.reference, arm.label, arm.unit) == ("mid", "Treatment", "dose")
    assert cells(now, "arm") == cells(ROWS, "arm")
    assert effects[0].name == "arm: order old, mid; compare with mid"


@settings(max_examples=examples(60), deadline=None)
@given(
    st.lists(st.integers(-3, 12), min_size=1, max_size=30),
    st.lists(st.integers(-4, 13), min_size=1, max_size=5, unique=True),
)
def test_every_number_falls_into_the_band_that_names_it(values, points):
    rows = table("x\n" + "\n".join(map(str, values)) + "\n")
    step = STEP.validate_python({"kind": "split_number", "column": "x", "points": points})
    bands = apply_steps(rows, [step])[0].column("x, split")
    edges = sorted(points)
    for k, x in enumerate(values):
        name = bands.cell(k)
        if x < edges[0]:
            assert name == f"under {edges[0]}"
        elif x >= edges[-1]:
            assert name == f"{edges[-1]} and over"
        else:
            low, high = next((a, b) for a, b in pairwise(edges) if a <= x < b)
            assert name == f"{low} to under {high}"


def literal(clause, cell):
    """One clause on one cell, as text: numbers compared as numbers."""
    if clause.test in ("is missing", "is present"):
        return (cell == "") == (clause.test == "is missing")
    if cell == "":
        return clause.missing
    if clause.test in ("is", "is not"):
        hit = any(float(cell) == float(v) for v in clause.values)
        return hit == (clause.test == "is")
    limit = float(clause.values[0])
    return {
        "under": float(cell) < limit, "at most": float(cell) <= limit,
        "at least": float(cell) >= limit, "over": float(cell) > limit,
    }[clause.test]  # fmt: skip


clauses = st.builds(
    Clause,
    column=st.sampled_from(["a", "b"]),
    test=st.sampled_from(
        ["is", "is not", "under", "at most", "at least", "over", "is missing", "is present"]
    ),
    values=st.lists(st.integers(0, 4).map(str), min_size=1, max_size=2).map(tuple),
    missing=st.booleans(),
)


@settings(max_examples=examples(150), deadline=None)
@given(
    st.lists(
        st.tuples(*[st.sampled_from(["", "0", "1", "2", "3", "4"])] * 2), min_size=1, max_size=12
    ),
    st.lists(clauses, min_size=1, max_size=3).map(tuple),
    st.sampled_from(["and", "or"]),
)
def test_conditions_agree_with_their_literal_reading(rows, chosen, join):
    made = table("a,b,c\n9,9,0\n" + "".join(f"{a},{b},0\n" for a, b in rows))
    held = fulfilled(Condition(join=join, clauses=chosen), made)[1:]
    every = all if join == "and" else any
    for (a, b), found in zip(rows, held, strict=True):
        assert found == every(literal(c, a if c.column == "a" else b) for c in chosen)


def test_a_plan_comes_back_the_same_and_makes_the_same_cohort():
    steps = [
        where(id=("is", ["s"], False)),
        {"kind": "set_aside_repeats", "key": ["id"]},
        {"kind": "split_number", "column": "t", "by": "median", "into": "half"},
        {"kind": "new_column", "name": "x", "formula": "t * 2"},
        {"kind": "order_levels", "column": "half", "reference": "5 and over"},
    ]
    planned = tuple(PlannedStep(step=STEP.validate_python(s), reason="why not") for s in steps)
    plan = StepsDocument(follow_up=timed(subject="id"), steps=planned)
    again = StepsDocument.model_validate_json(plan.model_dump_json())
    assert again == plan
    one, two = (
        form_cohort(apply_steps(ROWS, [p.step for p in each.steps])[0], each.follow_up)
        for each in (plan, again)
    )
    assert np.array_equal(one.follow_up.exit, two.follow_up.exit)
    assert one.table.numbers.tolist() == two.table.numbers.tolist() == [1, 2, 4]
    assert [c.name for c in one.table.columns] == [c.name for c in two.table.columns]


def test_a_condition_needs_a_value_of_its_column():
    with pytest.raises(UnfitConditionError, match="nan"):
        fulfilled(Condition(clauses=(Clause(column="t", test="over", values=("nan",)),)), ROWS)


def test_a_column_has_another_name_in_its_place_and_none_has_two():
    now, effect = done(kind="rename_column", column="arm", into="group")
    assert [c.name for c in now.columns] == [
        "id",
        "t",
        "s",
        "age",
        "group",
        "born",
        "start",
        "code",
        "cost",
    ]
    assert (cells(now, "group"), effect.name) == (cells(ROWS, "arm"), "arm is named group")
    assert "already" in done(kind="rename_column", column="arm", into="age")[1].broken
    assert "no column called" in done(kind="rename_column", column="gone", into="x")[1].broken
