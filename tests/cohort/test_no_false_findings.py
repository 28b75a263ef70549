"""What is not odd is no finding: clocks in hours, rows of one subject, trailing marks, our own steps."""

import numpy as np
import pytest

from hourglass.cohort.findings.find import find
from hourglass.cohort.proposal.propose import propose
from hourglass.cohort.reading.read import read
from hourglass.cohort.statement import CodeMeaning, Duration
from hourglass.cohort.steps.levels import RespellLevels
from making import table, timed

MEANINGS = {"0": CodeMeaning(meaning="censored"), "1": CodeMeaning(meaning="event")}


def keys(rows, statement, **more):
    return {f.key: f for f in find(rows, statement, **more)}


def hours(made):
    lines = "".join(f"{k},{t},{k % 2}\n" for k, t in enumerate(made))
    return table("id,hours,status\n" + lines)


@pytest.mark.parametrize("share", [0.0, 0.8])
def test_hours_are_heaped_only_where_they_are_multiples_of_a_day(share):
    rng = np.random.default_rng(3)
    visits = 24 * rng.integers(1, 90, 200)
    rows = hours(np.where(rng.random(200) < share, visits, rng.integers(1, 2000, 200)))
    statement = propose(rows).model_copy(update={"meanings": MEANINGS})
    assert statement.unit == "hours"
    assert ("heaped times" in keys(rows, statement)) == (share > 0)


def test_rows_that_a_subject_goes_on_after_state_nothing_of_a_reversed_code():
    lines = [f"s{k},{10 * v},{10 * v + 10},{int(v == 5)}" for k in range(60) for v in range(6)]
    rows = table("id,start,stop,status\n" + "\n".join(lines) + "\n")
    statement = timed().model_copy(
        update={
            "clock": Duration(column="stop"), "late_entry": "start", "subject": "id",
            "several_rows": True, "outcome": "status", "meanings": MEANINGS,
        }
    )  # fmt: skip
    assert "possibly reversed" not in keys(rows, statement)


def test_a_column_that_speaks_for_a_code_is_heard():
    words = ["alive", "died of pneumonia", "still in study", "died suddenly"]
    text = "days,x,how\n" + "".join(f"{k + 5},{k % 2},{words[k % 4]}\n" for k in range(40))
    rows = table(text)
    statement = propose(rows).model_copy(update={"outcome": "x", "meanings": {}})
    question = keys(rows, statement)["which is the event: x"]
    assert "speaks for 1" in question.why
    assert "died" in question.why


def test_a_mark_after_the_last_cell_makes_no_row_ragged():
    text = "id\tdays\tstatus\n" + "".join(
        f"{k}\t{k + 3}\t{k % 2}{chr(9) * (k % 3 == 0)}\n" for k in range(30)
    )
    found = read(text.encode()).table
    assert [c.name for c in found.columns] == ["id", "days", "status"]
    assert [m.about for m in found.mended] == []
    longer = read(text.replace("6\t9\t0\t", "6\t9\t0\tx").encode()).table
    assert next(m.about for m in longer.mended) == "ragged"


def test_a_level_that_our_own_step_emptied_is_not_stated_to_be_lacking_in_the_file():
    rows = table(
        "days,status,arm\n" + "".join(f"{k + 5},{k % 2},{'abc'[k % 3]}\n" for k in range(30))
    )
    step = RespellLevels(column="arm", spelling={"c": "b"}, in_place=True)
    after = step.on(rows).table
    found = keys(after.without([n for n in after.numbers if n % 3 == 1]), propose(rows), raw=rows)
    assert "set aside or put elsewhere" in found["empty levels: arm"].why


def test_what_gives_away_the_outcome_is_stated_once():
    text = "days,status,how\n" + "".join(
        f"{k + 5},{k // 2 % 2},{['well', 'unwell'][k // 2 % 2]}\n" for k in range(60)
    )
    statement = propose(table(text)).model_copy(update={"meanings": MEANINGS, "outcome": "status"})
    about = [k for k in keys(table(text), statement) if k.endswith(": how")]
    assert about == ["tells the outcome: how"]
    twice = "id,days,status,a,b\n" + "".join(
        f"s{k},{k + 5},{k % 2},{k % 7},{k % 5}\n" for k in [*range(40), *range(20)]
    )
    found = keys(table(twice), propose(table(twice)))
    assert "repeated rows" in found
    assert not [k for k in found if k.startswith("entered twice")]
