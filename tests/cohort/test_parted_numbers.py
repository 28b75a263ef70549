"""A decimal comma in a file whose cells are set apart by commas is offered as what it may be."""

import numpy as np
import pytest

from hourglass.cohort.findings.find import find
from hourglass.cohort.findings.finding import steps_for
from hourglass.cohort.followup import Cohort, form_cohort
from hourglass.cohort.proposal.propose import propose
from hourglass.cohort.reading.read import read
from hourglass.cohort.steps.apply import apply_steps, refuse_broken


def made(whole, seed=2, n=60):
    """Rows with days to one decimal, the comma unquoted; a share of them whole and without one."""
    rng = np.random.default_rng(seed)
    days = rng.integers(100, 9000, n) / 10
    days = np.where(
        rng.random(n) < whole, np.floor(days), np.floor(days) + rng.integers(1, 10, n) / 10
    )
    written = [f"{d:g}".replace(".", ",") for d in days]
    lines = [f"s{k},{w},{k % 2}" for k, w in enumerate(written)]
    return read(("id,days,status\n" + "\n".join(lines) + "\n").encode()).table, days


@pytest.mark.parametrize("whole", [0.0, 0.4])
def test_two_cells_are_joined_where_a_decimal_comma_parted_them(whole):
    table, days = made(whole)
    assert not isinstance(form_cohort(table, propose(table)), Cohort)
    question = next(
        f for f in find(table, propose(table), raw=table) if f.key == "mended: parted numbers"
    )
    assert f"days {int(days[0])},{round(days[0] * 10) % 10}" in question.why or whole
    assert "keep" in {c.name for c in question.choices}
    now, effects = apply_steps(table, steps_for(question, "join days"))
    refuse_broken(effects)
    assert [c.name for c in now.columns] == ["id", "days", "status"]
    assert now.column("days").values == pytest.approx(days)
    assert now.column("id").cell(3) == "s3"
    assert now.column("status").values.tolist() == [k % 2 for k in range(60)]
    again = find(now, propose(now), raw=table)
    assert "mended: parted numbers" not in {f.key for f in again}


def test_another_step_leaves_the_question_open():
    table, _ = made(0.0)
    aside = table.without([1, 2])
    found = {f.key: f for f in find(aside, propose(table), raw=table)}
    (step,) = steps_for(found["mended: parted numbers"], "join days")
    assert [c.name for c in step.on(aside).table.columns] == ["id", "days", "status"]


def test_names_of_rows_are_still_what_a_shorter_header_leaves_out():
    lines = "".join(f"r{k},{k / 8:.3f},{k % 2},{'ab'[k % 2]}\n" for k in range(40))
    table = read(("days,status,arm\n" + lines).encode()).table
    assert [m.about for m in table.mended] == ["names"]
    assert table.columns[0].name == "row name"
