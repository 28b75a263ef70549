import numpy as np
import pytest

from hourglass.cohort.derive import derive, folded_codes
from hourglass.cohort.followup import Cohort, form_cohort
from hourglass.cohort.proposal.propose import propose
from hourglass.cohort.shape import shaped
from hourglass.cohort.statement import BetweenDates, CodeMeaning, Duration, FollowUpStatement
from making import MEANINGS, cohort, demo_table, table, timed

DATED = table(
    "start,stop,s,late\n"
    "2020-01-01,2020-01-31,1,\n"
    "2020-01-01,2021-01-01,0,2020-06-01\n"
    "2020-02-28,2020-03-01,2,\n"
)


def dated(**changes):
    clock = BetweenDates(start="start", end="stop")
    statement = FollowUpStatement(clock=clock, unit="days", outcome="s", meanings=MEANINGS)
    return statement.model_copy(update=changes)


def blocks(text, **changes):
    found = form_cohort(table(text), timed(**changes))
    assert isinstance(found, tuple)
    return [(b.sentence, b.slot, b.rows) for b in found]


@pytest.mark.parametrize(
    ("unit", "days"),
    [("hours", 1 / 24), ("days", 1), ("weeks", 7), ("months", 30.4375), ("years", 365.25)],
)
def test_time_runs_between_dates_in_the_unit(unit, days):
    formed = form_cohort(DATED, dated(unit=unit))
    assert isinstance(formed, Cohort)
    assert formed.follow_up.exit.tolist() == [30 / days, 366 / days, 2 / days]
    assert formed.follow_up.status.tolist() == [1, 0, 2]
    assert formed.competing == ("something else",)


def test_late_entry_counts_from_the_start_and_a_blank_is_none():
    formed = form_cohort(DATED, dated(late_entry="late"))
    assert isinstance(formed, Cohort)
    assert formed.follow_up.entry is not None
    assert formed.follow_up.entry.tolist() == [-np.inf, 152.0, -np.inf]


def test_a_duration_is_taken_as_it_is():
    formed = cohort("t,s\n1.5,1\n2,0\n")
    assert formed.follow_up.exit.tolist() == [1.5, 2.0]
    assert formed.decimals.data == 1


def test_every_code_must_be_given_a_meaning():
    found = blocks("t,s\n1,1\n2,0\n3,7\n4,\n5,\n")
    assert [slot for _, slot, _ in found] == ["outcome", "outcome"]
    assert "A blank is not taken for censored" in found[0][0]
    assert "2 rows" in found[0][0]
    assert "s 7 (1 row) has no meaning" in found[1][0]


def test_a_blank_can_be_given_a_meaning():
    meanings = {**MEANINGS, "": CodeMeaning(meaning="set aside")}
    formed = cohort("t,s\n1,1\n2,\n", meanings=meanings)
    assert formed.table.numbers.tolist() == [1]


def test_codes_set_aside_appear_in_the_ledger():
    meanings = {**MEANINGS, "2": CodeMeaning(meaning="set aside")}
    statement = timed(meanings=meanings)
    lines = shaped(derive(table("t,s\n1,1\n2,2\n3,2\n"), statement), statement).lost
    assert [(line.label, line.rows) for line in lines] == [("s is 2", 2)]


@pytest.mark.parametrize(
    ("text", "changes", "words", "rows"),
    [
        ("t,s\n1,1\n-2,0\n", {}, "negative time", (2,)),
        ("t,s\n1,1\n,0\n,1\n", {}, "2 rows with no time", (2, 3)),
        ("t,s,e\n3,1,1\n2,0,2\n", {"late_entry": "e"}, "entry at or after the end", (2,)),
    ],
)
def test_unusable_rows_block_by_number(text, changes, words, rows):
    ((sentence, slot, found),) = blocks(text, **changes)
    assert words in sentence
    assert slot is None
    assert found == rows


def test_rows_set_aside_by_code_do_not_block():
    meanings = {**MEANINGS, "2": CodeMeaning(meaning="set aside")}
    formed = cohort("t,s\n1,1\n-5,2\n", meanings=meanings)
    assert formed.follow_up.size == 1


@pytest.mark.parametrize(
    ("changes", "slot"),
    [
        ({"clock": Duration()}, "duration"),
        ({"clock": Duration(column="w")}, "duration"),
        ({"clock": BetweenDates()}, "start"),
        ({"outcome": None}, "outcome"),
        ({"outcome": "gone"}, "outcome"),
        ({"late_entry": "w"}, "late_entry"),
    ],
)
def test_an_unfilled_slot_blocks(changes, slot):
    found = blocks("t,s,w\n1,1,x\n", **changes)
    assert found[0][1] == slot


def test_everybody_set_aside_is_stated():
    aside = {"1": CodeMeaning(meaning="set aside")}
    ((sentence, _, _),) = blocks("t,s\n1,1\n", meanings=aside)
    assert "nobody to follow" in sentence


def test_a_time_of_zero_is_followed():
    formed = cohort("t,s\n0,1\n1,0\n")
    assert formed.follow_up.exit.tolist() == [0.0, 1.0]


def test_outcome_codes_are_trimmed_and_folded_to_the_commonest_spelling():
    column = table("s\nyes\n YES\nyes \n.\nNo\n").column("s")
    codes, of, spellings = folded_codes(column)
    assert codes == ("", "No", "yes")
    assert of.tolist() == [2, 2, 2, 0, 1]
    assert set(spellings[2]) == {"yes", " YES", "yes "}


def test_proposals_choose_columns_but_never_meanings():
    larkmoor = propose(demo_table("larkmoor"))
    assert larkmoor.clock == BetweenDates(start="grafted_on", end="last_seen")
    assert (larkmoor.outcome, larkmoor.subject) == ("outcome", "graft_no")
    lamps = propose(demo_table("lamps"))
    assert lamps.clock == Duration(column="hours")
    assert (lamps.unit, lamps.outcome) == ("hours", "failed")
    assert larkmoor.meanings == lamps.meanings == {}
    bare = propose(table("a,b\nx,y\nx,z\n"))
    assert bare.outcome is None
    assert bare.clock == BetweenDates()
