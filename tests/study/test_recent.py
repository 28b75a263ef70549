"""What a process remembers stays within one budget of bytes, whatever it is."""

import sys

import numpy as np
import pytest
from pydantic import BaseModel

from hourglass.cohort.table import NumberColumn, Table, TextColumn
from hourglass.study.recent import Memory, Recent
from hourglass.study.sizes import size_of

MIB = 1 << 20


class Drawn(BaseModel):
    """A model with a field that is called as mappings' own."""

    keys: list[bytes]


def numbers(mib, name="x"):
    return NumberColumn(name=name, values=np.zeros(mib * MIB // 8), decimals=0)


@pytest.mark.parametrize(
    ("value", "size"),
    [
        (np.zeros(MIB), 8 * MIB),
        (b"x" * MIB, MIB),
        ([b"x" * MIB, b"y" * MIB], 2 * MIB),
        ({"a": (np.zeros(MIB), None)}, 8 * MIB),
        (Drawn(keys=[b"x" * MIB, b"y" * MIB]), 2 * MIB),
        (Table((numbers(3), numbers(5, "y")), np.arange(MIB)), 16 * MIB),
        (
            TextColumn(
                name="t",
                codes=np.zeros(MIB, np.int32),
                levels=tuple(f"level {k:09}" for k in range(100_000)),
            ),
            4 * MIB + 100_000 * (sys.getsizeof("level 000000001") + 8),
        ),
    ],
    ids=["array", "bytes", "list", "mapping", "model", "table", "texts"],
)
def test_the_size_of_a_value_is_that_of_all_it_holds(value, size):
    assert size_of(value) == pytest.approx(size, rel=0.01)


def test_what_is_in_a_value_twice_is_counted_once():
    column = numbers(4)
    assert size_of((column, column, Table((column,), np.arange(1)))) < 5 * MIB


def test_what_was_requested_longest_ago_goes_first_whatever_it_is():
    memory = Memory(10 * MIB)
    tables, answers = Recent("tables", memory), Recent("answers", memory)
    tables.put("a", numbers(4))
    answers.put("a", b"x" * (4 * MIB))
    assert tables.peek("a") is not None
    tables.put("b", numbers(4))
    assert answers.peek("a") is None
    assert tables.peek("a") is not None
    assert tables.get("c", lambda: numbers(11)).values.size, "it is made, and not remembered"
    assert tables.peek("c") is None
    assert tables.peek("b") is not None, "and drives nothing out"
    for k in range(100):
        answers.put(str(k), b"x" * MIB)
        assert memory.held <= 10 * MIB
    tables.put("b", numbers(1))
    tables.put("b", numbers(2))
    memory.keep_within(3 * MIB)
    assert memory.held == size_of(tables.peek("b"))
