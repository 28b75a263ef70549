"""A column is read again from what the file stated: as dates, numbers or text."""

import pytest

from hourglass.cohort.parquet import from_parquet, to_parquet
from hourglass.cohort.steps.apply import apply_steps
from hourglass.cohort.steps.levels import ReadAsText
from hourglass.cohort.steps.step import BrokenStepError
from hourglass.cohort.steps.types import ReadAsDates, ReadAsNumbers
from making import cells, table


def kept(text):
    """A table as it is after it was kept and fetched again."""
    return from_parquet(to_parquet(table(text)))


def test_dates_are_read_again_in_another_order_and_century():
    rows = kept("d\n13/02/30\n04/03/31\n05/06/29\n09/10/32\n")
    assert cells(rows, "d") == ["2030-02-13", "1931-03-04", "2029-06-05", "1932-10-09"]
    again = ReadAsDates(column="d", order="day first", century_from=1920).on(rows)
    assert cells(again.table, "d") == ["1930-02-13", "1931-03-04", "1929-06-05", "1932-10-09"]
    other = ReadAsDates(column="d", order="month first", century_from=1920).on(rows).table
    assert cells(other, "d") == ["1930-02-13", "1931-04-03", "1929-05-06", "1932-09-10"]


def test_dates_that_the_file_wrote_plainly_have_no_other_reading():
    rows = kept("d\n2020-01-02\n2021-03-04\n")
    done = ReadAsDates(column="d", order="month first").on(rows)
    assert done.table.column("d") is rows.column("d")
    assert "no other way" in done.note


def test_numbers_and_dates_become_text_and_numbers_again():
    rows = kept("n,d\n1.50,05/01/2020\n2,13/01/2020\nNA,\n")
    text, effects = apply_steps(rows, [ReadAsText(column="n"), ReadAsText(column="d")])
    assert [e.broken for e in effects] == ["", ""]
    assert cells(text, "d") == ["05/01/2020", "13/01/2020", ""]
    back, _ = apply_steps(text, [ReadAsNumbers(column="n")])
    assert back.column("n").values[:2].tolist() == [1.5, 2.0]
    assert back.column("n").missing[2]


def test_a_comma_that_set_thousands_apart_is_read_as_the_decimal_mark():
    rows = kept('x\n"1,234"\n"5,678"\n"1,234,567"\n')
    assert rows.column("x").values.tolist() == [1234, 5678, 1234567]
    again = ReadAsNumbers(column="x", decimal=",", thousands="").on(rows)
    assert again.table.column("x").values[:2].tolist() == [1.234, 5.678]
    assert again.table.column("x").missing[2]
    assert "1,234,567" in again.note
    with pytest.raises(BrokenStepError, match="both"):
        ReadAsNumbers(column="x", decimal=",", thousands=",").on(rows)
