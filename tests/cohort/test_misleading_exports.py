"""Exports whose first reading would mislead: what each holds after few decisions, and nothing before."""

import numpy as np
import pytest

from cohort.test_awkward_exports import CENSORED, EVENT, MAX_DECISIONS, WORDS, taken
from hourglass.cohort.followup import Cohort, form_cohort
from hourglass.cohort.reading.read import read
from misleading_exports import EXPORTS

DAYS, EVERYONE = {"unit": "days"}, {"ended": "everyone"}
DIGITS = {"1": EVENT, "0": CENSORED}
DECISIONS = {
    "stays_beside_the_time": [DAYS],
    "points_for_thousands": [("numbers as text", "read ,.")],
    "visits_in_rows": ["the last visit", DAYS],
    "visits_in_columns": ["the last visit", DAYS],
    "event_by_its_date": [DAYS],
    "long_identifiers": [],
    "durations": [],
    "declared_dates": [DAYS],
    "merged_groups": [],
    "several_dates_in_a_cell": [("several dates", "take last"), DAYS],
    "short_years_first": [
        ("either order: planted", "read year first"),
        ("either order: last seen", "read year first"),
        DAYS,
    ],
    "still_going": [DAYS, ("no end", "still followed")],
    "unquoted_decimal_commas": [("mended: parted numbers", "join days")],
    "two_outcomes": ["one of several outcomes: os_days and os_status"],
    "a_group_and_no_outcome": [EVERYONE],
}
MEANINGS = {"two_outcomes": DIGITS, "still_going": DIGITS}
IN_UNIT = {"unquoted_decimal_commas": 10.0}


def test_every_export_is_tried():
    assert set(DECISIONS) == set(EXPORTS)
    assert max(map(len, DECISIONS.values())) <= MAX_DECISIONS


@pytest.mark.parametrize("seed", [3, 20])
@pytest.mark.parametrize("name", EXPORTS)
def test_a_misleading_export_holds_the_truth_after_few_decisions(name, seed):
    made = EXPORTS[name](seed)
    meanings = MEANINGS.get(name, WORDS)
    table, statement = taken(read(made.data).table, DECISIONS[name])
    cohort = form_cohort(table, statement.model_copy(update={"meanings": meanings}))
    assert isinstance(cohort, Cohort), cohort
    times = np.round(cohort.follow_up.exit * IN_UNIT.get(name, 1.0), 6)
    group = cohort.table.column("colour")
    groups = [group.cell(k) for k in range(cohort.table.size)]
    found = sorted(zip(times, cohort.follow_up.event(), groups, strict=True))
    assert found == sorted(zip(made.truth.days, made.truth.event, made.truth.group, strict=True))


@pytest.mark.parametrize("name", [name for name, made in DECISIONS.items() if made])
def test_nothing_is_analysed_before_these_decisions_that_is_not_the_truth(name):
    made = EXPORTS[name](3)
    table, statement = taken(read(made.data).table, [])
    cohort = form_cohort(
        table, statement.model_copy(update={"meanings": MEANINGS.get(name, WORDS)})
    )
    if isinstance(cohort, Cohort):
        assert statement.unit == "months", "only the unit of dates may still be another"
        days = np.sort(cohort.follow_up.exit * 30.4375)
        assert np.allclose(days, np.sort(made.truth.days))
