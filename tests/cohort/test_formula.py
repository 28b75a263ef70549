"""The formula language, against a slow reading of the same formulas row by row."""

import math
import time
from datetime import date, timedelta

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from examples import examples
from hourglass.cohort.formula import evaluate
from hourglass.cohort.formula.evaluate import formula_column
from hourglass.cohort.formula.parse import parse
from hourglass.cohort.formula.tokens import FormulaError
from hourglass.cohort.formula.tree import columns_of
from making import table

ROWS = table(
    "age,weight,sex,born,seen,body mass\n"
    "70,80.5,f,1950-03-01,2020-03-01,21\n"
    "64,,m,1960-01-31,2021-12-31,\n"
    ",55,f,,2020-02-29,30.5\n"
    "0,-3,,1999-12-31,2000-01-01,0\n"
)  # fmt: skip
AGE, WEIGHT = [70.0, 64.0, None, 0.0], [80.5, None, 55.0, -3.0]


def cells(formula, rows=ROWS):
    made = formula_column("new", formula, rows)
    return [made.cell(k) for k in range(rows.size)]


@pytest.mark.parametrize(
    ("formula", "shown"),
    [
        ("age + 1", ["71", "65", "", "1"]),
        ("2 + 3 * 4 ^ 2 / 2 - -1", ["27"] * 4),
        ("-2 ^ 2", ["-4"] * 4),
        ("weight / age", ["1.15", "", "", ""]),
        ('if age ≥ 65 then "older" else "younger"', ["older", "younger", "", "younger"]),
        ('if age is missing then "?" else sex', ["f", "m", "?", ""]),
        ("age > 60 and weight > 60", ["yes", "", "no", "no"]),
        ("age > 60 or weight > 60", ["yes", "yes", "", "no"]),
        ("not (age = 64)", ["yes", "no", "", "yes"]),
        ('sex = "f"', ["yes", "no", "yes", ""]),
        ('sex in ("m", "x")', ["no", "yes", "no", ""]),
        ("seen - born", ["25568", "22615", "", "1"]),
        ("born + 31", ["1950-04-01", "1960-03-02", "", "2000-01-31"]),
        ("year(born) * 100 + month(born)", ["195003", "196001", "", "199912"]),
        ('seen > date("2020-03-01")', ["no", "yes", "no", "no"]),
        ("[body mass] * 2", ["42", "", "61", "0"]),
        ("max(age, weight, 60)", ["80.5", "", "", "60.0"]),
        ("round(weight / 7, 2)", ["11.50", "", "7.86", "-0.43"]),
        ("round(2.5) + round(-2.5)", ["1"] * 4),
        ("log(age)", ["4.24849524204936", "4.15888308335967", "", ""]),
        ("sqrt(0 - 1)", [""] * 4),
        ("10 ^ 400", [""] * 4),
        ("if missing = 1 then 1 else 2", [""] * 4),
        ("AGE_is", None),
    ],
)
def test_formulas_give_what_they_state(formula, shown):
    if shown is None:
        with pytest.raises(FormulaError, match="no column called “AGE_is”"):
            cells(formula)
    else:
        assert cells(formula) == shown


@pytest.mark.parametrize(
    ("formula", "words", "start"),
    [
        ("age +", "ends too early", 5),
        ("age ? 2", "“?” has no meaning", 4),
        ('if age > 1 then "x"', "“else” is expected", 19),
        ("if age then 1 else 2", "A condition is needed here, and this is a number", 3),
        ("age + sex", "A number is needed here, and this is a text", 6),
        ("(age", "a bracket is still open", 4),
        ("mean(age)", "no function “mean”", 0),
        ("log(age, 2)", "log takes 1 value, not 2", 0),
        ('sex < "m"', "only be compared with = and ≠", 0),
        ("age = sex", "cannot be compared", 0),
        ("1 < age < 3", "join them with “and”", 8),
        ("born + seen", "cannot be added", 0),
        ('date("2020-02-31")', "Write a date as", 5),
        ('"open', "never closed", 0),
        ("[body", "never closed with ]", 0),
        ('if age > 1 then 1 else "x"', "both must be of one kind", 16),
        ("age age", "“age” is not expected here", 4),
        ("(" * 200 + "1", "nested too deeply", 60),
        ("1" * 2001, "2\u202f000 characters", 2000),
    ],
)
def test_mistakes_are_pointed_at(formula, words, start):
    with pytest.raises(FormulaError) as wrong:
        formula_column("new", formula, ROWS)
    assert words in wrong.value.message
    assert wrong.value.start == start
    assert wrong.value.end > start


numbers = st.one_of(
    st.integers(0, 50).map(lambda n: (str(n), lambda row: float(n))),
    st.sampled_from([("age", lambda row: AGE[row]), ("weight", lambda row: WEIGHT[row])]),
)


def _pair(kind, a, b):
    (x, f), (y, g) = a, b

    def apart(row):
        u, v = f(row), g(row)
        if u is None or v is None or (kind == "/" and v == 0):
            return None
        return {"+": u + v, "-": u - v, "*": u * v, "/": u / v if v else None}[kind]

    return f"({x} {kind} {y})", apart


def _choice(a, b, c, mark):
    (x, f), (y, g), (z, h) = a, b, c

    def chosen(row):
        u, v = f(row), g(row)
        if u is None or v is None:
            return None
        holds = {"<": u < v, "≤": u <= v, "=": u == v}[mark]
        return h(row) if holds else v

    return f"if {x} {mark} {y} then {z} else {y}", chosen


def _bracketed(pair):
    return f"({pair[0]})", pair[1]


formulas = st.recursive(
    numbers,
    lambda inner: st.one_of(
        st.builds(_pair, st.sampled_from("+-*/"), inner, inner),
        st.builds(_choice, inner, inner, inner, st.sampled_from("<≤=")).map(_bracketed),
    ),
    max_leaves=12,
)


@settings(max_examples=examples(150), deadline=None)
@given(formulas)
def test_any_formula_agrees_with_a_reading_row_by_row(pair):
    text, literal = pair
    if len(text) > 1900:
        return
    made = formula_column("new", text, ROWS)
    for row in range(4):
        wanted = literal(row)
        if wanted is None or not math.isfinite(wanted):
            assert made.cell(row) == ""
        else:
            assert made.values[row] == pytest.approx(wanted, rel=1e-12, abs=1e-12)


ALPHABET = st.sampled_from([*"()[]+-*/^<>=≤≥,.\"“”09aé _\n\x00", "age", "if ", " then ", " else ",
                            "not ", "sex", "min(", '"f"', "1e308", "date(", "missing"])  # fmt: skip


@settings(max_examples=examples(400), deadline=2000)
@given(st.lists(ALPHABET, max_size=60).map("".join))
def test_no_text_brings_the_language_down(text):
    try:
        made = formula_column("new", text, ROWS)
    except FormulaError as wrong:
        place = (wrong.start, wrong.end)
    else:
        place = (0, sum(made.missing) + 1)
    assert 0 <= place[0] < place[1]


def test_the_columns_a_formula_names():
    assert columns_of(parse("if a > [b c] then max(d, 1) else 2")) == {"a", "b c", "d"}


def test_dates_far_away_are_missing_and_not_an_error():
    far = table("d,n\n2020-01-01,1e9\n2020-01-01,1\n")
    assert cells("d + n", far) == ["", str(date(2020, 1, 1) + timedelta(days=1))]


@pytest.mark.parametrize(
    ("formula", "value"),
    [
        ("+".join(["1"] * 990), 990.0),
        ("-" * 1_990 + "age", 50.0),
        ("if " + "not " * 480 + "age = 50 then 1 else 0", 1.0),
        ("age in (" + ", ".join(["50", *map(str, range(400))]) + ")", None),
    ],
)
def test_long_formulas_are_carried_out_without_end_of_the_stack(formula, value):
    made = formula_column("new", formula, table("age,s\n50,1\n60,0\n"))
    assert made.cell(0) == ("yes" if value is None else f"{value:g}")
    assert columns_of(parse(formula)) <= {"age"}


@pytest.mark.parametrize(
    "day", ["now", "today", "2021", "2021-04", "20210430", "2021-04-31", "", "NaT"]
)
def test_only_a_whole_day_is_a_date_the_same_today_and_tomorrow(day):
    with pytest.raises(FormulaError, match="Write a date as"):
        formula_column("new", f'date("{day}")', ROWS)


def test_dates_beyond_the_calendar_have_no_year():
    far = table("d,n\n2020-01-01,1e12\n2020-01-01,1\n")
    assert cells("year(d + n)", far) == ["", "2020"]


@settings(max_examples=examples(60), deadline=None)
@given(
    st.lists(st.sampled_from(["a", "b", "c", ""]), min_size=1, max_size=8),
    st.lists(st.sampled_from(['"a"', '"b"', '"z"', "missing", "other"]), min_size=1, max_size=5),
)
def test_being_among_values_is_being_equal_to_one_of_them(held, sought):
    rows = table("g,other,k\n" + "".join(f"{g},b,{k}\n" for k, g in enumerate(held)))
    among = cells(f"g in ({', '.join(sought)})", rows)
    either = cells(" or ".join(f"g = {one}" for one in sought), rows)
    known = [one for one in sought if one != "missing"]
    for k, (a, b) in enumerate(zip(among, either, strict=True)):
        if not held[k] or not known:
            assert a == ""
        else:
            assert a == (b or "no"), (held[k], sought)


def test_many_values_are_sought_at_once():
    rows = table("g,k\n" + "".join(f"t{k},{k}\n" for k in range(60_000)))
    sought = ", ".join(f'"t{7 * k}"' for k in range(220))
    begun = time.perf_counter()
    found = formula_column("new", f"g in ({sought})", rows)
    assert time.perf_counter() - begun < 2
    assert sum(found.cell(k) == "yes" for k in range(60_000)) == 220


def test_a_formula_has_its_time_and_its_room(monkeypatch):
    deep = "age + (" * 50 + "age" + ")" * 50
    assert formula_column("x", deep, ROWS).values[0] == 70 * 51
    with monkeypatch.context() as hasty:
        hasty.setattr(evaluate, "MAX_SECONDS", -1.0)
        with pytest.raises(FormulaError, match="takes longer than"):
            formula_column("x", deep, ROWS)
    monkeypatch.setattr(evaluate, "MAX_HELD", 20 * ROWS.size * 8)
    assert formula_column("x", "age + age + " * 100 + "age", ROWS).values[0] == 70 * 201
    with pytest.raises(FormulaError, match="nested too deeply for so many rows"):
        formula_column("x", deep, ROWS)
