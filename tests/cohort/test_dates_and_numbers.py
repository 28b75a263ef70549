"""Written dates and numbers, against the standard library's own reading of them."""

from datetime import UTC, datetime, timedelta, timezone

import numpy as np
import pyarrow as pa
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from examples import examples
from hourglass.cohort.findings.find import find
from hourglass.cohort.findings.finding import steps_for
from hourglass.cohort.proposal.propose import propose
from hourglass.cohort.reading.dates import date_cells, doubt_of, order_of
from hourglass.cohort.reading.numbers import are_numbers, find_marks, to_numbers
from hourglass.cohort.reading.read import read
from hourglass.cohort.steps.apply import apply_steps

FORMATS = {
    "%Y-%m-%d": "day first",
    "%Y/%m/%d": "day first",
    "%Y.%m.%d": "month first",
    "%d.%m.%Y": "day first",
    "%d/%m/%Y": "day first",
    "%d-%m-%Y": "day first",
    "%m/%d/%Y": "month first",
    "%m-%d-%Y": "month first",
    "%d %b %Y": "day first",
    "%d-%b-%Y": "month first",
    "%d %B %Y": "day first",
    "%b %d, %Y": "day first",
    "%B %d %Y": "month first",
}
days = st.dates(min_value=datetime(1901, 1, 1).date(), max_value=datetime(2099, 12, 31).date())


@settings(max_examples=examples(200), deadline=None)
@given(st.lists(days, min_size=1, max_size=20), st.sampled_from(sorted(FORMATS)))
def test_a_written_day_is_that_day(written, pattern):
    cells = pa.array([day.strftime(pattern) for day in written])
    found = date_cells(cells, FORMATS[pattern])
    assert found.known.all()
    assert found.values().tolist() == written
    assert str(found.values().dtype) == "datetime64[D]"


CLOCKS = ["%H:%M", "%H:%M:%S", "%H:%M:%S.%f", "%I:%M %p", "%I:%M:%S %p", "%I:%M%p"]
moments = st.datetimes(min_value=datetime(1950, 1, 1), max_value=datetime(2060, 1, 1))


@settings(max_examples=examples(200), deadline=None)
@given(moments, st.sampled_from(CLOCKS), st.sampled_from(["", " ", "T"]))
def test_a_written_time_of_day_is_that_time(moment, clock, between):
    between = between or " "
    text = moment.strftime(f"%Y-%m-%d{between}{clock}")
    wanted = datetime.strptime(text, f"%Y-%m-%d{between}{clock}")
    found = date_cells(pa.array([text])).instants
    assert found.tolist() == [wanted]


@settings(max_examples=examples(100), deadline=None)
@given(moments, st.integers(-12 * 4, 14 * 4), st.booleans())
def test_a_zone_turns_the_time_into_utc(moment, quarters, colon):
    offset = timedelta(minutes=15 * quarters)
    there = moment.replace(tzinfo=timezone(offset))
    text = there.isoformat()
    if not colon:
        text = text[:-3] + text[-2:]  # the fraction of a second, where there is one, stays
    found = date_cells(pa.array([text]))
    assert found.zoned
    assert found.instants.tolist() == [there.astimezone(UTC).replace(tzinfo=None)]


@pytest.mark.parametrize(
    "text",
    [
        "2021-02-29",
        "31.04.2020",
        "00/01/2020",
        "2020-13-01",
        "2020-01-01 25:00",
        "2020-01-01 10:75",
        "2020-01-01 13:00 PM",
        "5 Foo 2020",
        "12/2020",
        "yesterday",
        "2020-1-1-1",
        "99/99/99",
    ],
)
def test_what_no_calendar_or_clock_has_is_no_date(text):
    assert not date_cells(pa.array([text])).known.any()


@settings(max_examples=examples(150), deadline=None)
@given(st.lists(days, min_size=1, max_size=12), st.sampled_from(["%d/%m/%Y", "%m/%d/%Y"]))
def test_an_order_is_decided_only_by_days_past_the_twelfth(written, pattern):
    found = date_cells(pa.array([day.strftime(pattern) for day in written]))
    if any(day.day > 12 for day in written):
        assert doubt_of(found) is None
        assert order_of(found) == ("day first" if pattern.startswith("%d") else "month first")
    else:
        assert doubt_of(found) == "either order"


def test_both_orders_in_one_column_are_no_order():
    assert doubt_of(date_cells(pa.array(["13/01/2020", "01/13/2020"]))) == "both orders"
    assert doubt_of(date_cells(pa.array(["13/01/2020", "soon"]))) == "not all dates"
    assert doubt_of(date_cells(pa.array(["2020-01-02", "3 Mar 2020"]))) is None


@settings(max_examples=examples(60), deadline=None)
@given(st.integers(0, 99), st.integers(1850, 2050))
def test_two_digits_are_the_first_such_year_from_the_stated_one_on(year, start):
    found = date_cells(pa.array([f"15.06.{year:02d}"]), century_from=start)
    seen = found.instants.astype("datetime64[Y]").astype(int)[0] + 1970
    assert start <= seen < start + 100
    assert seen % 100 == year
    assert found.short_years


MARKS = [(".", ""), (",", ""), (".", ","), (",", "."), (",", " "), (".", "'"), (".", " ")]
amounts = st.one_of(
    st.integers(-(10**9), 10**9).map(float),
    st.floats(-1e7, 1e7).map(lambda x: round(x, 3)),
    st.integers(-99, 99).map(lambda n: n / 4),
)


def write(value, decimal, thousands):
    """A number as people write it with these marks."""
    text = f"{value:,.3f}" if value % 1 else f"{value:,.0f}"
    return text.replace(",", "\0").replace(".", decimal).replace("\0", thousands)


@settings(max_examples=examples(200), deadline=None)
@given(st.lists(amounts, min_size=1, max_size=12), st.sampled_from(MARKS))
def test_a_written_number_is_that_number(values, marks):
    cells = pa.array([write(v, *marks) for v in values])
    assert are_numbers(cells, *marks)
    found, decimals = to_numbers(cells, *marks)
    assert found.tolist() == pytest.approx(values, rel=1e-15, abs=0)
    assert decimals == (3 if any(v % 1 for v in values) else 0)


@settings(max_examples=examples(200), deadline=None)
@given(st.lists(amounts, min_size=1, max_size=12), st.sampled_from(MARKS))
def test_marks_are_shown_only_by_numbers_that_can_be_read_no_other_way(values, marks):
    cells = [write(v, *marks) for v in values]
    decimal, thousands, evidence = find_marks([("x", cells)])
    for text in evidence:
        assert "in x" in text.because
    if not evidence:
        return
    chosen = (decimal, thousands)
    known = [cell for cell in cells if are_numbers(pa.array([cell]), *chosen)]
    read_as = to_numbers(pa.array(known, pa.string()), *chosen)[0]
    wanted = [v for v, cell in zip(values, cells, strict=True) if cell in known]
    assert np.allclose(read_as, wanted, rtol=1e-12), f"{cells} read with {chosen}"


@pytest.mark.parametrize("text", ["1.2.3", "12a", "--1", "1e5000", "0x10", "1 2", "007", "٣"])
def test_what_is_no_number_is_none(text):
    assert read(f"a,b\n{text},x\n1,y\n".encode()).table.column("a").kind == "text"


def short_dates(rows, order="ymd", mark="-", born=False):
    """Rows with a start and an end of two-digit numbers, and perhaps a birth nobody can doubt."""
    rng = np.random.default_rng(rows)
    starts = np.datetime64("2016-01-04") + rng.integers(0, 1500, rows).astype("timedelta64[D]")
    lines = ["id,start,end" + (",born" if born else "")]
    for k, day in enumerate(starts):
        written = []
        for d in (day, day + np.timedelta64(int(rng.integers(10, 400)), "D")):
            y, m, dd = str(d).split("-")
            parts = {"y": y[2:], "m": m, "d": dd}
            written.append(mark.join(parts[p] for p in order))
        lines.append(
            f"s{k},{written[0]},{written[1]}" + (f",{40 + k % 55}-0{1 + k % 9}-11" if born else "")
        )
    return read(("\n".join(lines) + "\n").encode()).table, starts


@pytest.mark.parametrize("born", [False, True])
def test_short_dates_that_may_have_the_year_first_are_questions(born):
    table, starts = short_dates(120, born=born)
    assert {table.column(c).kind for c in ("start", "end")} == {"text"}
    found = {f.key: f for f in find(table, propose(table))}
    stated = found["either order: start"]
    assert [c.name for c in stated.choices][:2] == ["read year first", "read day first"]
    assert ("In born of the same file the year can only come first" in stated.why) == born
    if born:
        assert table.column("born").kind == "date"
        assert table.column("born").cell(0) == "1940-01-11"
    now, _ = apply_steps(table, steps_for(stated, "read year first"))
    assert (now.column("start").values.astype("datetime64[D]") == starts).all()


@pytest.mark.parametrize(("order", "mark"), [("dmy", "."), ("dmy", "/"), ("mdy", "/")])
def test_days_that_spread_as_days_do_are_not_taken_for_years(order, mark):
    table, starts = short_dates(400, order, mark)
    assert (table.column("start").values.astype("datetime64[D]") == starts).all()


@pytest.mark.parametrize(
    ("cells", "month"),
    [
        (["2023-Jun-30", "2023-Jul-01"], 6), (["2023 Mai 04", "2023 Juni 5"], 5),
        (["3 mrz 2021", "14 dez 2021"], 3), (["2 févr. 2020", "5 juil. 2020"], 2),
        (["1 août 2020", "2 aout 2020"], 8), (["11 janv. 2019", "12 avr. 2019"], 1),
    ],
)  # fmt: skip
def test_months_are_known_by_their_names_and_what_these_are_cut_to(cells, month):
    lines = "".join(f"r{k},{cell}\n" for k, cell in enumerate(cells))
    column = read(("id,seen\n" + lines).encode()).table.column("seen")
    assert column.kind == "date"
    assert int(column.cell(0)[5:7]) == month
