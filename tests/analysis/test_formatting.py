"""How numbers are shown: the cases that the client is put to as well (methods.md, section 10)."""

import json
from pathlib import Path

import numpy as np
import pytest

from hourglass.analysis.shared import formatting
from hourglass.cohort.time_decimals import TimeDecimals, time_decimals

SHARED = json.loads((Path(__file__).parents[1] / "wording_cases.json").read_text("utf-8"))


def borne(times, longest):
    found = time_decimals(np.array(times, dtype=float), longest)
    return [found.data, found.computed]


def with_decimals(word):
    return lambda value, decimals: word(value, TimeDecimals(decimals, decimals))


WORDERS = {
    **{
        name: with_decimals(getattr(formatting, name))
        for name in ("time", "computed_time", "times_apart")
    },
    "ratios": formatting.ratios,
    "coefficient": formatting.coefficient,
    "time_decimals": borne,
}
"""Of several values; the others are of one."""


@pytest.mark.parametrize(
    ("name", "value", "words"), [(name, *case) for name, cases in SHARED.items() for case in cases]
)
def test_a_number_is_shown_as_agreed(name, value, words):
    shown = WORDERS[name](*value) if name in WORDERS else getattr(formatting, name)(value)
    assert shown == words


def test_data_times_and_computed_ones_have_decimals_of_their_own():
    decimals = TimeDecimals(data=1, computed=2)
    assert formatting.time(12.25, decimals) == "12.3"
    assert formatting.computed_time(12.25, decimals) == "12.25"
    assert formatting.person_time(999.96, decimals) == "1\u202f000.0"
    assert formatting.person_time(1234.5, decimals) == "1\u202f235"


def test_counts_and_levels_are_words():
    assert formatting.count(1, "rows") == "1 row"
    assert formatting.count(1234, "rows") == "1\u202f234 rows"
    assert formatting.listed(["a", "b", "c"]) == "a, b and c"
    assert formatting.level_percent(0.95) == "95%"
