"""A table written in any way that exports are written comes back cell by cell."""

import csv
import io
import json
import zipfile

import pyarrow as pa
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pyarrow import parquet

from examples import examples
from generate_imports import workbook
from hourglass.cohort.parquet import from_parquet, to_parquet
from hourglass.cohort.profile import profile
from hourglass.cohort.reading.read import find_recipe, read
from hourglass.cohort.reading.recipe import Recipe, UnreadableFileError
from hourglass.cohort.table import MISSING_WORDS
from making import table

WORDS = st.text(
    st.characters(codec="cp1252", exclude_categories=["Cc", "Cf", "Cs", "Zs", "Zl", "Zp"]),
    min_size=1,
    max_size=8,
).filter(lambda w: w.strip() == w and w not in MISSING_WORDS and any(ch.isalpha() for ch in w))
LETTERS = st.from_regex(r"[a-z]{2,8} [a-z]{2,8}", fullmatch=True)
cell = st.one_of(LETTERS, WORDS, st.sampled_from(['say "so"', "a, b; c|d", "two\nlines", ""]))
tables = st.integers(2, 4).flatmap(
    lambda width: st.lists(
        st.lists(cell, min_size=width, max_size=width), min_size=3, max_size=12
    ).filter(lambda rows: all(any(row) for row in rows))
)


def plain(found, rows):
    """What was read, as the rows that were written."""
    return [[c.cell(k) for c in found.columns] for k in range(found.size)] == rows


@settings(max_examples=examples(150), deadline=None)
@given(
    tables,
    st.sampled_from([",", ";", "\t", "|"]),
    st.sampled_from(["utf-8", "utf-8-sig", "utf-16", "cp1252"]),
)
def test_delimited_text_comes_back_by_the_recipe_that_it_was_written_by(rows, delimiter, encoding):
    rows = [[f"w{k}" if k == 0 else c for k, c in enumerate(row)] for row in rows]
    names = [f"name {k}" for k in range(len(rows[0]))]
    out = io.StringIO()
    csv.writer(out, delimiter=delimiter, lineterminator="\n").writerows([names, *rows])
    try:
        data = out.getvalue().encode(encoding)
    except UnicodeEncodeError:
        return
    written = {"utf-8": "UTF-8", "utf-8-sig": "UTF-8", "utf-16": "UTF-16", "cp1252": "Windows-1252"}
    recipe = Recipe(delimiter=delimiter, encoding=written[encoding])
    found = read(data, recipe).table
    assert [c.name for c in found.columns] == names
    kinds = {c.kind for c in found.columns}
    if kinds == {"text"}:
        assert plain(found, rows)


simple = st.lists(
    st.tuples(LETTERS, st.integers(1, 99_999), st.dates().map(str), st.sampled_from(["yes", "no"])),
    min_size=3,
    max_size=20,
)


@settings(max_examples=examples(120), deadline=None)
@given(
    simple,
    st.sampled_from([",", ";", "\t", "|"]),
    st.sampled_from(["utf-8", "utf-8-sig", "utf-16", "cp1252"]),
    st.sampled_from(["\n", "\r\n"]),
    st.booleans(),
    st.booleans(),
)
def test_how_a_plain_export_was_written_is_found(rows, delimiter, encoding, end, title, quoted):
    out = io.StringIO()
    quoting = csv.QUOTE_ALL if quoted else csv.QUOTE_MINIMAL
    writer = csv.writer(out, delimiter=delimiter, lineterminator=end, quoting=quoting)
    writer.writerows([["who", "count", "seen", "alive"], *rows])
    text = (f"A data extract of the clinic{end}{end}" if title else "") + out.getvalue()
    recipe, evidence, _ = find_recipe(text.encode(encoding))
    assert recipe.delimiter == delimiter
    assert recipe.header == (3 if title else 1)
    assert recipe.footer == 0
    found = read(text.encode(encoding)).table
    assert {c.name: c.kind for c in found.columns} == {
        "who": "text", "count": "number", "seen": "date", "alive": "text",
    }  # fmt: skip
    assert plain(found, [[w, str(n), d, a] for w, n, d, a in rows])
    assert {e.about for e in evidence} >= {"encoding", "delimiter"}


@settings(max_examples=examples(60), deadline=None)
@given(simple)
def test_records_data_sets_and_columns_come_back(rows):
    names = ["who", "count", "seen", "alive"]
    records = [dict(zip(names, row, strict=True)) for row in rows]
    data_set = {
        "datasetJSONVersion": "1.1.0",
        "columns": [{"name": n} for n in names],
        "rows": rows,
    }
    out = io.BytesIO()
    parquet.write_table(pa.Table.from_pylist(records), out)
    wanted = [[w, str(n), d, a] for w, n, d, a in rows]
    for data in (
        json.dumps(records).encode(),
        "\n".join(json.dumps(r) for r in records).encode(),
        json.dumps({"about": {"n": 1}, "data": records}).encode(),
        json.dumps(data_set).encode(),
        out.getvalue(),
    ):
        assert plain(read(data).table, wanted)


@settings(max_examples=examples(60), deadline=None)
@given(simple)
def test_a_kept_table_is_the_table_that_was_read(rows):
    text = "who,count,seen,at,share,row\n" + "".join(
        f"{w},{n},{d},{d} 10:3{n % 10},{n / 8:.3f},row {k:02}\n"
        for k, (w, n, d, _) in enumerate(rows)
    )
    before = table(text)
    after = from_parquet(to_parquet(before))
    for a, b in zip(before.columns, after.columns, strict=True):
        assert (a.name, a.kind) == (b.name, b.kind)
        assert [a.cell(k) for k in range(before.size)] == [b.cell(k) for k in range(before.size)]
        assert getattr(a, "levels", None) == getattr(b, "levels", None)


@settings(max_examples=examples(60), deadline=None)
@given(simple)
def test_a_profile_is_what_counting_gives(rows):
    text = "who,count,seen,alive\n" + "".join(",".join(map(str, row)) + "\n" for row in rows)
    who, count, seen, alive = profile(table(text))
    assert who.distinct == len({r[0] for r in rows})
    assert (count.low, count.high) == (str(min(r[1] for r in rows)), str(max(r[1] for r in rows)))
    assert sum(count.bins) == sum(seen.bins) == len(rows)
    assert (seen.low, seen.high) == (min(r[2] for r in rows), max(r[2] for r in rows))
    held = [r[3] for r in rows]
    assert dict(alive.levels) == {v: held.count(v) for v in set(held)}
    assert [n for _, n in alive.levels] == sorted((n for _, n in alive.levels), reverse=True)


def test_aworkbook_whose_range_and_sheet_are_chosen():
    from test_imports import FOLDER

    data = (FOLDER / "lamp_counts.xlsx").read_bytes()
    part = read(data, Recipe(format="spreadsheet", sheet="Bench", cells="B3:D8", header=1)).table
    assert [c.name for c in part.columns] == ["hours", "state", "count"]
    assert part.size == 5
    notes = read(data, Recipe(format="spreadsheet", sheet="Notes", header=0)).table
    assert notes.column("column 1").cell(0).startswith("Count is the number")
    with pytest.raises(
        UnreadableFileError, match="no sheet called “Other”; there are Notes, Bench"
    ):
        read(data, Recipe(format="spreadsheet", sheet="Other"))
    with pytest.raises(UnreadableFileError, match="no rows under its header"):
        read(data, Recipe(format="spreadsheet", sheet="Notes", header=1))


def test_a_long_sheet_is_packed_as_it_is_read_and_kinds_may_change_on_the_way(tmp_path):
    rows = [["id", "x", "word", "late"]]
    rows += [[k, k / 4, "a" if k % 2 else "b", "" if k < 9000 else k] for k in range(9_500)]
    rows[9_400][1] = "about 5"
    workbook(tmp_path / "long.xlsx", {"Long": [*rows, ["Total", 9_500]]})
    found = read((tmp_path / "long.xlsx").read_bytes())
    assert (found.table.size, found.recipe.footer) == (9_500, 1)
    assert {c.name: c.kind for c in found.table.columns} == {
        "id": "number", "x": "text", "word": "text", "late": "number",
    }  # fmt: skip
    assert [found.table.column("x").cell(k) for k in (1, 2, 9_399)] == ["0.25", "0.5", "about 5"]
    assert found.table.column("late").missing.sum() == 9_000


def test_aworkbook_with_a_broken_sheet_is_refused():
    from test_imports import FOLDER

    out = io.BytesIO()
    with zipfile.ZipFile(FOLDER / "lamp_counts.xlsx") as source, zipfile.ZipFile(out, "w") as made:
        for part in source.namelist():
            if "sheet2" not in part:
                made.writestr(part, source.read(part))
    with pytest.raises(UnreadableFileError, match="spreadsheet"):
        read(out.getvalue(), Recipe(format="spreadsheet", sheet="Bench"))
