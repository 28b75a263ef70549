"""What a file itself declares of its values is used: whole numbers, durations, zones, dates, spans."""

import io
import json
from datetime import datetime, timedelta

import pyarrow as pa
import pytest
import xlsxwriter
from pyarrow import parquet

from hourglass.cohort.reading.read import read


def packed(**columns):
    out = io.BytesIO()
    parquet.write_table(pa.table(columns), out)
    return read(out.getvalue()).table


def test_whole_numbers_beyond_floats_stay_apart():
    ids = [2**60 + k for k in range(140)]
    table = packed(id=pa.array(ids), small=pa.array(range(140)))
    column = table.column("id")
    assert (column.kind, len(column.counts())) == ("text", 140)
    assert [column.cell(k) for k in (0, 139)] == [str(ids[0]), str(ids[139])]
    assert table.column("small").kind == "number"


@pytest.mark.parametrize(
    ("unit", "spans", "values"),
    [
        ("days", [timedelta(days=3), timedelta(days=40), None], [3, 40]),
        ("hours", [timedelta(hours=5), timedelta(days=2), None], [5, 48]),
        ("minutes", [timedelta(minutes=5), timedelta(seconds=90), None], [5, 1.5]),
    ],
)
def test_durations_keep_their_unit(unit, spans, values):
    column = packed(t=pa.array(spans, pa.duration("ms"))).column("t")
    assert (column.kind, column.unit, list(column.values[:2])) == ("number", unit, values)
    assert column.missing.tolist() == [False, False, True]


def test_a_day_is_that_of_the_declared_zone():
    midnights = [datetime(2021, 7, 1), datetime(2021, 12, 1)]
    summer = pa.array(midnights).cast(pa.timestamp("us")).cast(pa.timestamp("us"))
    local = pa.compute.assume_timezone(summer, "Europe/Berlin")
    column = packed(seen=local).column("seen")
    assert [column.cell(k) for k in (0, 1)] == ["2021-07-01", "2021-12-01"]


@pytest.mark.parametrize(
    ("declared", "number", "shown"),
    [
        ({"dataType": "integer", "displayFormat": "DATE9."}, 21915, "2020-01-01"),
        ({"dataType": "date", "targetDataType": "integer"}, 21915, "2020-01-01"),
        (
            {"dataType": "float", "displayFormat": "E8601DT."},
            21915 * 86400 + 3600,
            "2020-01-01 01:00:00",
        ),
    ],
)
def test_numbers_that_are_shown_as_dates_are_dates(declared, number, shown):
    columns = [{"name": "id", "dataType": "string"}, {"name": "ADT", **declared}]
    made = {
        "datasetJSONVersion": "1.1.0", "records": 3, "name": "A", "columns": columns,
        "rows": [["a", number], ["b", number + 1], ["c", None]],
    }  # fmt: skip
    column = read(json.dumps(made).encode()).table.column("ADT")
    assert (column.kind, column.cell(0), column.cell(2)) == ("date", shown, "")


def test_a_cell_that_spans_rows_stands_for_each_of_them():
    out = io.BytesIO()
    with xlsxwriter.Workbook(out) as book:
        sheet = book.add_worksheet("Bench")
        sheet.merge_range(0, 0, 0, 2, "Two arms, as received")
        sheet.write_row(2, 0, ["arm", "days", "state"])
        for k in range(120):
            sheet.write_row(3 + k, 1, [5 + k, k % 2])
        sheet.merge_range(3, 0, 62, 0, "old")
        sheet.merge_range(63, 0, 122, 0, "new")
    found = read(out.getvalue())
    assert found.table.column("arm").counts() == {"old": 60, "new": 60}
    assert found.recipe.header == 3
    (noted,) = [m for m in found.table.mended if m.about == "merged cells"]
    assert noted.title.startswith("118 cells")
