"""Each kind of finding: a table in which it is, and that it is not where it should not be."""

from datetime import date

import numpy as np
import pytest

from hourglass.cohort.code_meanings import probable_meanings
from hourglass.cohort.findings.find import find
from hourglass.cohort.findings.finding import steps_for
from hourglass.cohort.followup import form_cohort
from hourglass.cohort.proposal.propose import propose
from hourglass.cohort.statement import BetweenDates, CodeMeaning, Duration, FollowUpStatement
from hourglass.cohort.steps.apply import apply_steps
from making import MEANINGS, table, timed

TODAY = date(2024, 6, 1)


def found(text, today=TODAY, **changes):
    return {f.key: f for f in find(table(text), timed(**changes), today)}


def many(row, n=24, head="t,s,g,x"):
    """A table of n rows, ``row`` giving the cells of each."""
    return head + "\n" + "".join(",".join(map(str, row(k))) + "\n" for k in range(n))


def plain(k):
    return (k % 9 + 1, k % 2, "ab"[k // 2 % 2], (k * 7) % 23)


CLEAN = many(plain)


def changed(**cells):
    """The clean table with a column of its own, or one replaced: name → cell by row."""
    head = ["t", "s", "g", "x"]
    extra = [name for name in cells if name not in head]

    def row(k):
        values = dict(zip(head, plain(k), strict=True))
        values |= {name: cell(k) for name, cell in cells.items()}
        return [values[name] for name in (*head, *extra)]

    return many(row, head=",".join([*head, *extra]))


def test_a_clean_table_has_no_finding():
    assert found(CLEAN) == {}


KINDS = [
    ("end before start", changed(t=lambda k: -1 if k == 3 else k + 1), {}, [4]),
    ("no time", changed(t=lambda k: "" if k in (3, 5) else k + 1), {}, [4, 6]),
    ("zero time", changed(t=lambda k: 0 if k == 7 else k + 1), {}, [8]),
    ("entry after end", changed(e=lambda k: 30 if k == 2 else 0), {"late_entry": "e"}, [3]),
    ("no count", changed(n=lambda k: 1.5 if k == 2 else 2), {"count": "n"}, [3]),
    ("blank outcome", changed(s=lambda k: "" if k == 1 else k % 2), {}, [2]),
    ("unknown code: 7", changed(s=lambda k: 7 if k == 1 else k % 2), {}, [2]),
    ("in the future: d", changed(d=lambda k: "2024-06-02" if k == 9 else "2024-06-01"), {}, [10]),
    ("entered twice: id 5", changed(id=lambda k: 5 if k in (4, 5) else k), {"subject": "id"}, [5, 6]),
    ("code for missing: y", changed(y=lambda k: 99 if k in (3, 8) else k % 12), {}, [4, 9]),
    ("impossible: age", changed(age=lambda k: 131 if k == 3 else 40 + k), {}, [4]),
    ("extreme: y", changed(y=lambda k: 900 if k == 3 else (k * 5) % 31), {}, [4]),
    ("numbers as text: y", changed(y=lambda k: "about 5" if k == 3 else k * 5% 31), {}, [4]),
    ("either order: d", changed(d=lambda k: f"0{k % 9 + 1}/02/2020"), {}, None),
    ("two formats: d", changed(d=lambda k: "14/02/2020" if k % 2 else "02/14/2020"), {}, None),
    ("not all dates: d", changed(d=lambda k: "2020-02-30" if k == 3 else f"2020-02-1{k % 9}"), {}, [4]),
    ("dates as numbers: d", changed(d=lambda k: f"202002{k % 19 + 10}"), {}, None),
    ("constant: y", changed(y=lambda k: "same"), {}, []),
    ("repeats: h", changed(h=lambda k: {"a": "one", "b": "two"}["ab"[k // 2% 2]]), {}, []),
    ("tells the outcome: y", changed(y=lambda k: ["lives", "died"][k % 2]), {}, []),
    ("tells the time: y", changed(t=lambda k: k * k + 1, y=lambda k: 3 * k * k + 2), {}, []),
    ("no events: h", changed(h=lambda k: "c" if k % 6 == 0 else "ab"[k % 2 + k % 3 - 1 & 1]), {}, None),
    ("missing: x", changed(x=lambda k: "" if k in (1, 2) else k), {}, [2, 3]),
    (
        "missing together: x, y",
        changed(x=lambda k: "" if k < 3 else k % 5, y=lambda k: "" if k < 3 else k % 7), {}, [1, 2, 3],
    ),
    (
        "spelled in several ways: g",
        changed(g=lambda k: ["Café", "cafe", " CAFE"][k % 3] if k % 2 else "b"), {}, None,
    ),
    ("counts as events", changed(s=lambda k: [0, 0, 0, 0, 1, 1, 1, 2, 2, 3][k % 10]), {}, None),
    ("repeated rows", CLEAN + "1,0,a,0\n", {}, [25]),
]  # fmt: skip


@pytest.mark.parametrize(("key", "text", "changes", "rows"), KINDS, ids=[k[0] for k in KINDS])
def test_what_is_odd_is_found_with_its_rows_and_can_be_decided(key, text, changes, rows):
    finding = found(text, **changes)[key]
    if rows is not None:
        assert finding.rows.tolist() == rows
    assert finding.choices
    assert finding.why.endswith(".")
    for choice in finding.choices:
        _, effects = apply_steps(table(text), steps_for(finding, choice.name))
        assert [e.broken for e in effects if e.broken] == []


@pytest.mark.parametrize("key", ["set aside", "mark missing", "respell", "read day first"])
def test_deciding_a_finding_makes_it_go_away(key):
    for name, text, changes, _ in KINDS:
        finding = found(text, **changes)[name]
        if finding.choice(key) is None:
            continue
        now, _ = apply_steps(table(text), steps_for(finding, key))
        left = {f.key for f in find(now, timed(**changes), TODAY)}
        assert name not in left, f"{name}: {key}"


def test_a_code_that_looks_reversed_comes_with_both_readings():
    text = many(lambda k: (k + 1, int(k >= 12), "ab"[k % 2], k % 5))
    finding = found(text)["possibly reversed"]
    first, second = finding.picture
    assert (first.name, second.name) == ("as it stands", "the other way round")
    assert first.times[0] == 0
    assert first.heights == tuple(sorted(first.heights, reverse=True))
    assert second.heights[-1] == pytest.approx(0.5), "the first twelve of 24 as events"
    assert "by chance it would be 50%, and so many in 1 of 62\u202f003 studies" in finding.why
    assert "possibly reversed" not in found(many(lambda k: (k + 1, int(k < 12), "a", k % 5)))
    worded = {"yes": CodeMeaning(meaning="event"), "no": CodeMeaning(meaning="censored")}
    words = many(lambda k: (k + 1, "yes" if k >= 12 else "no", "ab"[k % 2], k % 5))
    assert found(words, meanings=worded)["possibly reversed"].picture[0].name == "as it stands"
    assert found(words, meanings={})["possibly reversed"].picture[0].name == "as proposed"


def test_times_that_chance_could_give_are_no_sign_of_a_reversed_code():
    # Six and six: four in five pairs would be so by chance once in some twenty studies.
    few = "t,s\n" + "".join(
        f"{t},{s}\n" for t, s in zip(range(1, 13), [0, 0, 1, 0, 0, 1, 1, 0, 1, 0, 1, 1])
    )
    assert "possibly reversed" not in found(few)


def test_two_digits_are_pictured_both_ways_and_none_is_called_probable():
    for low, high in (("0", "1"), ("1", "2")):
        text = many(lambda k: (k + 1, (low, high)[k >= 12], "ab"[k % 2], k % 5))  # noqa: B023
        known = found(text, meanings={})
        assert "possibly reversed" not in known
        finding = known["which is the event: s"]
        assert [c.name for c in finding.picture] == [f"{low} is the event", f"{high} is the event"]
        assert finding.picture[0].heights[-1] == pytest.approx(0.5)
        assert "No other column speaks for one of them" in finding.why
        assert probable_meanings(table(text), timed(meanings={})) == {}
        assert "which is the event: s" not in found(text), "it goes once the codes have a meaning"


def test_another_column_speaks_for_a_digit_when_chance_does_not_explain_it():
    dated = "t,s,died_on\n" + "".join(
        f"{k + 1},{1 + k % 2},{'' if k % 2 else f'2020-01-{k + 1:02d}'}\n" for k in range(24)
    )
    text = probable_meanings(table(dated), timed(meanings={}))
    assert {code: p.meaning for code, p in text.items()} == {"1": "event", "2": "censored"}
    why = found(dated, meanings={})["which is the event: s"].why
    assert "died_on has a date in 12 rows, all of them 1: that speaks for 1." in why
    few = "t,s,died_on\n1,1,2020-01-01\n2,2,\n3,1,2020-01-03\n4,2,\n5,2,\n6,2,\n"
    assert probable_meanings(table(few), timed(meanings={})) == {}, (
        "two dates may fall so by chance"
    )
    named = "t,s,state\n" + "".join(
        f"{k + 1},{k % 2},{'lost' if k % 2 else 'dead'}\n" for k in range(9)
    )
    text = probable_meanings(table(named), timed(meanings={}))
    assert {c: (p.meaning, p.because) for c, p in text.items()} == {
        "0": ("event", "state says dead wherever it stands"),
        "1": ("censored", "state says lost wherever it stands"),
    }
    torn = named + "30,0,lost\n"
    assert probable_meanings(table(torn), timed(meanings={})) == {}


def test_a_reversed_code_shows_against_a_date_of_the_event():
    text = changed(died_on=lambda k: "" if k % 2 else f"2020-01-{k % 28 + 1:02d}")
    why = found(text)["possibly reversed"].why
    assert "died_on has a date in 100% of the rows taken for censored and 0% of those with" in why


def test_missingness_that_goes_with_the_outcome_is_stated():
    text = many(
        lambda k: (k + 1, k % 2, "a" if k % 4 else "b", "" if k % 2 and k % 3 else k % 5), 200
    )
    assert "67% of the rows with the event and 0% of the others" in found(text)["missing: x"].why


def test_spells_that_overlap_or_leave_a_gap():
    text = "id,e,t,s,x\na,0,5,0,1\na,4,9,1,2\nb,0,3,0,1\nb,4,6,0,3\nc,0,2,1,4\nc,2,8,0,5\n"
    seen = found(text, subject="id", late_entry="e", several_rows=True)
    assert seen["overlapping rows"].rows.tolist() == [2]
    assert seen["gaps between rows"].rows.tolist() == [4]
    assert seen["followed after the event"].rows.tolist() == [5]
    assert not any(key.startswith("entered twice") for key in seen)


def test_dates_that_cannot_be():
    text = "born,a,b,s,later\n" + "".join(
        f"19{50 + k % 40}-01-01,2020-01-{k % 27 + 1:02d},2021-0{k % 9 + 1}-01,{k % 2},"
        f"{'2020-06-01' if k % 3 == 0 else ''}\n"
        for k in range(30)
    )
    text += "2022-01-01,2020-01-01,2021-01-01,1,\n"
    statement = FollowUpStatement(
        clock=BetweenDates(start="a", end="b"), unit="days", outcome="s", meanings=MEANINGS,
        closing_date=date(2021, 8, 1),
    )  # fmt: skip
    seen = {f.key: f for f in find(table(text), statement, TODAY)}
    assert seen["before birth: a"].rows.tolist() == [31]
    assert (seen["after closing"].rows.size, seen["event after closing"].rows.size) == (2, 1)
    assert "known only after time zero" in seen["known late: later"].title


def dated(*, rows=24, statement=None, **cells):
    """Findings in rows from a start to an end with an outcome; ``cells`` gives or replaces columns."""
    columns = {
        "began": lambda k: np.datetime64("2020-01-01") + k,
        "ended": lambda k: np.datetime64("2020-03-01") + 9 * k,
        "s": lambda k: k % 2,
        **cells,
    }
    lines = [",".join(str(cell(k)) for cell in columns.values()) for k in range(rows)]
    stated = statement or FollowUpStatement(
        clock=BetweenDates(start="began", end="ended"), unit="days", outcome="s", meanings=MEANINGS
    )
    rows_read = table(",".join(columns) + "\n" + "\n".join(lines) + "\n")
    return {f.key: f for f in find(rows_read, stated, date(2021, 6, 1), raw=rows_read)}


def days_in(k):
    return int((np.datetime64("2020-03-01") + 9 * k - np.datetime64("2020-01-01") - k).astype(int))


DATED = [
    ("no start", {"began": lambda k: "" if k in (2, 5) else f"2020-01-{k + 1:02d}"}, [3, 6]),
    ("no end", {"ended": lambda k: "" if k == 4 else np.datetime64("2020-03-01") + 9 * k}, [5]),
    ("disagrees: days", {"days": lambda k: days_in(k) + (30 if k == 6 else 0)}, [7]),
    ("disagrees: months", {"months": lambda k: round(days_in(k) / 30.4375, 1) + 3 * (k == 9)}, [10]),
    ("censored with a date: died_on",
     {"died_on": lambda k: "2020-03-05" if k % 2 or k == 8 else ""}, [9]),
    ("event without a date: died_on", {"died_on": lambda k: "2020-03-05" if k % 2 and k != 7 else ""}, [8]),
    ("event after last contact: died_on",
     {"died_on": lambda k: "2021-05-05" if k == 3 else "2020-01-05" if k % 2 else "",
      "last_contact": lambda k: "2021-01-01"}, [4]),
    ("placeholder: ended", {"ended": lambda k: "1900-01-01" if k in (1, 2) else f"2020-03-{k + 1:02d}"},
     [2, 3]),
]  # fmt: skip


@pytest.mark.parametrize(("key", "cells", "rows"), DATED, ids=[k[0] for k in DATED])
def test_each_finding_about_dates_names_its_rows_and_no_others(key, cells, rows):
    seen = dated(**cells)
    assert seen[key].rows.tolist() == rows, sorted(seen)
    assert seen[key].choices


def test_dates_in_order_and_durations_that_agree_have_no_such_finding():
    seen = dated(
        days=days_in,
        months=lambda k: round(days_in(k) / 30.4375, 1),
        died_on=lambda k: np.datetime64("2020-03-01") + 9 * k if k % 2 else "",
        last_contact=lambda k: "2021-05-01",
    )
    kinds = {key.partition(":")[0] for key in seen}
    assert kinds <= {
        "tells the outcome",
        "tells the time",
        "repeats",
        "known late",
        "constant",
        "missing",
    }


def test_starts_events_and_ends_after_the_closing_date_are_three_findings():
    closed = FollowUpStatement(
        clock=BetweenDates(start="began", end="ended"), unit="days", outcome="s", meanings=MEANINGS,
        closing_date=date(2020, 6, 1),
    )  # fmt: skip
    seen = dated(statement=closed, began=lambda k: "2020-07-01" if k == 20 else "2020-01-01")
    assert seen["start after closing"].rows.tolist() == [21]
    events, others = seen["event after closing"].rows, seen["after closing"].rows
    assert set(events % 2) == {0}
    assert 21 not in others
    assert set(others % 2) == {1}


TEXTS = [
    ("units in cells: w", changed(w=lambda k: f"{k + 40} kg"), [*range(1, 25)]),
    ("long text: w", changed(w=lambda k: "x" * 250 if k == 5 else f"note {k}"), [6]),
    ("weights: iptw", changed(iptw=lambda k: 0.5 + k / 20), []),
    ("inspections: last_negative, first_positive",
     changed(last_negative=lambda k: k, first_positive=lambda k: k + 3), []),
    ("repeated rows", "t,g\n" + "".join(f"{k * 1.37:.2f},a\n" for k in (*range(1, 20), 3, 4, 5)),
     [20, 21, 22]),
    ("code for missing: t", changed(t=lambda k: 999 if k == 4 else k % 9 + 1), [5]),
]  # fmt: skip


@pytest.mark.parametrize(("key", "text", "rows"), TEXTS, ids=[t[0] for t in TEXTS])
def test_what_a_column_holds_is_noticed(key, text, rows):
    seen = found(text, outcome="s" if ",s" in text else None)
    seen |= {f.key: f for f in find(table(text), FollowUpStatement(), TODAY)}
    assert seen[key].rows.tolist() == rows, sorted(seen)


def test_a_level_that_lost_its_rows_or_never_had_any():
    rows = table(changed(h=lambda k: "rare" if k == 3 else "ab"[k % 2]))
    assert "empty levels: h" not in {f.key for f in find(rows, timed(), TODAY, raw=rows)}
    after = rows.without([4])
    finding = next(f for f in find(after, timed(), TODAY, raw=rows) if f.key == "empty levels: h")
    assert "“rare”" in finding.title
    assert "set aside" in finding.why
    declared = next(f for f in find(after, timed(), TODAY, raw=after) if f.key == "empty levels: h")
    assert "declares it" in declared.why


def test_a_column_of_words_that_states_the_opposite_questions_the_coding():
    text = changed(vital=lambda k: ["died", "alive"][k % 2])
    seen = found(text)["possibly reversed"]
    assert "vital says the opposite in 24 of 24 rows" in seen.why
    right = found(changed(vital=lambda k: ["alive", "died"][k % 2]))
    assert "possibly reversed" not in right


PERIODS = "id,e,t,s\n1,0,5,0\n1,4,9,1\n2,0,3,1\n2,3,8,1\n3,0,4,0\n"


def test_overlaps_offer_the_whole_subject_and_several_events_are_counted():
    seen = found(PERIODS, subject="id", several_rows=True, late_entry="e")
    overlap = seen["overlapping rows"]
    assert overlap.rows.tolist() == [2]
    assert overlap.choice("set subjects aside").steps[0].rows == (1, 2)
    assert seen["several events"].rows.tolist() == [3, 4]
    assert "1 subject has" in seen["several events"].title


def test_fractional_weights_and_inspections_are_refused_with_what_can_be_done():
    weighted = form_cohort(
        table("t,s,w\n" + "".join(f"{k},{k % 2},{0.5 + k / 7:.2f}\n" for k in range(1, 12))),
        timed(count="w"),
    )
    assert "fractional weights, not counts" in weighted[0].sentence
    rows = table("left,right,s\n" + "".join(f"{k},{k + 2},{k % 2}\n" for k in range(1, 12)))
    refused = form_cohort(rows, timed(clock=Duration(column="right")))
    assert "inspections before and after the event" in refused[0].sentence
    assert propose(rows).clock.column is None, "not forced into a clock"


def test_event_times_heaped_on_visits():
    visits = np.array([365, 730, 1095])
    lines = [
        f"2015-01-01,{np.datetime64('2015-01-01') + later},{k % 5 > 0:d}\n"
        for k in range(80)
        for later in [visits[k % 3] if k % 4 else 100 + 7 * k]
    ]
    statement = FollowUpStatement(
        clock=BetweenDates(start="a", end="b"), unit="months", outcome="s", meanings=MEANINGS
    )
    rows = table("a,b,s\n" + "".join(lines))
    seen = {f.key: f for f in find(rows, statement, TODAY)}
    assert "multiples of 12 months" in seen["heaped times"].title
    by_day = statement.model_copy(update={"unit": "days"})
    assert "heaped times" in {f.key for f in find(rows, by_day, TODAY)}


def test_everyone_with_the_event_is_a_question():
    only = {"1": CodeMeaning(meaning="event")}
    seen = found(many(lambda k: (k + 1, 1, "ab"[k % 2], k % 7)), meanings=only)
    assert seen["everyone had the event"].choices[0].name == "keep"
