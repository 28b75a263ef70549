import contextlib

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from examples import examples
from hourglass.cohort.followup import form_cohort
from hourglass.cohort.layouts import recognise
from hourglass.cohort.parquet import from_parquet, to_parquet
from hourglass.cohort.profile import profile
from hourglass.cohort.proposal.propose import propose
from hourglass.cohort.reading.mended import INVISIBLE
from hourglass.cohort.reading.read import read
from hourglass.cohort.reading.recipe import UnreadableFileError
from hourglass.cohort.steps.apply import apply_steps
from hourglass.cohort.table import DateColumn, NoSuchColumnError, NumberColumn, TextColumn
from making import demo_table, table


def test_columns_get_their_types():
    read = table(
        "id,when,n,share,word,code,mixed,none\n"
        "a,2020-01-31,1,0.25, x ,007,1,\n"
        "b,2020-02-29,-3,1e-3,y,008,one,NA\n"
        "c,,.,+2.5,,009,2,.\n"
    )
    kinds = {c.name: c.kind for c in read.columns}
    assert kinds == {
        "id": "text", "when": "date", "n": "number", "share": "number",
        "word": "text", "code": "text", "mixed": "text", "none": "text",
    }  # fmt: skip
    n, when, word = read.column("n"), read.column("when"), read.column("word")
    assert isinstance(n, NumberColumn)
    assert isinstance(when, DateColumn)
    assert isinstance(word, TextColumn)
    assert n.values[:2].tolist() == [1.0, -3.0]
    assert [c.missing.tolist() for c in (n, when, word)] == [[False, False, True]] * 3
    assert word.levels == (" x ", "y"), "spelling is the file's until a step changes it"
    assert [read.column("share").cell(k) for k in range(3)] == ["0.25", "0.001", "2.50"]
    assert read.column("code").cell(0) == "007"
    assert read.numbers.tolist() == [1, 2, 3]


@pytest.mark.parametrize(
    ("data", "how"),
    [
        (b"a,b\n1,2\n", "read as UTF-8, comma"),
        (b"\xef\xbb\xbfa;b\n1;2\n", "read as UTF-8, semicolon"),
        (b"a\tb\r\n1\t2\r\n", "read as UTF-8, tab"),
        ("a|b\n1|é\n".encode("utf-16"), "read as UTF-16, bar"),
        ("a,b\n1,Zoë\n".encode("cp1252"), "read as Windows-1252, comma"),
        (b'"a;x",b\n1,2\n', "read as UTF-8, comma"),
    ],
)
def test_encoding_and_delimiter_are_found_and_shown(data, how):
    reading = read(data)
    assert reading.how == how
    assert reading.table.size == 1
    assert len(reading.table.columns) == 2


def test_quoted_cells_may_hold_anything():
    read = table('a,b\n"x, ""y""\nz",1\n')
    assert read.column("a").cell(0) == 'x, "y"\nz'


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", ["empty"]),
        (b" \n\n", ["empty"]),
        (b"a,b,c\n", ["3 columns", "no rows"]),
        (b"PK\x03\x04\x00\x00", ["workbook or archive cannot be opened"]),
        (bytes(range(1, 32)) * 50 + b"\xff", ["binary data file"]),
        (b"\xff\xfea\x00,\x00b", ["UTF-16", "breaks off"]),
        (b"a,b\n1,2\n3" + b",4" * 60 + b"\n", ["Row 2 has 61 cells", "header has 2"]),
        (b'a,b\n1,"2\n3,4\n', ["Row 1", "never closed"]),
        (b"x" * 400 + b",b\n1,2\n", ["name of column 1", "300"]),
        (b",".join(b"c%d" % k for k in range(6000)) + b"\n1\n", ["6\u202f000 columns"]),
    ],
)
def test_a_file_that_cannot_be_read_states_what_and_where(data, words):
    with pytest.raises(UnreadableFileError) as refused:
        read(data)
    for word in words:
        assert word in str(refused.value)


@settings(max_examples=examples(150), deadline=None)
@given(st.binary(max_size=300))
def test_no_bytes_bring_the_reader_down(data):
    with contextlib.suppress(UnreadableFileError):
        assert read(data).table.size >= 1


cells = st.text(st.characters(codec="utf-8", exclude_characters="\0\r\xa0" + INVISIBLE), max_size=8)


@settings(max_examples=examples(60), deadline=None)
@given(st.lists(st.tuples(cells, cells), min_size=1, max_size=8))
def test_text_cells_come_back_as_they_were_written(rows):
    def quoted(cell):
        return '"' + cell.replace('"', '""') + '"'

    lines = [f"{quoted('w' + a)},{quoted('w' + b)}" for a, b in rows]
    read = table("one,two\n" + "\n".join(lines) + "\n")
    found = [(read.column("one").cell(k), read.column("two").cell(k)) for k in range(read.size)]
    assert found == [("w" + a, "w" + b) for a, b in rows]


def test_a_table_survives_parquet_whole():
    before = demo_table("larkmoor")
    after = from_parquet(to_parquet(before))
    assert after.numbers.tolist() == before.numbers.tolist()
    for a, b in zip(before.columns, after.columns, strict=True):
        assert (a.name, a.kind) == (b.name, b.kind)
        assert [a.cell(k) for k in range(before.size)] == [b.cell(k) for k in range(before.size)]


def test_a_column_that_is_not_there_is_named():
    with pytest.raises(NoSuchColumnError, match="“z”"):
        table("a\n1\n").column("z")


def test_profiles_count_what_is_there():
    read = table("n,d,w\n1,2020-01-01,x\n2,2020-12-31,x\n4,,y\n,2020-06-01,\n")
    n, d, w = profile(read)
    assert (n.distinct, n.missing, n.low, n.high, sum(n.bins)) == (3, 1, "1", "4", 3)
    assert (d.low, d.high, sum(d.bins)) == ("2020-01-01", "2020-12-31", 3)
    assert w.levels == (("x", 2), ("y", 1))
    empty = profile(table("a,b\nNA,1\n"))[0]
    assert (empty.distinct, empty.missing) == (0, 1)


def test_taking_rows_keeps_their_numbers():
    smaller = table("a\n1\n2\n3\n4\n").without([2, 9])
    assert smaller.numbers.tolist() == [1, 3, 4]
    assert smaller.positions([4, 2]).tolist() == [2]
    assert np.array_equal(smaller.column("a").values, [1, 3, 4])


ODD = [
    ('id,cost\na,"1,234.50"\nb,"12,000.00"\n', "id text a|cost number 1234.50"),
    ('id,cost\na,"1,234"\nb,"12,000"\n', "id text a|cost text 1,234"),
    ("x;y\n1\u00a0234,5;2\n12\u00a0000,25;3\n", "x number 1234.50|y number 2"),
    ("x;y\n1'234.5;2\n12'000.25;3\n", "x number 1234.50|y number 2"),
    ("a,b\n2021/03/04,04-Mar-21\n2021/03/05,5 April 2022\n", "a date 2021-03-04|b date 2021-03-04"),
    ("a\n12/31/2020 11:59 PM\n01/31/2020 1:00 AM\n", "a date 2020-12-31 23:59:00"),
    ("a\n2020-01-01T00:30:00+02:00\n2020-01-01T10:00:00Z\n", "a date 2019-12-31 22:30:00"),
    ("d\n01.02.03\n04.05.06\n", "d text 01.02.03"),
    ("id,t\n12345678901234567890,1\n12345678901234567891,2\n", "id text 12345678901234567890|t number 1"),
    ("a,b,\n1,2,\n3,4,\n", "a number 1|b number 2"),
    ('"first\nname",t\na,1\n', "first name text a|t number 1"),
    ("a,5,1\nb,6,0\nc,7,0\n", "column 1 text a|column 2 number 5|column 3 number 1"),
    ("Export,2024,,\nid,t,s,x\na,1,0,3\nb,2,1,4\nn = 2,,,\nSource: here,,,\n",
     "id text a|t number 1|s number 0|x number 3"),
    ("id,age,seen\na,34,2020-01-01\nb,unknown,2020-01-02\nc,55,unknown\nd,60,2020-02-01\ne,4,2020-03-03\n",
     "id text a|age number 34|seen date 2020-01-01"),
    ("sep=;\na;b\n1;2\n3;4\n", "a number 1|b number 2"),
    ("id,x\na,−5\nb,na\nc,4\nd,7\ne,8\n", "id text a|x number -5"),
    ("a;b\n1;2\n".encode("utf-16-be"), "a number 1|b number 2"),
    ('{"t": 1, "s": true}\n{"t": 2, "x": "q"}\n', "t number 1|s text true|x text "),
    ('{"n": 2, "data": [{"t": 1.5}, {"t": null}]}', "t number 1.5"),
    ('{"datasetJSONVersion": "1.1.0", "columns": [{"name": "A"}, {"name": "B"}]}\n["x", 1]\n["y", 2]\n',
     "A text x|B number 1"),
    ('{"clinicalData": {"itemGroupData": {"IG.T": {"items": [{"name": "A"}], "itemData": [["x"]]}}}}',
     "A text x"),
]  # fmt: skip


@pytest.mark.parametrize(("data", "shown"), ODD)
def test_odd_exports_are_read_as_a_person_would_read_them(data, shown):
    found = read(data if isinstance(data, bytes) else data.encode()).table
    assert "|".join(f"{c.name} {c.kind} {c.cell(0)}" for c in found.columns) == shown


@pytest.mark.parametrize(
    ("text", "layout", "made"),
    [
        ("days,dead_A,dead_B\n5,1,\n6,0,\n7,1,\n4,,1\n9,,0\n11,,1\n", "a status for each group", 6),
        ("year,at_risk,deaths,withdrawn\n1,100,5,2\n2,93,6,1\n3,86,9,4\n", "counts at times", 7),
        ("dose,time,dead,freq\n1,5,1,10\n2,6,0,20\n3,7,1,5\n", "counts", 3),
        (
            "p,from_date,to_date,event\n1,2020-01-01,2020-02-01,0\n1,2020-02-01,2020-05-01,1\n"
            "2,2020-03-01,2020-04-01,0\n2,2020-04-01,2020-08-01,0\n",
            "periods", 4,
        ),
        (
            "p,date,event\n1,2020-01-01,enrolled\n1,2020-05-01,last contact\n2,2020-01-05,enrolled\n"
            "2,2020-03-01,death\n3,2020-02-01,enrolled\n3,2020-04-01,relapse\n3,2020-08-01,death\n",
            "dated records", 3,
        ),
        ("id,months,event\na,1,0\nb,2,1\nc,3,1\nd,4,0\n", "one row each", 4),
    ],
)  # fmt: skip
def test_layouts_are_recognised_by_what_is_in_them(text, layout, made):
    rows = table(text)
    guess = recognise(rows)[0]
    assert guess.layout == layout
    now, effects = apply_steps(rows, guess.steps)
    assert [e.broken for e in effects if e.broken] == []
    assert now.size == made
    formed = form_cohort(now, guess.change(propose(rows)))
    blocks = formed if isinstance(formed, tuple) else ()
    unknown = [b.sentence for b in blocks if b.slot not in ("outcome", "unit")]
    assert unknown == [], "nothing but the meaning of codes and the unit is left to say"


@pytest.mark.parametrize(
    ("text", "unit"),
    [
        ("time,dead_A,dead_B\n5,1,\n6,0,\n7,1,\n4,,1\n9,,0\n11,,1\n", "unstated"),
        ("weeks,dead_A,dead_B\n5,1,\n6,0,\n7,1,\n4,,1\n9,,0\n11,,1\n", "weeks"),
        ("cycle,at_risk,deaths,withdrawn\n1,100,5,2\n2,93,6,1\n3,86,9,4\n", "cycles"),
        ("interval,at_risk,deaths,withdrawn\n1,100,5,2\n2,93,6,1\n3,86,9,4\n", "unstated"),
        ("PARAMCD,AVAL,AVALU,CNSR\nOS,1,WEEKS,0\nPFS,2,DAYS,1\nOS,3,WEEKS,1\n", "weeks"),
        ("PARAMCD,AVAL,AVALU,CNSR\nOS,1,FORTNIGHTS,0\nOS,2,FORTNIGHTS,1\n", "unstated"),
        ("PARAMCD,AVAL,AVALU,CNSR\nOS,1,DAYS,0\nOS,2,MONTHS,1\n", "unstated"),
        ("PARAMCD,AVAL,CNSR\nOS,1,0\nOS,2,1\n", "unstated"),
    ],
)
def test_a_layout_sets_the_unit_that_the_file_states_or_leaves_it_open(text, unit):
    rows = table(text)
    assert recognise(rows)[0].change(propose(rows)).unit == unit
