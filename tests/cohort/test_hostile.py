"""Files made to break the reader: refused in words, quickly, without much memory."""

import io
import json
import multiprocessing
import random
import re
import resource
import zipfile
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import pyarrow as pa
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pyarrow import parquet

from hourglass.cohort.findings.find import find
from hourglass.cohort.layouts import recognise
from hourglass.cohort.proposal.propose import propose
from hourglass.cohort.reading.read import read
from hourglass.cohort.reading.recipe import Limits, Recipe, UnreadableFileError
from making import SHEET, shared_text, workbook

FOLDER = Path(__file__).parents[2] / "demo" / "imports"
FILES = [p.read_bytes() for p in sorted(FOLDER.iterdir())]


def document(body):
    """An OpenDocument sheet of the given rows."""
    out = io.BytesIO()
    with zipfile.ZipFile(FOLDER / "valve_tallies.ods") as source:
        content = source.read("content.xml").decode()
        start = content.index("<table:table-row>")
        end = content.rindex("</table:table>")
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
            for part in source.namelist():
                held = content[:start] + body + content[end:]
                made.writestr(part, held if part == "content.xml" else source.read(part))
    return out.getvalue()


def flat_parquet(rows):
    out = io.BytesIO()
    parquet.write_table(pa.table({"x": pa.array([1]).take(pa.array([0] * rows))}), out)
    return out.getvalue()


def elsewhere(body, place="xl/other/s.xml"):
    """A workbook whose sheet lies in another place than is usual, as the workbook says."""
    out = io.BytesIO()
    with (
        zipfile.ZipFile(io.BytesIO(workbook(body))) as source,
        zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made,
    ):
        for part in source.namelist():
            held = source.read(part).replace(b"worksheets/sheet1.xml", place[3:].encode())
            made.writestr(place if part == "xl/worksheets/sheet1.xml" else part, held)
    return out.getvalue()


def zeros(rows):
    """A table of zeros, written in pieces: a few hundred kilobytes hold any number of them."""
    out, piece = io.BytesIO(), pa.table({"x": pa.array([0] * 1_000_000, pa.int64())})
    with parquet.ParquetWriter(out, piece.schema, compression="zstd") as writer:
        for _ in range(rows // 1_000_000):
            writer.write_table(piece, row_group_size=1_000_000)
    return out.getvalue()


CELL = '<c r="{}"><v>1</v></c>'
FAR = f'{SHEET}<row r="1">{CELL.format("A1")}{CELL.format("XFD1")}</row></sheetData></worksheet>'
# What takes its time to make is made where it is tested, not in each process that imports this.
BOMBS = [
    (elsewhere(FAR), "column 16.384"),
    (elsewhere(FAR, "xl/S.BIN"), "column 16.384"),
    (elsewhere(FAR.replace(' r="', '\n r = "').replace("XFD1", "xfd1")), "column 16.384"),
    (lambda: elsewhere(SHEET + " " * 300_000_000), "far more than an honest one"),
    (lambda: zeros(90_000_000), "1.000 times its size"),
    (workbook(f'{SHEET}<row r="1">{CELL.format("A1")}{CELL.format("XFD1")}</row></sheetData></worksheet>'),
     "column 16.384"),
    (workbook(f'{SHEET}<row r="1">{CELL.format("A1")}</row><row r="1048576">{CELL.format("CV1048576")}</row>'
              "</sheetData></worksheet>"), "1.048.576 rows"),
    (document('<table:table-row><table:table-cell table:number-columns-repeated="1000000" '
              'office:value-type="float" office:value="1"/></table:table-row>'), "column 1.000.000"),
    (document('<table:table-row table:number-rows-repeated="1000000000"><table:table-cell '
              'office:value-type="float" office:value="1"/></table:table-row>'), "1.000.000.000 rows"),
    (shared_text("ab" * 15_000, 120_000), "1.024 MB of text, some of it repeated"),
    (document('<table:table-row table:number-rows-repeated="60000"><table:table-cell '
              'table:number-columns-repeated="20" office:value-type="string"><text:p>'
              f'{"word " * 400}</text:p></table:table-cell></table:table-row>'), "1.024 MB of text"),
    (b'[{"a":' + b"9" * 100_000 + b',"t":1}]', "Line 1 of the JSON holds a number of 100.000"),
    (b'[{"a":1},\n{"a":-1.' + b"3" * 5_000 + b"e7}]", "Line 2 of the JSON holds a number of 5.005"),
    (b"PK\x03\x04" + b"\x00" * 100, "cannot be opened"),
    (b"PAR1" + b"\x00" * 64 + b"PAR1", "Parquet file cannot be read"),
    (b"[" * 100_000, "nested more than 12 deep"),
    (b'{"a":' * 50_000, "nested more than 12 deep"),
    (b'[{"a": 1}, {"a": 2', "breaks off"),
    (json.dumps([{f"c{k}": 1} for k in range(6000)]).encode(), "5.000 columns"),
    (json.dumps([{"a": [1, 2]}]).encode(), "lists or records themselves"),
    (b'[{"a": 1}, 7]', "not a list of records"),
    (b'{"columns": [{"name": "a"}], "rows": [[1, 2]]}', "Row 1 has 2 cells where 1 columns"),
    (b"\xd0\xcf\x11\xe0" + b"x" * 50, "old binary format"),
    (b"\x1f\x8b" + b"x" * 50, "gzip file is damaged"),
    (b'a,"' + b"x" * 5_000_000 + b'"\n1,2\n', "first line does not end within"),
    (b"x" * 5_000_000, "first line does not end within"),
    (b'"' * 5_000_000, "first line does not end within"),
    (b"a" + b",a" * 1_000_000 + b"\n1\n", "1.000.001 columns"),
]  # fmt: skip


@pytest.fixture(scope="module")
def apart():
    """Runs a function in a process of its own: the peak memory of one that others share is theirs too."""
    spawning = multiprocessing.get_context("spawn")
    with ProcessPoolExecutor(1, spawning, max_tasks_per_child=1) as executor:
        yield lambda do, *given: executor.submit(do, *given).result()


def reading(data):
    """What came of reading a file, as (rows, levels of its first column) or the refusal, and the bytes
    by which that raised the peak memory of this process."""
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    try:
        found = read(data).table
    except UnreadableFileError as refused:
        outcome = str(refused)
    else:
        outcome = found.size, len(getattr(found.columns[0], "levels", ()))
    return outcome, (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) * 1024


@pytest.mark.parametrize(("data", "words"), BOMBS, ids=[words for _, words in BOMBS])
def test_bombs_are_refused_in_words(apart, data, words):
    data = data() if callable(data) else data
    refusal, grown = apart(reading, data)
    assert re.search(words, refusal), refusal
    assert grown < max(4 * len(data), 150 * 2**20)


def test_a_long_run_of_digits_in_quotation_marks_is_text():
    said = "9" * 6_000
    found = read(b'[{"a":"say \\"' + said.encode() + b'","t":1}]').table.column("a")
    assert found.cell(0) == f'say "{said}'


def test_a_text_that_every_row_repeats_stays_one_text(apart):
    # Written out, thirty thousand letters in 200,000 rows would be 6 GB.
    rows, out = 200_000, io.BytesIO()
    for kind in (pa.string(), pa.large_string(), pa.binary()):
        text = pa.array(["ab" * 15_000], kind)
        parquet.write_table(
            pa.table({"s": pa.DictionaryArray.from_arrays([0] * rows, text), "t": range(rows)}), out
        )
        outcome, grown = apart(reading, out.getvalue())
        assert outcome == (rows, 1)
        assert grown < 200 * 2**20
        out = io.BytesIO()


def test_more_cells_than_allowed_are_refused_before_they_are_made():
    with pytest.raises(UnreadableFileError, match="at most 100 cells"):
        read(b"a,b\n" + b"1,2\n" * 60, limits=Limits(most_cells=100))
    with pytest.raises(UnreadableFileError, match=r"at most 1.000 cells"):
        read(flat_parquet(2_000), limits=Limits(most_cells=1_000))


def test_memory_stays_within_four_times_the_file(apart):
    rng = random.Random(3)
    line = ",".join(f"{rng.random():.6f}" for _ in range(12)) + ",some words here\n"
    data = (",".join(f"c{k}" for k in range(13)) + "\n" + line * 400_000).encode()
    (rows, _), grown = apart(reading, data)
    assert rows == 400_000
    assert grown < 4 * len(data)


@st.composite
def damaged(draw):
    """One of the demo imports with bytes changed, cut out, doubled or cut off."""
    data = bytearray(draw(st.sampled_from(FILES)))
    for _ in range(draw(st.integers(1, 4))):
        at = draw(st.integers(0, max(len(data) - 1, 0)))
        end = at + draw(st.integers(1, 40))
        match draw(st.sampled_from(["change", "cut", "double", "stop"])):
            case "change":
                data[at:end] = draw(st.binary(min_size=1, max_size=8))
            case "cut":
                del data[at:end]
            case "double":
                data[at:at] = data[at:end]
            case "stop":
                del data[at:]
    return bytes(data)


@settings(max_examples=250, deadline=10_000)
@given(damaged())
def test_damaged_files_are_read_or_refused_in_words(data):
    try:
        found = read(data)
    except UnreadableFileError as refused:
        said = str(refused)
    else:
        statement = propose(found.table)
        find(found.table, statement)
        said = recognise(found.table)[-1].reason
        assert found.table.size >= 1
    assert len(said) > 10
    assert "Traceback" not in said


recipes = st.builds(
    Recipe,
    delimiter=st.sampled_from([",", ";", "\t", "|"]),
    encoding=st.sampled_from(["UTF-8", "UTF-16", "Windows-1252"]),
    quote=st.sampled_from(['"', "'", ""]),
    header=st.integers(0, 8),
    footer=st.integers(0, 4),
    decimal=st.sampled_from([".", ","]),
    thousands=st.sampled_from(["", ",", ".", " ", "'"]),
)


@settings(max_examples=120, deadline=10_000)
@given(st.sampled_from(FILES), recipes)
def test_any_recipe_reads_any_file_or_says_why_not(data, recipe):
    try:
        size = read(data, recipe, most_rows=50).table.size
    except UnreadableFileError as refused:
        size = len(str(refused))
    assert size >= 1
