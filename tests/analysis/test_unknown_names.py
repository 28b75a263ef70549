"""A statement that newly names a column or a level which is not there is refused."""

import pytest

from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.model.statement import ByColumn, ModelStatement, Profile, ProfileValue
from hourglass.analysis.model.terms.category import CategoryTerm
from hourglass.analysis.model.terms.number import NumberTerm
from hourglass.analysis.unknown_names import (
    NoSuchLevelError,
    refuse_unknown_columns,
    refuse_unknown_names,
)
from hourglass.cohort.statement import Duration, FirstOf, FollowUpStatement
from hourglass.cohort.table import NoSuchColumnError
from making import table

ROWS = table(
    "t,s,age,arm,dose\n"
    + "".join(f"{k},{k % 2},{40 + k},{'ab'[k % 2]},{k % 3}\n" for k in range(1, 20))
)
GOOD = [
    EstimateStatement(by="arm", reference="b"),
    EstimateStatement(by="age", thresholds=(45,), reference="age > 45"),
    CompareStatement(by="arm", reference="a", contrast="b", within=("dose",)),
    CompareStatement(by="arm", crossed="dose", contrast="a, 1"),
    ModelStatement(
        terms=(CategoryTerm(column="arm", reference="b"), NumberTerm(column="age")),
        profiles=(
            Profile(
                values=(
                    ProfileValue(column="arm", value="a"),
                    ProfileValue(column="age", value="12.5"),
                )
            ),
        ),
    ),
    CheckStatement(variable="age"),
]


@pytest.mark.parametrize("statement", GOOD)
def test_what_is_there_may_be_named(statement):
    refuse_unknown_names(statement, None, ROWS)


@pytest.mark.parametrize(
    "statement",
    [
        EstimateStatement(by="gone"),
        EstimateStatement(by="arm", crossed="gone"),
        CompareStatement(within=("arm", "gone")),
        ModelStatement(terms=(NumberTerm(column="gone"),)),
        ModelStatement(strata=("gone",)),
        ModelStatement(robust=ByColumn(column="gone")),
        ModelStatement(rows_with=("gone",)),
        ModelStatement(subgroups=("gone",)),
        ModelStatement(adjusted="gone"),
        ModelStatement(candidates=("gone",)),
        ModelStatement(profiles=(Profile(values=(ProfileValue(column="gone", value="1"),)),)),
        CheckStatement(variable="gone"),
        CheckStatement(against="gone"),
        CheckStatement(together="gone"),
    ],
)
def test_a_column_that_is_gone_is_refused_unless_it_was_named_before(statement):
    with pytest.raises(NoSuchColumnError, match="gone"):
        refuse_unknown_names(statement, None, ROWS)
    refuse_unknown_names(statement, statement, ROWS)


@pytest.mark.parametrize(
    "statement",
    [
        EstimateStatement(by="arm", reference="c"),
        EstimateStatement(by="dose", reference="7"),
        CompareStatement(by="arm", contrast="c"),
        ModelStatement(terms=(CategoryTerm(column="arm", reference="c"),)),
        ModelStatement(
            terms=(CategoryTerm(column="arm"),),
            profiles=(Profile(values=(ProfileValue(column="arm", value="c"),)),),
        ),
    ],
)
def test_a_level_that_is_gone_is_refused_unless_it_was_named_before(statement):
    with pytest.raises(NoSuchLevelError, match="there is no level"):
        refuse_unknown_names(statement, None, ROWS)
    refuse_unknown_names(statement, statement, ROWS)


@pytest.mark.parametrize(
    "changed",
    [
        {"outcome": "gone"},
        {"event_date": "gone"},
        {"subject": "gone"},
        {"late_entry": "gone"},
        {"count": "gone"},
        {"clock": Duration(column="gone")},
        {"clock": FirstOf(last_contact="gone")},
    ],
)
def test_a_follow_up_statement_names_columns_that_are_there(changed):
    before = FollowUpStatement(clock=Duration(column="t"), outcome="s")
    refuse_unknown_columns(before, FollowUpStatement(), ROWS)
    statement = before.model_copy(update=changed)
    with pytest.raises(NoSuchColumnError, match="gone"):
        refuse_unknown_columns(statement, before, ROWS)
    refuse_unknown_columns(statement, statement, ROWS)
