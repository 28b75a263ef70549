"""Further tables joined to follow-up: keys, dates, refusals and the columns made."""

from typing import get_args

import numpy as np
import pytest
from pydantic import TypeAdapter

from core.literal import records as literal
from hourglass.cohort.followup import form_cohort
from hourglass.cohort.records.covariate import OF_PERIODS, Covariate
from hourglass.cohort.records.forms import COVARIATE_FORMS, FIELD_FORMS
from hourglass.cohort.records.joined import with_records
from hourglass.cohort.records.keys import matched
from hourglass.cohort.records.prepared import FurtherTable
from hourglass.cohort.records.statement import RecordTable
from hourglass.cohort.statement import BetweenDates, Duration, FollowUpStatement
from making import MEANINGS, table

GRAFTS = (
    "graft,planted,seen,s,arm\n"
    "g1,2020-01-01,2020-12-31,1,a\n"
    "g2,2020-03-01,2020-09-01,0,a\n"
    "g3,2020-05-05,2020-05-25,1,b\n"
)
VISITS = (
    "graft,on,height,rain\n"
    "g1,2019-12-20,10,dry\n"
    "g1,2020-02-01,14,wet\n"
    "g1,2020-06-01,,wet\n"
    "g1,2021-02-01,99,wet\n"
    "g2,2020-03-01,8,dry\n"
    "g2,2020-04-10,9.5,dry\n"
)
DATED = FollowUpStatement(
    clock=BetweenDates(start="planted", end="seen"),
    unit="days",
    outcome="s",
    subject="graft",
    meanings=MEANINGS,
)
TIMED = FollowUpStatement(
    clock=Duration(column="t"), unit="weeks", outcome="s", subject="id", meanings=MEANINGS
)


def stated(*covariates, **more):
    made = tuple(TypeAdapter(Covariate).validate_python(one) for one in covariates)
    given = {"name": "visits", "key": "graft", "at": "on", **more}
    return RecordTable(**given, covariates=made)


def joined(rows, statement, *tables):
    known = table(rows)
    cohort = form_cohort(known, statement)
    return with_records(cohort, known, [FurtherTable(table(text), how) for text, how in tables])


def refusals(rows, statement, *tables):
    found = joined(rows, statement, *tables)
    assert isinstance(found, tuple), "it is refused"
    return " ".join(block.sentence for block in found)


def lines(made, *columns):
    """Entry, exit, status, subject and the cells of columns, piece by piece."""
    data, rows = made.cohort.follow_up, made.cohort.table
    entry = np.full(data.exit.size, -np.inf) if data.entry is None else data.entry
    columns = (made.cohort.statement.subject, *columns)
    return [
        (entry[k], data.exit[k], data.status[k], *(rows.column(c).cell(k) for c in columns))
        for k in range(data.exit.size)
    ]


EVENT_OF_G1 = GRAFTS.replace("2020-12-31,1,a", "2021-12-31,1,a")
NEVER = -np.inf


def test_dated_visits_part_the_rows_where_their_values_change():
    how = stated(
        {"kind": "in force", "into": "height now", "column": "height"},
        {"kind": "in force", "into": "rain now", "column": "rain", "limit": 60},
        {"kind": "baseline", "into": "height at planting", "column": "height"},
        {"kind": "count", "into": "visits so far", "after_entry": True},
    )
    made = joined(EVENT_OF_G1, DATED, (VISITS, how))
    columns = ("height now", "rain now", "height at planting", "visits so far")
    assert lines(made, *columns) == [
        (NEVER, 31, 0, "g1", "10.0", "dry", "10.0", "0"),
        (31, 91, 0, "g1", "14.0", "wet", "10.0", "1"),
        (91, 152, 0, "g1", "14.0", "", "10.0", "1"),
        (152, 212, 0, "g1", "14.0", "wet", "10.0", "2"),
        (212, 397, 0, "g1", "14.0", "", "10.0", "2"),
        (397, 457, 0, "g1", "99.0", "wet", "10.0", "3"),
        (457, 730, 1, "g1", "99.0", "", "10.0", "3"),
        (NEVER, 40, 0, "g2", "8.0", "dry", "8.0", "0"),
        (40, 100, 0, "g2", "9.5", "dry", "8.0", "1"),
        (100, 184, 0, "g2", "9.5", "", "8.0", "1"),
        (NEVER, 20, 1, "g3", "", "", "", "0"),
    ]
    assert made.cohort.time_varying == {"height now", "rain now", "visits so far"}
    counts = made.counts[0]
    assert (counts.rows, counts.before, counts.during, counts.late) == (6, 2, 4, 0)
    assert counts.without == 1
    data = made.cohort.follow_up
    assert data.last.sum() == 3, "a subject ends once, in however many rows"


def test_a_record_after_the_event_is_refused_and_after_censoring_explains_nothing():
    how = stated({"kind": "in force", "into": "now", "column": "height"})
    sentence = refusals(GRAFTS, DATED, (VISITS, how))
    assert "1 row of visits after the event of their subject" in sentence
    assert "(row 4)" in sentence
    late = VISITS.replace("g1,2021-02-01,99,wet\n", "g2,2020-09-01,99,wet\n")
    made = joined(GRAFTS, DATED, (late, how))
    assert made.counts[0].late == 1, "at the end itself"
    assert "99" not in {line[-1] for line in lines(made, "now")}


def test_text_in_a_table_of_numbers_is_not_joined_and_what_it_is_like_is_listed():
    rows = "id,t,s\n7,5,1\n12,9,0\n"
    visits = 'id,at,v\n007,1,3\n"x",1,4\n12,2,5\n,3,6\n'
    how = stated({"kind": "count", "into": "n"}, key="id", at="at")
    sentence = refusals(rows, TIMED, (visits, how))
    assert "1 row of visits without id (row 4)" in sentence
    assert "3 rows of visits whose id no subject has" in sentence, "12 as text is no number"
    assert "“007” is like “7”" in sentence
    keys = matched(table('id\n"a b"\nC\n').column("id"), table("id\nab\nc\nC\nd\n").column("id"))
    assert keys.place.tolist() == [-1, -1, 1, -1]
    assert [(one.written, one.known) for one in keys.alike] == [("ab", "a b"), ("c", "C")]


def test_rows_of_subjects_that_are_not_followed_are_counted_and_not_refused():
    rows = "id,t,s\na,5,1\nb,4,0\n"
    visits = "id,at,v\na,1,3\nb,1,4\n"
    how = stated({"kind": "count", "into": "n"}, key="id", at="at")
    known = table(rows)
    cohort = form_cohort(known.take(np.array([0])), TIMED)
    made = with_records(cohort, known, [FurtherTable(table(visits), how)])
    assert (made.counts[0].not_followed, made.counts[0].during) == (1, 1)


@pytest.mark.parametrize(
    ("rows", "visits", "how", "sentence"),
    [
        ("id,t,s\na,5,1\na,4,0\n", "id,at\na,1\n", {}, "another row has too"),
        ("id,t,s\na,5,1\n", "id,at\na,\na,1\n", {}, "1 row of visits without at (row 1)"),
        ("id,t,s\na,5,1\n", "id,at\na,1\n", {"at": None}, "choose the column that shows when"),
        ("id,t,s\na,5,1\n", "id,at\na,1\n", {"at": "when"}, "no column called when"),
        ("id,t,s\na,5,1\n", "id,at\na,2020-01-01\n", {}, "at does not hold numbers"),
        (
            "id,t,s\na,5,1\n",
            "id,at,to\na,3,3\n",
            {"role": "periods", "until": "to", "of": {"kind": "on", "into": "on"}},
            "end at or before their start",
        ),
        (
            "id,t,s\na,5,1\n",
            "id,at,to\na,1,3\na,2,4\n",
            {"role": "periods", "until": "to", "of": {"kind": "on", "into": "on"}},
            "on: 2 rows of visits, each of which overlaps another period of the same subject (row 1, 2)",
        ),
        (
            "id,t,s\na,5,1\n",
            "id,at,v\na,1,3\na,1,4\n",
            {"of": {"kind": "in force", "into": "now", "column": "v"}},
            "now: 2 rows of visits, each of which differs from another record",
        ),
        (
            "id,t,s\na,5,1\n",
            "id,at,v\na,1,x\n",
            {"of": {"kind": "sum", "into": "total", "column": "v"}},
            "choose a column of numbers",
        ),
        (
            "id,t,s\na,5,1\n",
            "id,at,v\na,1,x\n",
            {"of": {"kind": "count", "into": "t"}},
            "There is a column called t already",
        ),
        (
            "id,t,s\na,5,1\n",
            "id,at,v\na,1,x\n",
            {"of": {"kind": "on", "into": "on"}},
            "cannot be made from dated records",
        ),
    ],
)
def test_what_cannot_be_joined_is_refused_with_its_rows(rows, visits, how, sentence):
    how = {**how}
    covariate = how.pop("of", {"kind": "count", "into": "n"})
    found = refusals(rows, TIMED, (visits, stated(covariate, key="id", **{"at": "at", **how})))
    assert sentence in found, found


def test_a_period_needs_two_times_of_one_kind():
    periods = "graft,on,off\ng2,2020-04-01,90\n"
    how = stated({"kind": "on", "into": "treated"}, role="periods", until="off")
    assert "on holds dates and off numbers" in refusals(GRAFTS, DATED, (periods, how))


def test_rows_of_a_subject_have_one_start():
    rows = (
        "graft,planted,seen,s,entry\n"
        "g1,2020-01-01,2020-12-31,1,\n"
        "g2,2020-03-01,2020-05-01,0,\n"
        "g2,2020-04-01,2020-10-01,1,2020-08-01\n"
    )
    several = DATED.model_copy(update={"several_rows": True, "late_entry": "entry"})
    how = stated({"kind": "count", "into": "n"})
    found = refusals(rows, several, ("graft,on\ng1,2020-02-01\n", how))
    assert "with another planted than the first row of their graft (row 3)" in found


def test_lengths_beside_dates_are_whole_days():
    how = stated({"kind": "in force", "into": "now", "column": "height", "limit": 0.5})
    assert "whole days" in refusals(EVENT_OF_G1, DATED, (VISITS, how))


def test_months_from_dates_are_divided_once_so_that_a_visit_on_the_last_day_is_at_the_exit():
    months = DATED.model_copy(update={"unit": "months"})
    visits = "graft,on,v\ng1,2020-12-31,5\ng2,2020-05-01,1\n"
    how = stated({"kind": "in force", "into": "v now", "column": "v"})
    made = joined(GRAFTS, months, (visits, how))
    assert made.counts[0].late == 1
    assert len([line for line in lines(made) if line[3] == "g1"]) == 1


def test_periods_with_open_ends_and_doses():
    rows = "id,t,s\na,10,1\nb,4,0\n"
    doses = "id,from,to,dose\na,1,3,2\na,5,,0.5\nb,0,2,1\n"
    how = stated(
        {"kind": "on", "into": "treated"},
        {"kind": "value", "into": "dose now", "column": "dose", "zero_outside": True},
        {"kind": "time on", "into": "time treated", "cuts": [2, 4]},
        {"kind": "cumulative", "into": "total dose", "column": "dose", "cuts": [5]},
        name="doses", role="periods", key="id", at="from", until="to",
    )  # fmt: skip
    made = joined(rows, TIMED, (doses, how))
    assert lines(made, "treated", "dose now", "time treated", "total dose") == [
        (NEVER, 1, 0, "a", "no", "0.0", "up to 2", "up to 5"),
        (1, 3, 0, "a", "yes", "2.0", "up to 2", "up to 5"),
        (3, 5, 0, "a", "no", "0.0", "up to 2", "up to 5"),
        (5, 7, 0, "a", "yes", "0.5", "2 to 4", "up to 5"),
        (7, 10, 1, "a", "yes", "0.5", "over 4", "over 5"),
        (NEVER, 2, 0, "b", "yes", "1.0", "up to 2", "up to 5"),
        (2, 4, 0, "b", "no", "0.0", "up to 2", "up to 5"),
    ]


def test_time_since_an_event_in_bands_and_ever_in_words():
    rows, events = "id,t,s\na,10,1\nb,4,0\n", "id,at,what\na,2,fall\na,4,ache\na,6,fall\n"
    falls = {"clauses": [{"column": "what", "test": "is", "values": ["fall"]}]}
    how = stated(
        {"kind": "ever", "into": "fell", "condition": falls},
        {"kind": "time since", "into": "since a fall", "cuts": [1, 3], "condition": falls},
        name="events", key="id", at="at",
    )  # fmt: skip
    made = joined(rows, TIMED, (events, how))
    assert lines(made, "fell", "since a fall") == [
        (NEVER, 2, 0, "a", "no", "never"),
        (2, 3, 0, "a", "yes", "up to 1"),
        (3, 5, 0, "a", "yes", "1 to 3"),
        (5, 6, 0, "a", "yes", "over 3"),
        (6, 7, 0, "a", "yes", "up to 1"),
        (7, 9, 0, "a", "yes", "1 to 3"),
        (9, 10, 1, "a", "yes", "over 3"),
        (NEVER, 4, 0, "b", "no", "never"),
    ]


def test_after_a_landmark_values_are_those_at_it():
    rows, visits = "id,t,s\na,10,1\nb,2,0\n", "id,at,v\na,0,1\na,2,4\na,5,6\nb,0,9\n"
    how = stated(
        {"kind": "baseline", "into": "then", "column": "v"},
        {"kind": "change", "into": "change", "column": "v"},
        key="id", at="at",
    )  # fmt: skip
    made = joined(rows, TIMED.model_copy(update={"landmark": 3.0}), (visits, how))
    assert lines(made, "then", "change") == [(NEVER, 2, 0, "a", "4", "3"), (2, 7, 1, "a", "4", "5")]
    assert made.counts[0].not_followed == 1


def test_a_change_since_entry_needs_the_entry_of_all():
    late = TIMED.model_copy(update={"landmark": 3.0, "late_entry": "e"})
    how = stated({"kind": "change", "into": "more", "column": "v"}, key="id", at="at")
    found = refusals("id,t,s,e\na,10,1,1\nb,9,0,\n", late, ("id,at,v\na,2,1\n", how))
    assert "the change since entry is not known" in found


def test_random_tables_hold_in_each_piece_what_the_transcription_reads():
    rng = np.random.default_rng(3)
    for _ in range(15):
        n = int(rng.integers(1, 6))
        t = rng.integers(1, 40, n) / 2
        s = rng.integers(0, 2, n)
        visits = [
            (k, float(u) / 2, float(v))
            for k in range(n)
            for u, v in zip(rng.integers(-4, 45, 6), rng.integers(0, 9, 6))
            if u / 2 <= t[k] or s[k] == 0
        ]
        rows = "id,t,s\n" + "".join(f"p{k},{t[k]},{s[k]}\n" for k in range(n))
        text = "id,at,v\n" + "".join(f"p{k},{u},{v:g}\n" for k, u, v in visits)
        limit, lag = [(None, 0.0), (2.5, 0.0), (4.0, 1.5)][rng.integers(3)]
        extra = {"limit": limit, "lag": lag}
        how = stated(
            {"kind": "in force", "into": "now", "column": "v", "same_time": "largest", **extra},
            {"kind": "sum", "into": "total", "column": "v", **extra},
            key="id", at="at",
        )  # fmt: skip
        if not visits:
            continue
        made = joined(rows, TIMED, (text, how))
        data, pieces = made.cohort.follow_up, made.cohort.table
        for k in range(data.exit.size):
            own = [(u, v) for p, u, v in visits if f"p{p}" == pieces.column("id").cell(k)]
            given = {"limit": np.inf if limit is None else limit, "lag": lag}
            now = literal.in_force(own, data.exit[k], 0.0, **given, rule="largest")
            assert pieces.column("now").cell(k) == ("" if now is None else f"{now:g}")
            total = literal.gathered("sum", own, data.exit[k], 0.0, given["limit"], lag)
            assert pieces.column("total").cell(k) == f"{float(total):g}"


def test_every_kind_of_covariate_has_a_form_with_just_its_fields():
    shared = {"into", "condition", "reference", "kind"}
    kinds = {}
    for one in get_args(get_args(Covariate)[0]):
        for kind in get_args(one.model_fields["kind"].annotation):
            kinds[kind] = one
    assert {form.kind for form in COVARIATE_FORMS} == set(kinds)
    offered = {one.field for one in FIELD_FORMS}
    for form in COVARIATE_FORMS:
        own = kinds[form.kind]
        assert set(form.fields) <= set(own.model_fields) - shared, form.kind
        assert set(form.needed) <= set(form.fields) <= offered
        filled = {"column": "v", "cuts": [1]}
        stated = {name: filled[name] for name in form.needed}
        made = own.model_validate({"into": "x", "kind": form.kind, **stated})
        assert made.needs_numbers == form.of_numbers, form.kind
        assert isinstance(made, OF_PERIODS) == (form.role == "periods")


LOG = "id,at,what\na,3,fall\na,6,death\nb,1,fall\nc,0,fall\nc,4,fall\nd,9,death\n"
LOGGED = "id,t,s\na,10,0\nb,8,1\nc,5,0\nd,9,1\n"


def outcome(name, what, **more):
    clauses = [{"column": "what", "test": "is", "values": [what]}]
    return {"name": name, "condition": {"clauses": clauses}, **more}


def logged(*outcomes, rows=LOGGED, statement=TIMED, **more):
    how = RecordTable(name="log", key="id", at="at", outcomes=outcomes, **more)
    return joined(rows, statement, (LOG, how))


def ends(made):
    data, rows = made.cohort.follow_up, made.cohort.table
    ids = [rows.column("id").cell(k) for k in range(data.exit.size)]
    return list(zip(ids, data.exit.tolist(), data.status.tolist()))


def test_the_first_record_of_a_log_ends_follow_up():
    made = logged(outcome("a fall", "fall"), outcome("death", "death", meaning="competing"))
    assert ends(made) == [("a", 3, 1), ("b", 1, 1), ("c", 4, 1), ("d", 9, 2)]
    assert made.cohort.competing == ("death",)
    assert (made.prevalent, made.in_gap) == (1, 0)
    death = logged(outcome("death", "death", meaning="competing"), outcome("a fall", "fall"))
    assert ends(death) == [("a", 3, 1), ("b", 1, 1), ("c", 4, 1), ("d", 9, 2)]
    own = logged(outcome("death", "death", meaning="competing"), own_event_first=True)
    assert ends(own) == [("a", 6, 2), ("b", 8, 1), ("c", 5, 0), ("d", 9, 1)]
    out = logged(outcome("a fall", "fall"), prevalent_left_out=True)
    assert ends(out) == [("a", 3, 1), ("b", 1, 1), ("d", 9, 1)]


def test_a_log_can_hold_all_events_and_what_comes_after_one_is_no_mistake():
    nobody = TIMED.model_copy(update={"ended": "records", "outcome": None, "meanings": {}})
    how = RecordTable(
        name="log", key="id", at="at", outcomes=(outcome("a fall", "fall"),),
        covariates=({"kind": "count", "into": "falls"},),
    )  # fmt: skip
    made = joined(LOGGED, nobody, (LOG, how))
    assert ends(made) == [("a", 3, 1), ("b", 1, 1), ("c", 4, 1), ("d", 9, 0)]
    assert made.cohort.table.column("falls").values.tolist() == [0, 0, 1, 0]


def test_a_first_record_in_a_gap_ends_follow_up_without_an_event():
    rows = "id,t,s,e\na,2,0,\na,10,1,5\nb,8,0,\n"
    several = TIMED.model_copy(update={"several_rows": True, "late_entry": "e"})
    made = logged(outcome("a fall", "fall"), rows=rows, statement=several)
    assert isinstance(made, tuple), "c and d are unknown"
    how = RecordTable(name="log", key="id", at="at", outcomes=(outcome("a fall", "fall"),))
    made = joined(rows, several, ("id,at,what\na,3,fall\nb,8,fall\n", how))
    assert ends(made) == [("a", 2, 0), ("b", 8, 1)]
    assert made.in_gap == 1


def test_where_all_have_the_event_before_nobody_is_left():
    how = RecordTable(
        name="log",
        key="id",
        at="at",
        outcomes=(outcome("a fall", "fall"),),
        prevalent_left_out=True,
    )
    found = refusals("id,t,s\na,5,1\n", TIMED, ("id,at,what\na,0,fall\n", how))
    assert "nobody is left to follow" in found
