"""How the time and the end of one row arose, as it is shown."""

from datetime import date

from hourglass.analysis.prepare.row_follow_up import row_follow_up, row_times
from hourglass.cohort.derive import derive
from hourglass.cohort.statement import BetweenDates, CodeMeaning, FollowUpStatement
from hourglass.cohort.steps.apply import apply_steps
from hourglass.cohort.steps.cells import CorrectCell
from making import table, timed

DATED = FollowUpStatement(
    clock=BetweenDates(start="a", end="b"), unit="months", outcome="s",
    meanings={"D": CodeMeaning(meaning="competing", name="death"), "A": CodeMeaning(meaning="censored")},
)  # fmt: skip


def row_lines(text, statement, row, steps=()):
    raw = table(text)
    after, _ = apply_steps(raw, steps)
    times = row_times(derive(after, statement), statement)
    found = row_follow_up(raw, after, statement, times, row)
    return found, {line.what: (line.value, line.rule) for line in found.lines}


def test_a_row_between_two_dates_states_its_cells_and_rules():
    text = "a,b,s\n13/01/2020,14/02/2021,D\n2020-01-01,2020-03-01,A\n"
    found, lines = row_lines(
        text.replace("2020-01-01", "01/01/2020").replace("2020-03-01", "01/03/2020"), DATED, 0
    )
    assert (found.time, found.status) == ("13.0760 months".replace("60", "6"), "a competing event")
    assert lines["start"] == ("2020-01-13 (file: 13/01/2020)", "a: follow-up starts there")
    assert lines["time"][1] == "end − start = 398 days, / 30.4375"
    assert lines["s"] == ("D", "D is a competing event, death")


def test_closing_date_and_corrections_are_among_the_rules():
    text = "a,b,s\n2020-01-13,2021-02-14,D\n2020-01-01,2020-03-01,A\n"
    closed = DATED.model_copy(update={"closing_date": date(2020, 7, 1), "unit": "days"})
    fix = CorrectCell(row=1, column="a", value="2020-01-14")
    found, lines = row_lines(text, closed, 0, [fix])
    assert (found.time, found.status) == ("169 days", "censored")
    assert lines["closing date"][0] == "2020-07-01"
    assert lines["a"] == ("2020-01-14", "changed by a step; as read it was 2020-01-13")


def test_what_the_statement_decides_of_times_is_shown():
    text = "t,s,e\n0,1,\n9,1,2\n50,0,\n"
    _, zero = row_lines(text, timed(zero_moved_to=0.5), 0)
    assert zero["zero time"][0] == "0.5"
    _, late = row_lines(text, timed(late_entry="e", landmark=3), 1)
    assert late["under observation from"][0] == "2"
    assert late["time analysed"][0] == "6 months"
    found, long = row_lines(text, timed(longest=20), 2)
    assert long["longest follow-up"][0] == "20"
    assert found.time == "20 months"
    _, out = row_lines(text, timed(landmark=3), 0)
    assert out["analysed"][0] == "no"
