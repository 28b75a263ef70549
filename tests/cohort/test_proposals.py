"""What is proposed for a new table, and why; meanings are never assumed."""

from datetime import date

import pytest

from hourglass.cohort.findings.find import find
from hourglass.cohort.findings.finding import steps_for
from hourglass.cohort.followup import Cohort, form_cohort
from hourglass.cohort.layouts import recognise
from hourglass.cohort.proposal.outcome import could_be_outcome
from hourglass.cohort.proposal.propose import proposal, propose
from hourglass.cohort.statement import CodeMeaning
from hourglass.cohort.steps.apply import apply_steps
from making import table


def rows(head, row, n=20):
    return head + "\n" + "".join(",".join(map(str, row(k))) + "\n" for k in range(n))


CASES = [
    ("a time without a unit asks", "time status\n5 1\n6 0\n7 1\n9 1\n12 0\n13 1\n15 0\n",
     {"clock.column": "time", "outcome": "status"}, "unstated"),
    ("kilometres", rows("machine,km,broken", lambda k: (f"m{k}", 1000 * k + 17, int(k % 3 == 0))),
     {"clock.column": "km", "outcome": "broken", "subject": "machine"}, "kilometres"),
    ("cycles", rows("part,cycles_run,end", lambda k: (f"p{k}", 100 * k + 7, ["intact", "torn"][k % 2])),
     {"clock.column": "cycles_run", "outcome": "end"}, "cycles"),
    ("a day", rows("id,day,died", lambda k: (k, 10 * k + 17, k % 2)),
     {"clock.column": "day", "outcome": "died", "subject": "id"}, "days"),
    ("an age at the end", rows("who,age at death,status", lambda k: (f"p{k}", k + 40, k % 2)),
     {"clock.column": "age at death", "outcome": "status"}, "years"),
    ("the word for a time before a unit",
     rows("hen,eggs_per_day,followup,dead", lambda k: (f"h{k}", k % 5, 3 * k + 5, k % 2)),
     {"clock.column": "followup", "outcome": "dead"}, "unstated"),
    ("a stay beside a time", rows("n,icu_days,os_months,status", lambda k: (k, k % 9, k + 0.5, k % 2)),
     {"clock.column": "os_months", "outcome": "status"}, "months"),
    ("a distance beside a time", rows("distance_km,time,status", lambda k: (k * 1.5, k + 4, k % 2)),
     {"clock.column": "time", "outcome": "status"}, "unstated"),
    ("one time in two units", rows("time_months,time_days,died",
                                   lambda k: (round((k + 9) / 30.4375, 1), k + 9, k % 2)),
     {"clock.column": "time_days", "outcome": "died"}, "days"),
    ("dates beside an outcome that nothing names",
     rows("weeks,x,arm,death_date", lambda k: (k, k // 3 % 2, k % 2, "2020-01-02" if k // 3 % 2 else ""), 60),
     {"clock.column": "weeks", "outcome": "x"}, "weeks"),
    ("a smoking status is no outcome",
     rows("weeks,smoking_status,vital_status", lambda k: (k, "ab"[k % 2], "xy"[k // 2 % 2])),
     {"clock.column": "weeks", "outcome": "vital_status"}, "weeks"),
    ("hours before other numbers", rows("lamp,volts,hours,failed", lambda k: (f"l{k}", k, 90 * k, k % 2)),
     {"clock.column": "hours", "outcome": "failed"}, "hours"),
    ("dates by their order, not their place",
     rows("patient,dob,seen_on,first_visit,vital",
          lambda k: (f"p{k}", f"19{50 + k}-01-02", f"2021-0{k % 9 + 1}-04", f"2020-0{k % 9 + 1}-04",
                     "ad"[k % 2])),
     {"clock.start": "first_visit", "clock.end": "seen_on", "outcome": "vital"}, "days"),
    ("long dates in months",
     rows("start,end,x", lambda k: (f"20{10 + k // 10}-01-0{k % 9 + 1}", f"2024-0{k % 9 + 1}-04", k % 2)),
     {"clock.start": "start", "clock.end": "end"}, "months"),
    ("words for how it ended before other words",
     rows("weeks,sex,how", lambda k: (k * 3.5, "mf"[k // 2 % 2], ["died", "alive"][k % 2])),
     {"outcome": "how"}, "weeks"),
    ("an entry and an exit", rows("ID,entry,exit,ev", lambda k: (k, k % 4, k + 5, k % 2)),
     {"clock.column": "exit", "late_entry": "entry", "outcome": "ev", "subject": "ID"}, "unstated"),
    ("an arm is no outcome", rows("weeks,arm", lambda k: (k * 3.5, "ab"[k % 2])),
     {"clock.column": "weeks"}, "weeks"),
    ("inspections are no clock",
     rows("subject,last_negative,first_positive",
          lambda k: (f"p{k}", f"2020-01-0{k % 9 + 1}", f"2020-0{k % 8 + 2}-01")),
     {"subject": "subject"}, "days"),
]  # fmt: skip


@pytest.mark.parametrize(
    ("text", "parts", "unit"), [c[1:] for c in CASES], ids=[c[0] for c in CASES]
)
def test_columns_are_proposed_with_a_reason(text, parts, unit):
    found = proposal(table(text))
    words = {reason.field: reason for reason in found.reasons}
    assert {field: reason.value for field, reason in words.items() if field in parts} == parts
    assert found.statement.unit == unit
    assert all(reason.because for reason in found.reasons)
    assert found.statement.meanings == {}
    dumped = found.statement.model_dump()
    for field, reason in words.items():
        value = dumped
        for part in field.split("."):
            value = value[part]
        assert value == reason.value, "what is stated is what is proposed"


@pytest.mark.parametrize(
    ("text", "field", "columns"),
    [
        (rows("id,time,followup,status", lambda k: (k, k + 3, 2 * k + 1, k % 2)),
         "clock.column", ("time", "followup")),
        (rows("id,os_months,os_status,pfs_months,pfs_status", lambda k: (k, k + 3, k % 2, k + 1, k // 2 % 2)),
         "clock.column", ("os_months", "pfs_months")),
        (rows("id,os_months,os_status,pfs_months,pfs_status", lambda k: (k, k + 3, k % 2, k + 1, k // 2 % 2)),
         "outcome", ("os_status", "pfs_status")),
        (rows("weeks,died,relapsed", lambda k: (k + 3, k % 2, k // 2 % 2)), "outcome", ("died", "relapsed")),
        (rows("id,entered,last_seen,death_on,relapse_on",
              lambda k: (k, "2020-01-02", "2022-01-02", *["2021-05-06", "", "2021-03-04"][k % 2 :][:2])),
         "clock.events", ("death_on", "relapse_on")),
    ],
)  # fmt: skip
def test_what_several_columns_could_be_stays_open_between_them(text, field, columns):
    found = proposal(table(text))
    assert {o.field: o.columns for o in found.left_open}[field] == columns
    assert field not in {reason.field for reason in found.reasons}


@pytest.mark.parametrize(
    "name", ["icu_days", "eggs_per_day", "age", "pack_years", "dose_days", "los"]
)
def test_rates_stays_ages_and_doses_are_no_time_even_alone(name):
    found = proposal(table(rows(f"id,{name},status", lambda k: (k, k + 3, k % 2))))
    assert (found.statement.clock.kind, found.statement.clock.column) == ("duration", None)


def test_follow_up_ends_at_the_date_of_the_event_not_at_a_last_contact_after_it():
    one = "id,entered,last_seen,died_on,status"
    found = proposal(
        table(
            rows(
                one, lambda k: (k, "2020-01-02", "2022-01-02", "2021-05-06" if k % 2 else "", k % 2)
            )
        )
    )
    clock = found.statement.clock
    assert (clock.kind, clock.start, clock.last_contact) == ("first of", "entered", "last_seen")
    assert [(e.column, e.meaning) for e in clock.events] == [("died_on", "event")]
    same = proposal(
        table(
            rows(
                one, lambda k: (k, "2020-01-02", "2022-01-02", "2022-01-02" if k % 2 else "", k % 2)
            )
        )
    )
    assert same.statement.clock.kind == "dates"
    assert (same.statement.clock.end, same.statement.outcome) == ("last_seen", "status")


def test_no_outcome_is_proposed_for_its_two_values_alone():
    found = proposal(table(rows("weeks,a,b", lambda k: (k * 3.5, k % 2, k % 3))))
    assert found.statement.outcome is None
    bare = table(rows("weeks,x", lambda k: (k * 3.5, k * 1.5)))
    assert proposal(bare).statement.outcome is None
    assert not could_be_outcome(bare, {"weeks"})


def test_where_only_the_event_has_a_date_the_others_are_followed_until_a_closing_date():
    rows_ = rows(
        "id,entered,died_on", lambda k: (k, "2020-01-02", "2021-05-06" if k % 3 == 0 else "")
    )
    held = table(rows_)
    statement = propose(held)
    assert (statement.clock.kind, statement.clock.last_contact) == ("first of", None)
    blocks = form_cohort(held, statement)
    assert [b.slot for b in blocks] == ["last_contact"]
    closed = statement.model_copy(update={"closing_date": date(2022, 1, 2), "unit": "days"})
    cohort = form_cohort(held, closed)
    assert isinstance(cohort, Cohort), cohort
    data = cohort.follow_up
    assert sorted(set(data.exit)) == [490, 731]
    assert (data.exit[data.event()] == 490).all()


def test_a_blank_end_may_be_a_follow_up_that_goes_on():
    ends = ["" if k % 4 == 0 else f"2021-0{k % 9 + 1}-04" for k in range(40)]
    held = table(
        rows("id,entered,last_seen,status", lambda k: (k, "2020-01-02", ends[k], k % 2), 40)
    )
    meanings = {"0": CodeMeaning(meaning="censored"), "1": CodeMeaning(meaning="event")}
    statement = propose(held).model_copy(update={"meanings": meanings, "unit": "days"})
    stated = next(f for f in find(held, statement) if f.key == "no end")
    assert [c.name for c in stated.choices] == ["set aside", "still followed", "correct"]
    assert stated.choice("still followed").label == "Still followed until 2021-09-04"
    now, _ = apply_steps(held, steps_for(stated, "still followed"))
    cohort = form_cohort(now, statement)
    assert isinstance(cohort, Cohort), cohort
    assert cohort.follow_up.size == 40


@pytest.mark.parametrize(
    ("head", "pairs"),
    [
        ("id,os_months,os_status,pfs_months,pfs_status", [("os_months", "os_status", "months"),
                                                          ("pfs_months", "pfs_status", "months")]),
        ("id,time_to_death,death,time_to_relapse,relapse", [("time_to_death", "death", "unstated"),
                                                            ("time_to_relapse", "relapse", "unstated")]),
    ],
)  # fmt: skip
def test_of_two_times_each_goes_with_its_own_outcome(head, pairs):
    held = table(rows(head, lambda k: (k, k + 3, k % 2, k + 1, k // 2 % 2)))
    guesses = recognise(held)
    assert [g.layout for g in guesses] == ["one of several outcomes"] * 2 + ["one row each"]
    assert len({g.key for g in guesses}) == 3
    for guess, (time, end, unit) in zip(guesses, pairs, strict=False):
        made = guess.change(propose(held))
        assert (made.clock.column, made.outcome, made.unit) == (time, end, unit)
        assert time in guess.label
        (waits,) = made.others
        other = next(pair for pair in pairs if pair[0] != time)
        assert (waits.clock.column, waits.outcome, waits.unit) == other
        coded = made.model_copy(update={"meanings": {"1": CodeMeaning(meaning="event")}})
        exchanged = coded.following(0)
        assert (exchanged.clock.column, exchanged.outcome, exchanged.meanings) == (*other[:2], {})
        assert exchanged.following(0) == coded
