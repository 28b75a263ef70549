"""Times of day: zones that only some cells name, fractions of a second, and the text of the cells."""

from datetime import datetime

import numpy as np

from hourglass.cohort.derive import derive
from hourglass.cohort.findings.find import find
from hourglass.cohort.findings.finding import steps_for
from hourglass.cohort.parquet import from_parquet, to_parquet
from hourglass.cohort.proposal.propose import propose
from hourglass.cohort.statement import BetweenDates, FollowUpStatement
from hourglass.cohort.steps.apply import apply_steps
from hourglass.cohort.steps.cells import CorrectCell
from hourglass.cohort.steps.numbers import NewColumn
from hourglass.cohort.steps.types import ReadAsDates
from making import table

ZONES = "id,at\na,2021-03-05T23:30:00+02:00\nb,2021-03-06T00:15:00\nc,2021-03-07\n"


def test_a_zone_in_some_cells_only_is_a_question():
    read_so = table(ZONES)
    assert read_so.column("at").kind == "text", (
        "nothing is taken for universal time without a decision"
    )
    found = next(f for f in find(read_so, propose(read_so)) if f.key == "some time zones: at")
    assert found.rows.tolist() == [2, 3]
    wanted = {
        "read day first, +00:00": ["2021-03-05T21:30", "2021-03-06T00:15", "2021-03-07T00:00"],
        "read day first, +02:00": ["2021-03-05T21:30", "2021-03-05T22:15", "2021-03-06T22:00"],
        "read day first, as written": ["2021-03-05T23:30", "2021-03-06T00:15", "2021-03-07T00:00"],
    }
    for name, instants in wanted.items():
        after, (effect,) = apply_steps(read_so, steps_for(found, name))
        assert not effect.broken
        column = after.column("at")
        assert column.values.tolist() == [datetime.fromisoformat(i) for i in instants], name
        assert [column.as_written.cell(k) for k in range(3)] == [
            line.split(",")[1] for line in ZONES.split()[1:]
        ]
    _, (silent,) = apply_steps(read_so, [ReadAsDates(column="at")])
    assert "state which zone" in silent.broken


def test_an_order_and_a_zone_that_are_both_open_are_both_requested():
    rows = table("id,at\na,05/03/2021 10:00+01:00\nb,06/04/2021 11:00\n")
    found = next(f for f in find(rows, propose(rows)) if f.key == "either order: at")
    names = [c.name for c in found.choices]
    assert len(names) == 7, "two orders, three zones each, and to leave it"
    for choice in found.choices[:-1]:
        assert not apply_steps(rows, choice.steps)[1][0].broken


def test_microseconds_stay_through_reading_keeping_and_dividing():
    rows = table(
        "from,to,s\n2021-01-01 10:00:00.000001,2021-01-01 10:00:00.250000,1\n"
        "2021-01-01 10:00:00,2021-01-01 10:00:07.5,0\n"
    )
    again = from_parquet(to_parquet(rows))
    for held in (rows, again):
        assert held.column("from").cell(0) == "2021-01-01 10:00:00.000001"
        assert held.column("to").cell(1) == "2021-01-01 10:00:07.5"
        statement = FollowUpStatement(
            clock=BetweenDates(start="from", end="to"), unit="hours", outcome="s"
        )
        assert derive(held, statement).time.tolist() == [0.249999 / 3600, 7.5 / 3600]
    half = table("d,e\n2021-01-01 10:00:00.5,2021-01-02\n")
    made, _ = apply_steps(half, [NewColumn(name="later", formula="d + 1")])
    assert made.column("later").cell(0) == "2021-01-02 10:00:00.5"


def test_what_a_cell_stated_stays_beside_what_was_read():
    rows = table('n,d,k\n"1,234.5",13/01/2020,5\n7,2020-02-03,6\n')
    assert rows.column("k").as_written is None
    for held in (rows, from_parquet(to_parquet(rows)).take(np.array([0, 1]))):
        text = {c.name: [c.as_written.cell(k) for k in (0, 1)] for c in held.columns[:2]}
        assert text == {"n": ["1,234.5", ""], "d": ["13/01/2020", ""]}
    gone = table("n,d\nNA,2020-01-01\n3,2020-01-02\n").column("n")
    assert (gone.cell(0), gone.as_written.cell(0)) == ("", "NA"), "a word for missing stays too"
    corrected, _ = apply_steps(rows, [CorrectCell(row=1, column="d", value="2020-01-14 08:30")])
    assert corrected.column("d").cell(0) == "2020-01-14 08:30:00"
    assert corrected.column("d").as_written.cell(0) == "13/01/2020"
