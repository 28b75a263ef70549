"""Tables on paper: what is too wide is split, no word of usual length is broken, nothing is lost."""

import re

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from examples import examples
from hourglass.analysis.shared.cell import number_cell, words
from hourglass.report.formats.fitting import (
    BETWEEN,
    LETTER,
    WIDEST_WORD,
    ZERO_WIDTH_SPACE,
    breakable,
    fitted,
    widths,
)
from hourglass.report.formats.tied import NO_BREAK, tied
from hourglass.report.tables import ReportColumn, ReportTable

WORD = st.text(st.sampled_from("abcdefg-"), min_size=1, max_size=40)
NAME = st.lists(WORD, min_size=1, max_size=8).map(" ".join)


def table_with(heads, rows=2):
    names = ReportColumn(key="name", head="", cells=tuple(words(f"row {k}") for k in range(rows)))
    numbers = tuple(number_cell("12.3 (4.5 to 67.8)", 12.3) for _ in range(rows))
    columns = [ReportColumn(key=f"c{k}", head=h, cells=numbers) for k, h in enumerate(heads)]
    hidden = ReportColumn(key="only in files", values=(1.0,) * rows)
    columns = (names, *columns, hidden)
    return ReportTable(key="t", title="A table", columns=columns, note="A note.", number=3)


def bare(text):
    return text.replace(ZERO_WIDTH_SPACE, "")


@settings(max_examples=examples(60), deadline=None)
@given(st.lists(NAME, min_size=1, max_size=14), st.floats(90, 250))
def test_the_parts_of_a_table_fit_and_hold_all_of_it(heads, millimetres):
    table = table_with(heads)
    parts = fitted(table, millimetres)
    assert [bare(h) for part in parts for h in part.head[1:]] == heads
    for k, part in enumerate(parts):
        assert [cell.text for cell in part.columns[0].cells] == ["row 0", "row 1"]
        assert part.continued == (k > 0)
        assert part.note == ("A note." if k == len(parts) - 1 else "")
        assert sum(widths(part, millimetres)) <= millimetres + 1e-9
        for width, column in zip(widths(part, millimetres), part.columns, strict=True):
            texts = [column.head, *(cell.text for cell in column.cells)]
            longest = max(
                len(w) for text in texts for w in re.split(rf"[\s{ZERO_WIDTH_SPACE}]", text)
            )
            assert width >= LETTER * (min(longest, WIDEST_WORD) + BETWEEN) - 1e-9


def test_parts_are_about_as_full_and_a_table_that_fits_is_one():
    assert len(fitted(table_with(["a", "b"]), 174)) == 1
    parts = fitted(table_with([f"group {k}" for k in range(12)]), 174)
    assert [len(part.columns) for part in parts] == [7, 7]
    assert [part.caption for part in parts] == ["Table 3. A table", "Table 3 (continued). A table"]


@pytest.mark.parametrize(
    ("text", "kept"),
    [
        ("p < 0.001", f"p{NO_BREAK}<{NO_BREAK}0.001"),
        ("P = 0.03", f"P{NO_BREAK}={NO_BREAK}0.03"),
        ("> 0.999", f">{NO_BREAK}0.999"),
        ("a < b", "a < b"),
        ("step = 3", f"step ={NO_BREAK}3"),
    ],
)
def test_a_p_is_not_parted_from_its_number(text, kept):
    assert tied(text) == kept


def test_only_a_very_long_word_may_be_broken():
    assert breakable("a usual name of several words") == "a usual name of several words"
    long = "x" * (2 * WIDEST_WORD + 1)
    assert breakable(long).split(ZERO_WIDTH_SPACE) == ["x" * WIDEST_WORD] * 2 + ["x"]
