"""Exports spoiled in the ways people spoil them: each read right after few decisions."""

import gzip
import io
import zipfile

import numpy as np
import pyarrow as pa
import pytest
from pyarrow import parquet

from awkward_exports import EXPORTS
from hourglass.analysis.prepare.run import prepare
from hourglass.cohort.findings.find import find
from hourglass.cohort.findings.finding import statement_for
from hourglass.cohort.followup import Cohort, form_cohort
from hourglass.cohort.layouts import recognise
from hourglass.cohort.proposal.propose import propose
from hourglass.cohort.proposal.waiting import with_waiting_filled
from hourglass.cohort.reading.read import read
from hourglass.cohort.reading.recipe import Limits, UnreadableFileError
from hourglass.cohort.statement import BLANK, CodeMeaning
from hourglass.cohort.steps.apply import apply_steps, refuse_broken

MAX_DECISIONS = 3
EVENT, CENSORED = CodeMeaning(meaning="event"), CodeMeaning(meaning="censored")
WORDS = {"dead": EVENT, "alive": CENSORED}

DAYS = {"unit": "days"}
DECISIONS = {
    "units_row": [],
    "second_header": [],
    "groups_above": [],
    "inner_rows": [DAYS, ("no rows of the table", "set aside")],
    "filled_once": [DAYS, ("filled once", "fill down")],
    "years_and_months": [("units in cells", "in months")],
    "plus_for_censored": [("marks in times", "marked censored")],
    "hours_and_minutes": [("colons in times", "read hours")],
    "intervals": [("two ends in cells", "take apart"), DAYS],
    "crosses": [("which is the event", "event x")],
    "serials_among_dates": [("not all dates", "read serials"), DAYS],
    "named_months": [DAYS],
    "gzipped": [],
    "zipped": [],
    "lists_in_json": [],
    "lists_in_parquet": [],
    "two_columns_of_outcome": [("outcome in two columns", "join")],
    "entered_twice": [("entered twice: lamp", "last entered on")],
}
MEANINGS = {
    "plus_for_censored": {"event": EVENT, "censored": CENSORED},
    "crosses": {},
    "two_columns_of_outcome": {"burnt": EVENT, "broken": EVENT, "0": CENSORED},
}
IN_UNIT = {"years_and_months": 1.0, "hours_and_minutes": 60.0}


def taken(raw, decisions):
    """The table and the statement after decisions about findings, slots that were filled, and layouts."""
    now, statement = raw, propose(raw)
    for decision in decisions:
        if isinstance(decision, dict):
            statement = statement.model_copy(update=decision)
            continue
        if isinstance(decision, str):
            guess = next(g for g in recognise(now) if g.key == decision)
            now, effects = apply_steps(now, guess.steps)
            refuse_broken(effects)
            statement = guess.change(statement)
            continue
        kind, name = decision
        finding = next(f for f in find(now, statement, raw=raw) if f.key.startswith(kind))
        choice = finding.choice(name)
        after, effects = apply_steps(now, choice.steps)
        refuse_broken(effects)
        statement = statement_for(choice, with_waiting_filled(statement, now, after))
        now = after
    return now, statement


def test_every_export_is_tried():
    assert set(DECISIONS) == set(EXPORTS)
    assert max(map(len, DECISIONS.values())) <= MAX_DECISIONS


@pytest.mark.parametrize("seed", [3, 20])
@pytest.mark.parametrize("name", EXPORTS)
def test_an_awkward_export_holds_the_truth_after_few_decisions(name, seed):
    made = EXPORTS[name](seed)
    table, statement = taken(read(made.data).table, DECISIONS[name])
    meanings = MEANINGS.get(name, WORDS)
    statement = statement.model_copy(update={"meanings": {**statement.meanings, **meanings}})
    cohort = form_cohort(table, statement)
    assert isinstance(cohort, Cohort), cohort
    times = np.round(cohort.follow_up.exit * IN_UNIT.get(name, 1.0), 6)
    assert times.tolist() == made.truth.days.tolist()
    assert cohort.follow_up.event().tolist() == made.truth.event.tolist()
    group = cohort.table.column("colour")
    assert [group.cell(k) for k in range(cohort.table.size)] == list(made.truth.group)


def test_a_mark_after_a_time_is_never_offered_as_a_plain_number():
    table = read(EXPORTS["plus_for_censored"](5).data).table
    assert not [f for f in find(table, propose(table), raw=table) if f.key.startswith("numbers as")]


def test_a_row_that_is_none_keeps_what_it_states_and_its_place_in_the_ledger():
    table = read(EXPORTS["inner_rows"](5).data).table
    (finding,) = [f for f in find(table, propose(table), raw=table) if f.key.startswith("no rows")]
    assert finding.rows.tolist() == [21, 42, 43]
    assert table.column("lamp").as_written.cell(41) == "* days counted from the first switching on"
    after, effects = apply_steps(table, finding.choice("set aside").steps)
    assert (after.size, effects[0].rows_set_aside) == (60, 3)


@pytest.mark.parametrize(
    "rows",
    [
        "total,5,dead,a\nall,6,alive,b\ncount,7,dead,a\nmean,8,alive,b\n",  # filled like any other row
        "* one,5,dead,a\n* two,6,alive,b\n* three,7,dead,b\n* four,9,dead,a\n",
        "P1,5,dead,a\nP2,,,\nP3,7,dead,b\nP4,8,alive,b\nP5,9,dead,a\n",  # nothing is known of P2
    ],
)
def test_rows_that_state_something_stay_rows(rows):
    table = read(f"id,time_days,status,arm\n{rows}".encode()).table
    assert not [m for m in table.mended if m.about == "no rows"]


@pytest.mark.parametrize(
    ("line", "rows"),
    [
        ("P001,lost,alive,a", "P002,5,dead,b\nP003,6,alive,a\nP004,8,alive,b\n"),
        ("P001,NA,alive,a", "P002,5,dead,b\nP003,6,alive,a\nP004,8,alive,b\n"),
        ("Ann,pending,alive,a", "Bert,5,dead,b\nCleo,6,alive,a\nDora,8,alive,b\n"),
    ],
)
def test_a_first_row_with_an_odd_cell_is_no_line_of_units_or_labels(line, rows):
    reading = read(f"id,time,status,arm\n{line}\n{rows}".encode())
    assert reading.recipe.described == ()
    assert reading.table.size == 4


def test_units_and_labels_under_the_names_are_kept_with_their_columns():
    labels = "id,time,weight\n,Time to event or last contact,Weight at entry\n,(months),[kg]\n"
    rows = "".join(f"s{k},{k + 1.5},{70 + k}\n" for k in range(12))
    reading = read(f"{labels}{rows}".encode())
    assert reading.recipe.described == ("labels", "units")
    table = reading.table
    units = [table.column(name).unit for name in ("time", "weight")]
    assert (table.size, units) == (12, ["months", "kg"])
    assert table.column("time").label == "Time to event or last contact"
    assert propose(table).unit == "months"


def test_a_subject_column_that_makes_three_subjects_is_a_finding():
    rows = "".join(f"C{k % 3},{k + 5},{k % 2}\n" for k in range(400))
    table = read(f"site_id,time_days,status\n{rows}".encode()).table
    statement = propose(table).model_copy(update={"subject": "site_id"})
    (about,) = [f for f in find(table, statement) if f.key.endswith("site_id")]
    assert about.title.startswith("site_id makes 3 subjects of 400")


def test_what_is_entered_twice_stands_side_by_side_with_what_differs():
    table = read(EXPORTS["entered_twice"](5).data).table
    statement = propose(table).model_copy(update={"meanings": WORDS})
    found = {f.key: f for f in find(table, statement, raw=table)}
    together, one = found["entered twice: lamp"], found["entered twice: lamp L004"]
    assert one.within == together.key
    (beside,) = one.beside
    differ = [c for c in ("days", "status", "entered on") if len({*column_of(beside, c)}) > 1]
    assert list(beside.columns) == differ
    after, _ = apply_steps(table, one.choice("only 5").steps)
    assert [n for n in (4, 5) if n in after.numbers] == [5]
    assert "How follow-up ended differs" in together.why


def column_of(beside, name):
    k = beside.columns.index(name) if name in beside.columns else None
    return () if k is None else [line[k] for line in beside.cells]


def packed(files):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    return out.getvalue()


NOTHING_BUT_LISTS = io.BytesIO()
parquet.write_table(pa.table({"a": [[1], [2]]}), NOTHING_BUT_LISTS)


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"%PDF-1.7\n1 0 obj", "PDF document"),
        (b"<!DOCTYPE html>\n<html><body>Sign in</body></html>", "web page"),
        (b"<?xml version='1.0'?><rows/>", "XML"),
        (b"\x89PNG\r\n\x1a\n" + bytes(60), "picture"),
        (packed({"a.csv": b"x,y\n1,2\n", "b.csv": b"x,y\n1,2\n"}), "holds 2 files: a.csv, b.csv"),
        (packed({}), "empty archive"),
        (packed({"[Content_Types].xml": b"", "word/document.xml": b"<w/>"}), "text document"),
        (gzip.compress(b"a,b\n1,2\n" * 50, mtime=0)[:-20], "breaks off"),
        (gzip.compress(bytes(2**21), mtime=0), "larger than 1"),
        (bytes(range(256)) * 20, "another program’s binary data file"),
        (NOTHING_BUT_LISTS.getvalue(), "All columns hold lists"),
    ],
    ids=lambda value: value if isinstance(value, str) else "",
)
def test_what_is_no_table_is_named_for_what_it_is(data, words):
    with pytest.raises(UnreadableFileError) as refused:
        read(data, limits=Limits(most_unpacked=2**20))
    assert words in str(refused.value)


def test_a_blank_is_a_question_beside_a_cross_and_never_set_aside_by_itself():
    table = read(EXPORTS["crosses"](5).data).table
    found = find(table, propose(table), raw=table)
    (finding,) = [f for f in found if f.key.startswith("which is the event")]
    assert [c.codes for c in finding.choices] == [
        (("x", "event"), (BLANK, "censored")),
        ((BLANK, "event"), ("x", "censored")),
    ]
    assert not [f for f in found if f.key == "blank outcome"]


def test_words_that_speak_for_all_codes_can_be_taken_at_once():
    rows = "".join(
        f"s{k},{k + 5},{('dead', 'alive', 'lost to follow-up')[k % 3]}\n" for k in range(30)
    )
    table = read(f"id,time_days,status\n{rows}".encode()).table
    (finding,) = [f for f in find(table, propose(table)) if f.key == "which is the event: status"]
    (choice,) = finding.choices
    meanings = statement_for(choice, propose(table)).meanings
    assert {code: m.meaning for code, m in meanings.items()} == {
        "dead": "event", "alive": "censored", "lost to follow-up": "censored",
    }  # fmt: skip


def many(head, row, n=20):
    return read((head + "\n" + "".join(f"{row(k)}\n" for k in range(n))).encode()).table


def keyed(table, **changes):
    statement = propose(table).model_copy(update=changes)
    return {f.key: f for f in find(table, statement, raw=table)}


def test_births_of_the_century_before_are_offered_and_only_those_move():
    late = many(
        "id,birth,start,end,status",
        lambda k: (
            f"s{k},{2041 if k % 4 == 0 else 1962}-02-0{k % 9 + 1},2019-01-01,2020-03-01,{k % 2}"
        ),
    )
    finding = keyed(late)["before birth: start"]
    after, effects = apply_steps(late, finding.choice("century earlier").steps)
    years = {str(v)[:4] for v in after.column("birth").values}
    assert (years, effects[0].cells_changed) == ({"1941", "1962"}, 5)


@pytest.mark.parametrize(
    ("hours", "ahead", "days"),
    [
        ((22, 23), 2, ["2019-03-31", "2020-06-01"]),
        ((23, 23), 1, ["2019-03-31", "2020-06-01"]),
        ((4, 5), -4, ["2019-03-30", "2020-05-31"]),
    ],
)
def test_midnights_in_universal_time_become_their_days(hours, ahead, days):
    table = many(
        "id,start,end,status",
        lambda k: (
            f"s{k},2019-03-30T{hours[1]:02d}:00:00Z,2020-05-31T{hours[k % 2]:02d}:00:00Z,{k % 2}"
        ),
    )
    finding = keyed(table)["midnights: end"]
    (step,) = finding.choice("whole days").steps
    assert step.ahead == ahead
    start = step.model_copy(update={"column": "start", "ahead": ahead})
    after, _ = apply_steps(table, [step, start])
    assert [str(after.column(name).values[0]) for name in ("start", "end")] == days


def test_times_of_a_working_day_are_no_midnights():
    table = many(
        "id,start,end,status", lambda k: f"s{k},2019-03-30T08:00:00Z,2020-05-31T08:00:00Z,{k % 2}"
    )
    assert not [key for key in keyed(table) if key.startswith("midnights")]


def test_what_kept_a_column_from_being_dates_can_be_set_aside():
    table = many(
        "id,start,end,status",
        lambda k: f"s{k},2019-01-01,{'31/02/2020' if k == 4 else f'{13 + k % 9}/02/2020'},{k % 2}",
    )
    assert "not all dates: end" in keyed(table)
    left = table.without([5])
    finding = keyed(left)["dates as text: end"]
    statement = propose(left)
    after, _ = apply_steps(left, finding.choices[0].steps)
    assert with_waiting_filled(statement, left, after).clock.end == "end"


def test_counts_without_a_column_of_ends_are_all_events():
    table = many("hours,count", lambda k: f"{100 + 7 * k},{1 + k % 5}")
    (guess,) = [g for g in recognise(table) if g.key == "counts"]
    changed = guess.change(propose(table))
    assert (changed.count, changed.ended) == ("count", "everyone")
    coded = many("hours,count,status", lambda k: f"{100 + 7 * k},{1 + k % 5},{k % 2}")
    (guess,) = [g for g in recognise(coded) if g.key == "counts"]
    assert guess.change(propose(coded)).ended == "codes"


def test_rows_without_a_time_zone_set_aside_leave_dates():
    def row(k):
        zone = "" if k in (3, 7) else "+02:00"
        return f"s{k},2019-01-01T08:00:00+02:00,2020-0{k % 9 + 1}-04T12:30:00{zone},{k % 2}"

    table = many("id,start,end,status", row)
    finding = keyed(table)["some time zones: end"]
    left, _ = apply_steps(table, finding.choice("set aside").steps)
    assert left.size == 18
    dates = keyed(left)["dates as text: end"]
    after, _ = apply_steps(left, dates.choices[0].steps)
    assert after.column("end").cell(0) == "2020-01-04 10:30:00"


def test_beside_a_dated_event_it_is_that_date_which_is_offered():
    def row(k):
        died = "" if k % 2 else "2020-01-04"
        return f"s{k},2019-01-0{k % 9 + 1},2020-01-04,{died}"

    table = many("id,start,end,death date", row)
    blocks = [b.sentence for b in prepare(table, [], propose(table), {}).blocks]
    assert not [b for b in blocks if "No column says" in b]
    assert any("death date dates an event" in b for b in blocks)
