"""Findings stand by what they can do to the curve, and state from what to what they move the median."""

import time

import numpy as np

from hourglass.analysis.prepare import finding_effects
from hourglass.analysis.prepare.run import prepare
from hourglass.cohort.findings.find import find
from hourglass.cohort.proposal.propose import propose
from hourglass.cohort.statement import CodeMeaning
from making import table

MEANINGS = {"0": CodeMeaning(meaning="censored"), "1": CodeMeaning(meaning="event")}


def prepared(text):
    rows = table(text)
    return prepare(rows, [], propose(rows).model_copy(update={"meanings": MEANINGS}), {})


def test_what_moves_the_median_states_so_and_comes_first():
    """40 events at days 1 to 40, and 20 rows without an end: followed on, half of 60 is reached at 30."""
    lines = [f"a{k},2020-01-01,{np.datetime64('2020-01-01') + k + 1},1,x" for k in range(40)]
    lines += [f"b{k},2020-01-01,,0,x" for k in range(20)]
    found = prepared("id,start,end,status,flat\n" + "\n".join(lines) + "\n").findings
    first = found[0]
    assert first.key == "no end"
    moves = {c.name: c.moves for c in first.choices}
    assert moves["set aside"] == "", "such rows are in no curve as it is"
    assert moves["still followed"] == "Still followed until 2020-02-10: median 20.5 → 30.5 days"
    (flat,) = [f for f in found if f.key == "constant: flat"]
    assert (flat.folded, first.folded) == (True, False)
    assert [f.folded for f in found] == sorted(f.folded for f in found)


def test_repeated_rows_state_what_setting_them_aside_does():
    lines = [f"a{k},{k + 1},{k % 2},{k % 7},{k % 5}" for k in range(40)]
    again = list(lines[:20])
    found = prepared("id,days,status,p,q\n" + "\n".join([*lines, *again]) + "\n").findings
    (repeated,) = [f for f in found if f.key == "repeated rows"]
    assert repeated.choices[0].moves.startswith("Set aside: median ")


def test_medians_are_not_worked_out_where_that_would_delay_the_first_screen():
    size = 100_000
    rng = np.random.default_rng(2)
    days = rng.integers(1, 2000, size)
    ends = [f"{d}" if k % 50 else "" for k, d in enumerate(days)]
    text = "id,days,status\n" + "".join(f"r{k},{ends[k]},{k % 2}\n" for k in range(size))
    rows = table(text)
    statement = propose(rows).model_copy(update={"meanings": MEANINGS})
    prepare(rows, [], statement, {})
    begun = time.perf_counter()
    found = prepare(rows, [], statement, {})
    assert found.findings[0].key == "no time"
    assert time.perf_counter() - begun < 10
    assert not found.moves_later


def test_medians_of_very_many_rows_come_later_with_progress(monkeypatch):
    lines = [f"a{k},{k + 1},{k % 2},{k % 7},{k % 5}" for k in range(40)]
    again = lines[:20]
    rows = table("id,days,status,p,q\n" + "\n".join([*lines, *again]) + "\n")
    statement = propose(rows).model_copy(update={"meanings": MEANINGS})
    at_once = prepare(rows, [], statement, {})
    monkeypatch.setattr(finding_effects, "MAX_ROWS", 10)
    later = prepare(rows, [], statement, {})
    assert (at_once.moves_later, later.moves_later) == (False, True)
    assert not any(c.moves for f in later.findings for c in f.choices)
    seen = []
    found = find(rows, statement, raw=rows)
    moves = finding_effects.moves_of(
        rows, statement, found, lambda words, share: seen.append(share)
    )
    assert {(f.key, c.name): c.moves for f in at_once.findings for c in f.choices if c.moves} == {
        (key, name): move.words for key, own in moves.items() for name, move in own.items()
    }
    assert seen == sorted(seen)
    assert 0 <= seen[0] <= seen[-1] < 1
