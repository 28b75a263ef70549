"""Files that are mended rather than refused: the table then, and the notes on it."""

import pytest

from hourglass.cohort.findings.find import find
from hourglass.cohort.parquet import from_parquet, to_parquet
from hourglass.cohort.reading.read import find_recipe, read
from making import timed


def cells(table):
    return [[c.cell(k) for c in table.columns] for k in range(table.size)]


def notes_on(table):
    return {m.about: m for m in table.mended}


MENDED = [
    ("no name", b"a,,c\n1,2,3\n", ["a", "column 2", "c"], [["1", "2", "3"]], "names", "column 2"),
    ("a taken name", b"a,,column 2\n1,2,3\n", ["a", "column 2 (2)", "column 2"],
     [["1", "2", "3"]], "names", "column 2 (2)"),
    ("one name twice", b"a,b,a\n1,2,3\n", ["a", "b", "a (2)"], [["1", "2", "3"]], "names", "“a”"),
    ("too few and too many cells", b"a,b\n1,2\n\n3\n4,5,6\n7,8\n", ["a", "b", "column 3"],
     [["1", "2", ""], ["3", "", ""], ["4", "5", "6"], ["7", "8", ""]], "ragged", "row 2, with 1 cells"),
    ("a header without the first name", b"x,y,z\nr1,1,2,3\nr2,4,5,6\n",
     ["row name", "x", "y", "z"], [["r1", "1", "2", "3"], ["r2", "4", "5", "6"]], "names", "one name fewer"),
    ("zero bytes", b"a,b\nx\x00y,1\n" + b"z,2\n" * 40, ["a", "b"],
     [["xy", "1"]] + [["z", "2"]] * 40, "zero bytes", "line 2"),
    ("returns at the end of lines", b"a,b\rx,1\ry,2\r", ["a", "b"], [["x", "1"], ["y", "2"]],
     "line ends", "3 lines"),
    ("some lines ended otherwise", b"a,b\nx,1\ny,2\rz,3\nw,4\n", ["a", "b"],
     [["x", "1"], ["y", "2"], ["z", "3"], ["w", "4"]], "line ends", "1 line"),
    ("a return within a cell", b"a,b\nx\ry,1\nz,2\nw,3\n", ["a", "b"],
     [["x y", "1"], ["z", "2"], ["w", "3"]], "line ends", "line 2"),
    ("invisible characters in a name", "gro\u00adup,s\nA,1\n".encode(), ["group", "s"], [["A", "1"]],
     "names", "group"),
    ("invisible characters in codes", "s,t\nR\u00ad,1\nR,2\n\u200bR,3\n".encode(), ["s", "t"],
     [["R", "1"], ["R", "2"], ["R", "3"]], "invisible: s", "2 cells"),
]  # fmt: skip


@pytest.mark.parametrize(
    ("data", "names", "rows", "about", "words"),
    [case[1:] for case in MENDED],
    ids=[case[0] for case in MENDED],
)
def test_what_can_be_mended_is_read_and_stated(data, names, rows, about, words):
    table = from_parquet(to_parquet(read(data).table))
    assert [c.name for c in table.columns] == names
    assert cells(table) == rows
    mended = notes_on(table)[about]
    assert words in f"{mended.title} {mended.why}"
    keys = {f.key for f in find(table, timed(), raw=table)}
    assert f"mended: {about}" in keys, "it is a finding until somebody has seen it"
    assert all(0 < n <= table.size for n in mended.rows)


def test_rows_that_were_filled_up_are_named_and_can_be_set_aside():
    table = read(b"a,b\n1,2\n3\n4,5\n6\n").table
    finding = next(f for f in find(table, timed(), raw=table) if f.key == "mended: ragged")
    assert finding.rows.tolist() == [2, 4]
    assert finding.choice("set aside").steps[0].rows == (2, 4)


ALIGNED = [
    ("runs of spaces", b"id time status\n1 5 1\n2 6 0\n30 7 1\n", ["id", "time", "status"],
     [["1", "5", "1"], ["2", "6", "0"], ["30", "7", "1"]]),
    ("numbers set right", b"id   time  status group\n1     5.0     1    A\n2    12.1     0    B x\n"
     b"3   112.1     0\n", ["id", "time", "status", "group"],
     [["1", "5.0", "1", "A"], ["2", "12.1", "0", "B x"], ["3", "112.1", "0", ""]]),
    ("blank cells and names of two words", b"id   last seen   outcome\np1   2020-01-05  died\n"
     b"p2               lost to view\n", ["id", "last seen", "outcome"],
     [["p1", "2020-01-05", "died"], ["p2", "", "lost to view"]]),
    ("a title over named columns, units with commas",
     b"Pump room export\n\nunit   stopped      ran          drug\np1     2020-02-05   1,287 h      NA x\n"
     b"p2     2020-05-01   12 d\np3     2020-05-02   3 mo 4 d     x\n", ["unit", "stopped", "ran", "drug"],
     [["p1", "2020-02-05", "1,287 h", "NA x"], ["p2", "2020-05-01", "12 d", ""],
      ["p3", "2020-05-02", "3 mo 4 d", "x"]]),
    ("a title, and commas in numbers", b"Bench of pumps\n\nid  x    y\n1   2,5  3\n2   3,5  4\n",
     ["id", "x", "y"], [["1", "2.5", "3"], ["2", "3.5", "4"]]),
]  # fmt: skip


@pytest.mark.parametrize(
    ("data", "names", "rows"), [c[1:] for c in ALIGNED], ids=[c[0] for c in ALIGNED]
)
def test_columns_aligned_by_spaces_are_read(data, names, rows):
    found = read(data)
    assert "aligned by spaces" in found.how
    assert [c.name for c in found.table.columns] == names
    assert cells(found.table) == rows


@pytest.mark.parametrize(
    "data",
    [b"name\nJohn Smith\nMary Jones\n", b"at\n2020-01-01 10:00\n2020-01-02 11:30\n",
     b"note,n\nas it was,1\nso it is,2\n"],
)  # fmt: skip
def test_words_set_apart_by_spaces_are_no_table(data):
    assert find_recipe(data)[0].delimiter == ","


FOOTERS = [
    ("a sum of every column", "id,x,y\n1,5,6\n2,7,8\n3,1,2\nTotal,13,16\n", 1),
    (
        "a sum in German",
        "Patient;x;y\nA1;5;6\nA2;7;8\nA3;1;2\nSumme;;;16\n".replace(";;;", ";13;"),
        1,
    ),
    ("means and a note", "id,x,y\n1,5,6\n2,7,8\n3,1,2\nMean,4.3,5.3\nn = 3,,\n", 2),
    ("a level called total", "part,x\ntotal,5\nhalf,7\ntotal,1\n", 0),
]


@pytest.mark.parametrize(("text", "lines"), [f[1:] for f in FOOTERS], ids=[f[0] for f in FOOTERS])
def test_footers_of_any_width_are_noticed(text, lines):
    assert find_recipe(text.encode())[0].footer == lines


class TestMissingWords:
    TEXT = "t,s,place,dose\n1,1,NA,5\n2,0,EU,NA\n3,1,NA,7\n4,0,none,none\n5,1,EU,1\n6,1,EU,2\n"

    def test_a_word_that_is_a_level_is_given_back_by_one_choice(self):
        table = from_parquet(to_parquet(read(self.TEXT.encode()).table))
        place, dose = table.column("place"), table.column("dose")
        assert place.missing.tolist() == [True, False, True, False, False, False]
        assert dose.missing.sum() == 2, (
            "“none” means nothing among numbers, and is a level elsewhere"
        )
        finding = next(f for f in find(table, timed()) if f.key == "missing: place")
        assert "“NA” in 2" in finding.title
        (step,) = finding.choice("give back NA").steps
        after = step.on(table).table.column("place")
        assert after.counts() == {"EU": 3, "NA": 2, "none": 1}

    def test_a_number_read_as_missing_is_given_back_as_a_number(self):
        recipe, _, _ = find_recipe(b"t,s,x\n1,1,99\n2,0,5\n3,1,7\n")
        table = read(
            b"t,s,x\n1,1,99\n2,0,5\n3,1,7\n", recipe.model_copy(update={"missing": ("99",)})
        ).table
        assert table.column("x").missing.tolist() == [True, False, False]
        finding = next(f for f in find(table, timed()) if f.key == "missing: x")
        (step,) = finding.choice("give back 99").steps
        assert step.on(table).table.column("x").values.tolist() == [99, 5, 7]

    def test_the_outcome_can_have_one_too(self):
        table = read(b"t,s\n1,NA\n2,R\n3,NA\n4,R\n").table
        finding = next(f for f in find(table, timed()) if f.key == "blank outcome")
        (step,) = finding.choice("give back NA").steps
        assert step.on(table).table.column("s").counts() == {"NA": 2, "R": 2}
