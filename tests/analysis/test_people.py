"""Several rows for a subject: what is shown is counted by subject."""

from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.prepare.describe import describe
from hourglass.analysis.prepare.follow_up_lines import follow_up_lines
from hourglass.cohort.derive import derive
from hourglass.cohort.statement import Duration
from making import cohort, marks_of
from stages import compare, estimate

PERIODS = """who,start,stop,s,arm
a,0,4,0,x
a,4,9,1,y
b,0,3,0,x
b,3,12,0,x
c,0,5,0,y
c,5,7,2,y
d,0,8,1,x
d,8,10,0,x
"""


def test_spells_that_go_on_are_shown_as_people_and_are_no_censorings():
    periods = cohort(
        PERIODS, clock=Duration(column="stop"), late_entry="start", subject="who", several_rows=True
    )
    found = estimate(periods, EstimateStatement())
    summary = found.cohort
    assert (summary.subjects, summary.rows, summary.events) == (4, 8, 2)
    assert (summary.censored, summary.competing) == (2, 1)
    assert summary.line.startswith("Following 4 subjects in 8 rows to the event, in months")
    marks = next(m for m in marks_of(found.figure.tracks[0], "points") if m.glyph == "tick")
    assert list(marks.x) == [7, 10, 12], "no tick where a subject goes on"
    assert found.figure.tracks[1].counts[0].number[0] == 4, "at 0 nobody is missing from the table"
    assert [c.key for c in found.cautions] == [
        "followed after the event", "competing events: curve", "few at risk",
    ]  # fmt: skip
    compared = compare(periods, CompareStatement(by="arm"))
    assert [(c.label, c.subjects, c.events, c.moved_on) for c in compared.curves] == [
        ("x", 3, 1, 1), ("y", 2, 1, 0),
    ]  # fmt: skip
    assert list(marks_of(compared.figure.tracks[0], "points")[0].x) == [10, 12]
    by = next(p.slot for p in compared.sentence.parts if p.slot and p.slot.id == "by")
    assert next(o for o in by.options if o.label == "arm").note == "x 3 · y 2"
    lines, note = follow_up_lines(
        periods.table, periods.statement, derive(periods.table, periods.statement)
    )
    assert note == "All 4 subjects, longest first."
    assert [(line.label, line.start, line.end, line.status) for line in lines] == [
        ("b", 0, 12, 0), ("d", 0, 10, 0), ("a", 0, 9, 1), ("c", 0, 7, 2),
    ]  # fmt: skip
    described = describe(periods, "arm")
    assert [(g.label, g.rows) for g in described.groups] == [
        ("All subjects", 4),
        ("x", 3),
        ("y", 1),
    ]
