"""Readings of several views in one table: nothing lost, nothing in another view's column."""

from hourglass.analysis.shared.beside_views import readouts_beside
from hourglass.analysis.shared.cell import WorkingsOf, number_cell, words
from hourglass.analysis.shared.sections import Section, Table, quiet


def table(label, *rows, head=()):
    return Table(label=label, head=list(head), rows=[[words(r[0]), *r[1:]] for r in rows])


def section(id, *blocks, place="side"):
    return Section(id=id, title=id.capitalize(), place=place, blocks=list(blocks))


def test_each_reading_has_a_row_and_each_view_a_column():
    median = number_cell("52.0", 52.0, workings=WorkingsOf(figure="median", about={}))
    one = [
        section(
            "times",
            table("Times", ("median", median, words("43 to 66")), head=["", "time", "95% CI"]),
        ),
        section("test", table("Test", ("p", words("0.003")))),
        section("drawn", table("Drawn", ("a", words("1"))), place="main"),
        section("about", quiet("Only words.")),
    ]
    other = [
        section(
            "times",
            table(
                "Times", ("median", words("48.1"), words("40 to 51")), head=["", "time", "95% CI"]
            ),
        ),
        section("means", table("Means", ("standard", words("48.8")))),
    ]
    found = readouts_beside(["A", "B"], [one, other])
    assert [s.title for s in found] == ["Times", "Test", "Means"]
    tables = [s.blocks[0] for s in found]
    assert [t.head for t in tables] == [["", "A", "B"]] * 3
    assert [[c.text for c in row] for t in tables for row in t.rows] == [
        ["median, time", "52.0", "48.1"],
        ["median, 95% CI", "43 to 66", "40 to 51"],
        ["p", "0.003", "—"],
        ["standard", "—", "48.8"],
    ]
    assert tables[0].rows[0][1].workings == median.workings


def test_tables_of_one_section_do_not_mix_their_rows():
    twice = [section("x", table("One", ("a", words("1"))), table("Two", ("a", words("2"))))]
    (found,) = readouts_beside(["A", "B"], [twice, []])
    assert [[c.text for c in row] for row in found.blocks[0].rows] == [
        ["a", "1", "—"],
        ["a", "2", "—"],
    ]
