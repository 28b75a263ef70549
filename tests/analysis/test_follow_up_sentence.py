"""The follow-up sentence: every option of every slot leads to a statement that is answered."""

import copy

import pytest

from hourglass.analysis.prepare.run import prepare
from hourglass.analysis.prepare.sentence import follow_up_sentence
from hourglass.cohort.code_meanings import meaning_of_word
from hourglass.cohort.statement import FollowUpStatement
from making import MEANINGS, table, timed

ROWS = table(
    "id,start,stop,relapse,death,t,s,entry,n\n"
    + "".join(
        f"p{k},2020-01-{k + 1:02d},2021-02-{k + 1:02d},{'2020-06-01' if k % 3 == 0 else ''},"
        f"{'2020-09-01' if k % 4 == 0 else ''},{k + 1},{k % 2},0,{k % 3 + 1}\n"
        for k in range(12)
    )
)


def put(statement, option):
    """What the client does with a chosen option."""
    body = statement.model_dump(mode="json")
    if option.field == "":
        return FollowUpStatement.model_validate({**body, **option.value})
    at = body
    *path, last = option.field.split(".")
    for key in path:
        at = at[key]
    at[last] = copy.deepcopy(option.value)
    return FollowUpStatement.model_validate(body)


def slots(statement):
    sentence = follow_up_sentence(ROWS, statement)
    return {p.slot.id: p.slot for p in sentence.parts if p.slot}, sentence.text


def choose(statement, slot, label):
    found = slots(statement)[0][slot]
    option = next(o for o in found.options if o.label == label)
    return put(statement, option)


def test_every_option_of_every_slot_leads_to_a_statement_that_is_answered():
    dated = FollowUpStatement.model_validate(
        {"clock": {"kind": "dates", "start": "start", "end": "stop"}}
    )
    seen, queue = set(), [timed(), dated]
    for _ in range(60):
        if not queue:
            break
        statement = queue.pop(0)
        answered = prepare(ROWS, [], statement, {})
        assert answered.sentence.text
        for slot in slots(statement)[0].values():
            for option in slot.options:
                after = put(statement, option)
                key = (slot.id, option.label, after.clock.kind)
                if key not in seen:
                    seen.add(key)
                    queue.append(after)
    kinds = {kind for _, _, kind in seen}
    assert kinds == {"dates", "first of", "duration"}
    assert len(seen) > 60


def test_from_two_dates_to_the_earliest_of_several_events_and_back():
    start = FollowUpStatement.model_validate(
        {"clock": {"kind": "dates", "start": "start", "end": "stop"}, "rows_are": "people"}
    )
    several = choose(start, "end", "to the earliest of several events")
    assert (several.clock.start, several.clock.last_contact) == ("start", "stop")
    one = choose(several, "event", "relapse")
    two = choose(one, "event", "death, a competing event")
    found, text = slots(two)
    assert text == (
        "Follow people from start to the earliest of relapse and death (competing), else to stop, "
        "in months. The event is called the event."
    )
    assert "outcome" not in found, "the events say who had one"
    less = choose(two, "event", "without relapse")
    assert [e.column for e in less.clock.events] == ["death"]
    back = choose(two, "start", "from one date to another")
    assert (back.clock.start, back.clock.end) == ("start", "stop")


@pytest.mark.parametrize(
    ("label", "text"),
    [
        (
            "death: the event happened where it has a date",
            "death has a date where the event happened",
        ),
        ("all had the event", "All had the event."),
        ("s", "In s, 1 is the event, 0 is censored"),
    ],
)
def test_who_had_the_event_is_stated_in_words(label, text):
    chosen = choose(timed(), "outcome", label)
    if label == "s":
        chosen = chosen.model_copy(update={"meanings": MEANINGS})
    assert text in slots(chosen)[1]


@pytest.mark.parametrize(
    ("field", "value", "words"),
    [
        ("landmark", 6.0, "with the clock set to 0, at 6 months."),
        ("longest", 60.0, "Nobody is followed for longer than 60 months."),
        ("zero_moved_to", 0.5, "Rows that end at their start are followed for 0.5 months."),
        ("count", "n", "Each row stands for as many as n."),
        ("late_entry", "entry", "Under observation only from entry."),
    ],
)
def test_optional_parts_are_added_shown_and_taken_out(field, value, words):
    bare, text = slots(timed())
    assert bare[field].state == "add"
    assert bare[field].entry is not None or bare[field].options
    assert words not in text
    chosen = timed(**{field: value})
    there, text = slots(chosen)
    assert words in text
    away = there[field].options[-1]
    assert put(chosen, away) == timed()


def test_a_closing_date_is_offered_where_times_come_from_dates():
    assert "closing_date" not in slots(timed())[0]
    dated = FollowUpStatement.model_validate({"clock": {"kind": "dates"}})
    assert slots(dated)[0]["closing_date"].entry.kind == "date"


def test_a_subject_may_have_several_rows():
    chosen = choose(timed(), "subject", "id, in several rows")
    assert (chosen.subject, chosen.several_rows) == ("id", True)
    assert "Each is known by id, in several rows." in slots(chosen)[1]
    away = choose(chosen, "subject", "No name for each")
    assert (away.subject, away.several_rows) == (None, False)


@pytest.mark.parametrize(
    ("column", "code", "meaning"),
    [
        ("status", "1", None),
        ("dead", "0", None),
        ("censored", "1", None),
        ("CNSR", "yes", "censored"),
        ("alive", "yes", "censored"),
        ("outcome", " Dead ", "event"),
        ("outcome", "lost to follow-up", "censored"),
        ("outcome", "2", None),
        ("outcome", "", None),
        ("relapse", "TRUE", "event"),
    ],
)
def test_meanings_are_proposed_by_the_words_for_them(column, code, meaning):
    assert meaning_of_word(column, code) == meaning


def test_codes_come_with_their_spellings_and_proposals_and_no_meaning():
    rows = table("t,end\n1,dead\n2,DEAD \n3,dead\n4,alive\n5,2\n")
    found = follow_up_sentence(rows, timed(outcome="end", meanings={}))
    (codes,) = (p.slot.codes for p in found.parts if p.slot and p.slot.id == "meanings")
    shown = {c.code: (c.count, c.spellings, c.proposed, c.meaning) for c in codes}
    assert shown == {
        "2": (1, [], None, None),
        "alive": (1, [], "censored", None),
        "dead": (3, ["DEAD "], "event", None),
    }
