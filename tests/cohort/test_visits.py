"""Visits in rows of their own are noticed before each is taken for a subject, and followed in three ways."""

import numpy as np
import pytest

from hourglass.cohort.followup import Cohort, form_cohort
from hourglass.cohort.layouts import recognise
from hourglass.cohort.proposal.propose import propose
from hourglass.cohort.statement import CodeMeaning
from hourglass.cohort.steps.apply import apply_steps, refuse_broken
from hourglass.cohort.visits import visits_of
from making import table

EVENT, CENSORED = CodeMeaning(meaning="event"), CodeMeaning(meaning="censored")
WORDS = {"alive": CENSORED, "dead": EVENT}
DIGITS = {"0": CENSORED, "1": EVENT}


def visits(dated=False, digits=False, seed=4, plants=50, by_visit=False):
    """Plants that are looked at every few days until they are dead, or no longer; what should come out."""
    rng = np.random.default_rng(seed)
    lines, truth = [], []
    for k in range(plants):
        days = np.cumsum([0, *rng.integers(3, 9, rng.integers(2, 12))])
        dead = rng.random() < 0.6
        for v, day in enumerate(days):
            state = int(dead and v == days.size - 1)
            when = np.datetime64("2021-03-01") + k + day if dated else day
            word = state if digits else ["alive", "dead"][state]
            lines.append((v, f"p{k:02d},{when},{word},{10 + v * 3}"))
        truth.append((days, dead))
    if by_visit:
        lines.sort(key=lambda line: line[0])
    head = "plant,day,state,height\n"
    return table(head + "\n".join(text for _, text in lines) + "\n"), truth


def taken(rows, layout, meanings):
    guess = next(g for g in recognise(rows) if g.layout == layout)
    now, effects = apply_steps(rows, guess.steps)
    refuse_broken(effects)
    statement = guess.change(propose(rows)).model_copy(update={"meanings": meanings})
    found = form_cohort(now, statement)
    assert isinstance(found, Cohort), found
    return found


@pytest.mark.parametrize(("dated", "digits"), [(False, False), (True, False), (False, True)])
@pytest.mark.parametrize("by_visit", [False, True])
def test_nothing_is_proposed_before_it_is_stated_how_visits_are_followed(dated, digits, by_visit):
    rows, truth = visits(dated, digits, by_visit=by_visit)
    assert not isinstance(form_cohort(rows, propose(rows)), Cohort)
    meanings = DIGITS if digits else WORDS
    names = [g.layout for g in recognise(rows) if g.layout != "dated records"]
    assert names[:3] == ["rows between visits", "the last visit", "the first event seen"]
    ends = sorted((float(days[-1]), dead) for days, dead in truth)
    for layout in names[1:3]:
        data = taken(rows, layout, meanings).follow_up
        assert sorted(zip(data.exit, data.event(), strict=True)) == ends
    found = taken(rows, "rows between visits", meanings)
    data = found.follow_up
    assert data.size == sum(days.size - 1 for days, _ in truth)
    assert int(data.event().sum()) == sum(dead for _, dead in truth)
    assert (data.exit - data.entry > 0).all() if data.entry is not None else dated
    first = found.table.column("height").values
    assert set(first) <= {10.0 + 3 * v for v in range(12)}
    longest = max(days.size for days, _ in truth)
    assert first.max() == 10 + 3 * (longest - 2), "a value is that of the visit before"


def test_the_first_visit_with_the_event_is_kept_where_the_subject_goes_on():
    text = "pump,day,state\n" + "".join(
        f"m{k},{d},{'dead' if d >= 20 and k % 2 else 'alive'}\n"
        for k in range(20)
        for d in (0, 10, 20, 30)
    )
    rows = table(text)
    data = taken(rows, "the first event seen", WORDS).follow_up
    assert sorted(set(zip(data.exit, data.event(), strict=True))) == [(20.0, True), (30.0, False)]


def test_rows_that_are_no_visits_are_not_taken_for_them():
    rng = np.random.default_rng(5)
    each = "".join(f"litter{k // 3},{t},{k % 2}\n" for k, t in enumerate(rng.integers(5, 900, 150)))
    assert visits_of(table("litter,days,status\n" + each)) is None
    ordered = "".join(f"c{k % 9},{k + 3},{k % 2}\n" for k in range(120))
    assert visits_of(table("centre,days,status\n" + ordered)) is None, "in order of time throughout"
    rows = "".join(f"s{k},{d},{d + 5},{k % 2}\n" for k in range(20) for d in (0, 5, 10))
    assert recognise(table("id,start,stop,status\n" + rows))[0].layout == "periods"


@pytest.mark.parametrize(
    "names", [("v{}_date", "v{}_state"), ("seen{}", "state{}"), ("date_{}", "found_{}")]
)
def test_a_pair_of_columns_for_each_visit_becomes_rows(names):
    _, truth = visits(plants=30)
    most = max(days.size for days, _ in truth)
    head = ["plant", "bed", *(name.format(k) for k in range(1, most + 1) for name in names)]
    lines = []
    for k, (days, dead) in enumerate(truth):
        cells = [f"p{k}", "ab"[k % 2]]
        for v in range(most):
            there = v < days.size
            state = "dead" if dead and v == days.size - 1 else "alive"
            day = np.datetime64("2021-03-01") + days[v] if there else ""
            cells += [str(day), state if there else ""]
        lines.append(",".join(cells))
    rows = table(",".join(head) + "\n" + "\n".join(lines) + "\n")
    assert not isinstance(form_cohort(rows, propose(rows)), Cohort), (
        "the first visit is not the end"
    )
    ends = sorted((float(days[-1]), dead) for days, dead in truth)
    for layout in ("the last visit", "the first event seen"):
        data = taken(rows, layout, WORDS).follow_up
        assert sorted(zip(data.exit, data.event(), strict=True)) == ends
    between = taken(rows, "rows between visits", WORDS)
    assert between.follow_up.size == sum(days.size - 1 for days, _ in truth)
    assert set(between.table.column("bed").counts()) == {"a", "b"}
