"""The files of demo/imports: each is read to the right table, and taken to the right cohort."""

from datetime import date
from pathlib import Path

import numpy as np
import pytest

from hourglass.cohort.code_meanings import probable_meanings
from hourglass.cohort.condition import Clause, Condition
from hourglass.cohort.findings.find import find
from hourglass.cohort.findings.finding import steps_for
from hourglass.cohort.followup import Cohort, form_cohort
from hourglass.cohort.layouts import recognise
from hourglass.cohort.proposal.propose import propose
from hourglass.cohort.reading.read import read
from hourglass.cohort.statement import CodeMeaning, DatedEvent, FirstOf
from hourglass.cohort.steps.apply import apply_steps, refuse_broken
from hourglass.cohort.steps.cells import MarkMissing
from hourglass.cohort.steps.rows import SetAsideRepeats, SetAsideWhere
from hourglass.cohort.steps.types import ReadAsDates
from making import cells

FOLDER = Path(__file__).parents[2] / "demo" / "imports"
EVENT, CENSORED = CodeMeaning(meaning="event"), CodeMeaning(meaning="censored")


def reading(name):
    return read((FOLDER / name).read_bytes())


def kinds(table):
    return {c.name: c.kind for c in table.columns}


def after(table, *steps):
    now, effects = apply_steps(table, steps)
    refuse_broken(effects)
    return now


def formed(table, statement):
    found = form_cohort(table, statement)
    assert isinstance(found, Cohort), found
    data = found.follow_up
    return found, data.size, int(data.count[data.event()].sum())


def with_proposed_meanings(table, statement):
    codes = statement.meanings or {
        code: CodeMeaning(meaning=probable.meaning)
        for code, probable in probable_meanings(table, statement).items()
    }
    return statement.model_copy(update={"meanings": codes})


def test_semicolons_decimal_commas_a_preamble_and_a_footer():
    found = reading("clinic_semicolons.csv")
    assert (found.recipe.encoding, found.recipe.delimiter) == ("Windows-1252", ";")
    assert (found.recipe.header, found.recipe.footer) == (4, 1)
    assert (found.recipe.decimal, found.recipe.thousands) == (",", ".")
    assert found.recipe.missing == ("-",)
    table = found.table
    assert table.size == 120
    assert kinds(table) == {
        "Nr": "number", "Beginn": "date", "Ende": "date", "Ausgang": "text",
        "Gewicht": "number", "Kosten": "number", "Größe": "number",
    }  # fmt: skip
    assert table.column("Gewicht").missing.sum() == 3
    assert 800 < np.nanmax(table.column("Kosten").values) < 9001
    text = {e.about: e.because for e in found.evidence}
    assert "can only be so" in text["Beginn"]
    assert text["missing"] == "it stands among numbers or dates: 3 in Gewicht"
    statement = propose(table).model_copy(update={"outcome": "Ausgang"})
    meanings = {"lebt": CENSORED, "verstorben": EVENT}
    _, rows, events = formed(table, statement.model_copy(update={"meanings": meanings}))
    assert (rows, events) == (120, 40)


def test_utf16_with_named_months_and_short_years():
    found = reading("registry_utf16.tsv")
    table = found.table
    assert found.how == "read as UTF-16, tab"
    assert kinds(table)["born"] == kinds(table)["diagnosed"] == "date"
    years = table.column("born").values.astype("datetime64[Y]").astype(int) + 1970
    assert (years.min(), years.max()) == (1936, 1985)
    assert any(e.found == "years 1931–2030" for e in found.evidence)
    assert set(table.column("region").counts()) == {"Vännäs", "Ōmura"}
    statement = propose(table)
    assert (statement.clock.start, statement.clock.end) == ("diagnosed", "last contact")
    _, rows, events = formed(table, with_proposed_meanings(table, statement))
    assert (rows, events) == (80, 40), "spellings of one code are one code"


def test_doubtful_dates_are_questions_and_read_as_shown():
    table = reading("doubtful_dates.csv").table
    assert set(kinds(table).values()) == {"text", "number"}
    found = {f.key: f for f in find(table, propose(table))}
    either = found["either order: seen"]
    assert {c.name for c in either.choices} >= {"read day first", "read month first"}
    day = after(table, *steps_for(either, "read day first"))
    month = after(table, *steps_for(either, "read month first"))
    assert cells(day, "seen", 2) == ["2019-01-01", "2019-06-02"]
    assert cells(month, "seen", 2) == ["2019-01-01", "2019-02-06"]
    assert found["two formats: left"].rows.size == 20
    wrong = found["not all dates: came"]
    assert wrong.rows.tolist() == [12]
    assert after(table, *steps_for(wrong, "read day first")).column("came").missing.sum() == 1


def test_the_layout_of_clinical_trials():
    table = reading("trial_times.json").table
    guess = recognise(table)[0]
    assert guess.layout == "parameters"
    assert "0 meaning the event" in guess.reason
    now = after(table, *guess.steps)
    cohort, rows, events = formed(now, guess.change(propose(table)))
    assert (rows, events) == (90, 60)
    assert cohort.table.column("PARAMCD").counts() == {"OS": 90}
    assert cohort.statement.unit == "days"


def test_counts_in_a_workbook_with_a_title_and_another_sheet():
    found = reading("lamp_counts.xlsx")
    assert (found.recipe.sheet, found.recipe.header) == ("Bench", 3)
    assert found.sheets == ("Notes", "Bench")
    guess = recognise(found.table)[0]
    assert guess.layout == "counts"
    statement = guess.change(propose(found.table))
    meanings = {"burnt out": EVENT, "running": CENSORED}
    statement = statement.model_copy(update={"outcome": "state", "meanings": meanings})
    cohort, rows, events = formed(found.table, statement)
    assert (cohort.table.size, rows) == (60, 180)
    burnt = found.table.column("state").codes == 0
    assert events == found.table.column("count").values[burnt].sum()


def test_counts_at_each_time():
    table = reading("valve_tallies.ods").table
    guess = recognise(table)[0]
    assert guess.layout == "counts at times"
    now = after(table, *guess.steps)
    statement = guess.change(propose(table))
    stated = next(f for f in find(now, statement) if f.key == "still at risk at the end")
    assert stated.rows.size == 2, "one for each batch"
    now = after(now, *steps_for(stated, "set aside"))
    _, rows, events = formed(now, statement)
    failed = table.column("failed").values.sum()
    assert (rows, events) == (failed + table.column("withdrawn").values.sum(), failed)


def test_a_status_column_for_each_group():
    table = reading("status_by_arm.csv").table
    guess = recognise(table)[0]
    assert guess.layout == "a status for each group"
    now = after(table, *guess.steps)
    assert now.column("group").counts() == {"old": 35, "new": 35}
    statement = guess.change(propose(table))
    meanings = {"0": CENSORED, "1": EVENT}
    _, rows, events = formed(now, statement.model_copy(update={"meanings": meanings}))
    assert (rows, events) == (70, 52)


def test_spells_with_changing_values():
    table = reading("changing_doses.parquet").table
    guess = recognise(table)[0]
    assert guess.layout == "periods"
    statement = guess.change(propose(table))
    meanings = {"0": CENSORED, "1": EVENT}
    statement = statement.model_copy(update={"outcome": "event", "meanings": meanings})
    cohort, rows, events = formed(table, statement)
    assert (rows, events) == (123, 33)
    assert cohort.follow_up.entry is not None
    assert [f.key for f in find(table, statement) if "twice" in f.key] == []


def test_a_log_of_dated_records():
    table = reading("ward_log.csv").table
    assert str(table.column("moment").values.dtype) == "datetime64[s]"
    guess = recognise(table)[0]
    assert guess.layout == "dated records"
    now = after(table, *guess.steps)
    assert now.size == 60
    one = next(k for k in range(60) if now.column("patient").cell(k) == "W15")
    assert now.column("first admitted").cell(one) == "2018-03-24 05:30:00", "in UTC"
    assert now.column("first relapse").cell(one) == "2018-07-22 05:30:00"
    statement = guess.change(propose(table))
    assert [e.column for e in statement.clock.events] == ["first died", "first relapse"]
    _, rows, events = formed(now, statement)
    assert (rows, events) == (60, 28), "20 relapsed, 12 died, 4 did both"


def test_messy_codes_repeats_and_a_number_for_missing():
    table = reading("beds_with_bars.txt").table
    assert table.size == 152
    statement = propose(table).model_copy(update={"subject": "bed", "outcome": "how it ended"})
    statement = statement.model_copy(update={"meanings": {"died": EVENT, "ALIVE": CENSORED}})
    found = {f.key: f for f in find(table, statement)}
    assert found["repeated rows"].rows.tolist() == [151, 152]
    (mark,) = steps_for(found["code for missing: age"], "mark missing")
    assert mark == MarkMissing(column="age", values=("99",))
    assert "tells the outcome: censored" in found
    step = SetAsideRepeats(key=("bed",))
    now = after(table, step, mark, *steps_for(found["spelled in several ways: group"], "respell"))
    assert len(now.column("group").counts()) == 2, "spaces, capitals and accents"
    assert now.column("age").missing.sum() == 5
    _, rows, events = formed(now, statement)
    assert (rows, events) == (150, 60)


def test_the_earliest_of_several_events_or_the_last_contact():
    table = reading("composite_ends.json").table
    events = (DatedEvent(column="relapse_on"), DatedEvent(column="died_on", meaning="competing"))
    clock = FirstOf(start="randomised", events=events, last_contact="last_contact")
    statement = propose(table).model_copy(update={"clock": clock, "unit": "months"})
    cohort, rows, relapses = formed(table, statement)
    assert (rows, relapses) == (75, 25)
    assert cohort.competing == ("died_on",)
    assert (cohort.follow_up.status == 2).sum() == 19 - 7, "7 had relapsed before"
    closed = statement.model_copy(update={"closing_date": date(2018, 6, 1)})
    cut, _, fewer = formed(after(table, _seen_before(date(2018, 6, 1))), closed)
    assert fewer < relapses
    ends = cut.follow_up.exit * 30.4375 + cut.table.column("randomised").days
    assert ends.max() <= (date(2018, 6, 1) - date(1970, 1, 1)).days + 1e-6
    assert {f.key for f in find(table, closed)} >= {"after closing"}


def _seen_before(day):
    test = Clause(column="randomised", test="under", values=(day.isoformat(),))
    return SetAsideWhere(condition=Condition(clauses=(test,)), keep=True)


def test_no_names_and_dates_as_spreadsheet_days():
    found = reading("pumps_without_names.tsv")
    assert found.recipe.header == 0
    table = found.table
    assert [c.name for c in table.columns] == ["column 1", "column 2", "column 3", "column 4"]
    keys = {f.key: f for f in find(table, propose(table))}
    (first,) = steps_for(keys["dates as numbers: column 1"], "read dates")
    now = after(table, first, ReadAsDates(column="column 2", order="spreadsheet days"))
    assert cells(now, "column 1", 1) == ["2017-12-31"]
    statement = propose(now).model_copy(update={"ended": "everyone", "unit": "days"})
    _, rows, events = formed(now, statement)
    assert (rows, events) == (45, 45)


@pytest.mark.parametrize("name", sorted(p.name for p in FOLDER.iterdir()))
def test_every_demo_import_is_described_by_one_of_these_tests(name):
    assert name in Path(__file__).read_text(encoding="utf-8")
