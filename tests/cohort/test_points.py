"""A point before three digits may set thousands apart: a finding, with what the file shows."""

import numpy as np
import pytest

from hourglass.cohort.findings.find import find
from hourglass.cohort.findings.finding import steps_for
from hourglass.cohort.proposal.propose import propose
from hourglass.cohort.reading.read import read
from hourglass.cohort.steps.apply import apply_steps

HOURS = ["1.087", "3.749", "987", "12.400", "45", "6.012", "2.500", "910"]


def made(*heads, **columns):
    rows = zip(*columns.values(), strict=True)
    return read(
        "\n".join([";".join(columns), *(";".join(row) for row in rows)]).encode() + b"\n"
    ).table


def question(table, column):
    found = {f.key: f for f in find(table, propose(table))}
    return found.get(f"numbers as text: {column}")


def test_a_decimal_comma_beside_them_speaks_for_thousands():
    weights = [f"{k},{k % 10}" for k in range(5, 13)]
    table = made(hours=HOURS, weight=weights, state=list("01010101"))
    assert table.column("weight").kind == "number", "each column is read for itself"
    assert table.column("hours").kind == "text"
    finding = question(table, "hours")
    assert "In weight a comma is the decimal mark, as in 5,5" in finding.why
    assert [c.label for c in finding.choices][:2] == [
        "Read points as thousands", "Read points as decimal points",
    ]  # fmt: skip
    now, _ = apply_steps(table, steps_for(finding, "read ,."))
    assert now.column("hours").values.tolist()[:3] == [1087, 3749, 987]


def test_without_other_evidence_it_is_a_question():
    table = made(hours=HOURS, state=list("01010101"))
    finding = question(table, "hours")
    assert {c.name for c in finding.choices} >= {"read ,.", "read ."}
    now, _ = apply_steps(table, steps_for(finding, "read ."))
    assert now.column("hours").values[0] == 1.087


@pytest.mark.parametrize(
    "other", [["1.5", "2.25"] * 4, ["0.123", "4.567"] * 4, ["1234.567", "2.345"] * 4]
)
def test_a_decimal_point_elsewhere_in_the_file_settles_it(other):
    table = made(hours=HOURS, x=other, state=list("01010101"))
    assert np.allclose(table.column("hours").values[:2], [1.087, 3.749])
    assert question(table, "hours") is None
