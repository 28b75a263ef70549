"""What is proposed for a new table, and why; meanings are never assumed."""

import pytest

from hourglass.cohort.proposal import could_be_outcome, proposal
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
    ("an age", rows("who,age,status", lambda k: (f"p{k}", k + 40, k % 2)),
     {"clock.column": "age", "outcome": "status"}, "years"),
    ("hours before other numbers", rows("lamp,volts,hours,failed", lambda k: (f"l{k}", k, 90 * k, k % 2)),
     {"clock.column": "hours", "outcome": "failed"}, "hours"),
    ("dates by their order, not their place",
     rows("patient,dob,seen_on,first_visit,vital",
          lambda k: (f"p{k}", f"19{50 + k}-01-02", f"2021-0{k % 9 + 1}-04", f"2020-0{k % 9 + 1}-04",
                     "ad"[k % 2])),
     {"clock.start": "first_visit", "clock.end": "seen_on", "outcome": "vital"}, "days"),
    ("long dates in months",
     rows("start,end,x", lambda k: (f"20{10 + k // 10}-01-0{k % 9 + 1}", f"2024-0{k % 9 + 1}-04", k % 2)),
     {"clock.start": "start", "clock.end": "end", "outcome": "x"}, "months"),
    ("the only column with two values", rows("weeks,a,b", lambda k: (k * 3.5, k % 2, k % 3)),
     {"clock.column": "weeks", "outcome": "a"}, "weeks"),
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
    said = {reason.field: reason for reason in found.reasons}
    assert {field: reason.value for field, reason in said.items() if field in parts} == parts
    assert found.statement.unit == unit
    assert all(reason.because for reason in found.reasons)
    assert found.statement.meanings == {}
    dumped = found.statement.model_dump()
    for field, reason in said.items():
        value = dumped
        for part in field.split("."):
            value = value[part]
        assert value == reason.value, "what is said is what is proposed"


def test_nothing_is_proposed_where_two_columns_could_be_it():
    found = proposal(table(rows("weeks,a,b", lambda k: (k * 3.5, k % 2, k // 2 % 2))))
    assert found.statement.outcome is None
    bare = table(rows("weeks,x", lambda k: (k * 3.5, k * 1.5)))
    assert proposal(bare).statement.outcome is None
    assert not could_be_outcome(bare, {"weeks"})
