"""What the verdict on each question rests on (methods.md, section 6: Residuals and checks)."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from types import MappingProxyType
from typing import Any

import numpy as np

from hourglass.analysis.catalogue.time_functions import TIME_FUNCTIONS
from hourglass.analysis.check.checked import Checked
from hourglass.analysis.check.courses import Course, course_of, course_times
from hourglass.analysis.model.terms.forms import Term
from hourglass.cohort.table import NumberColumn
from hourglass.core.arrays import FloatArray
from hourglass.core.comparison.chi_squared import Test, no_test
from hourglass.core.errors import NotEstimableError
from hourglass.core.regression.added import beside_the_model
from hourglass.core.regression.concordance import Concordance
from hourglass.core.regression.proportionality import ProportionalityTest, proportionality_test
from hourglass.core.regression.terms import cubic_columns, sample_knots

PROPORTIONAL_HAZARDS = "proportional hazards"
FUNCTIONAL_FORM = "functional form"
OUTLIERS = "outliers"
INFLUENCE = "influence"
OVERALL_FIT = "overall fit"
FAR, VERY_FAR = 3.0, 4.5
USUAL = 0.0027
"""The share of deviance residuals beyond ±3 where they are normal."""


@dataclass(frozen=True, slots=True)
class OverTimeNumbers:
    """Whether each coefficient stays the same, and the course of each that is not left out."""

    tested: ProportionalityTest
    courses: tuple[Course, ...]


def over_time_numbers(checked: Checked) -> OverTimeNumbers:
    """Test and smooth every ratio along the function of time.

    Raises:
        NotEstimableError: where that is not defined.
    """
    fitted, coded = checked.fitted, checked.fitted.design
    function = TIME_FUNCTIONS[checked.statement.time_function].method
    tested = proportionality_test(coded.data, coded.x, fitted.plain, function)
    times = course_times(checked.residuals, tested)
    courses = tuple(
        course_of(fitted, checked.residuals, times, c, column.label, checked.form.confidence)
        for c, column in enumerate(coded.columns)
        if fitted.plain.status[c] != "aliased"
    )
    return OverTimeNumbers(tested, courses)


@dataclass(frozen=True, slots=True)
class Straight:
    """A number of the model in a straight line: its place, and the test of a spline against it."""

    place: int
    test: Test


def is_straight(term: Term) -> bool:
    """Whether a term is a number, or its logarithm, with one ratio."""
    return term.straight and term.changing is None


def bends(checked: Checked) -> tuple[Straight, ...]:
    """The numbers that the model takes in a straight line, each with the bend of a spline of three knots.

    The bends are tested at the estimates of the model as it is: one evaluation for all of them.
    """
    coded = checked.fitted.design
    places = [k for k, term in enumerate(coded.stated_terms) if is_straight(term)]
    columns, found = [], dict[int, Test]()
    for place in places:
        try:
            columns.append(_bend(checked, coded.stated_terms[place].column))
        except NotEstimableError as why:
            found[place] = no_test(str(why))
    there = [place for place in places if place not in found]
    if there:
        added = np.column_stack(columns)
        tests = beside_the_model(coded.data, coded.x, checked.fitted.plain, added)
        found |= dict(zip(there, tests, strict=True))
    return tuple(Straight(place, found[place]) for place in places)


def _bend(checked: Checked, name: str) -> FloatArray:
    """(n,) what a restricted cubic spline of three knots has beyond a straight line, in the fitted rows.

    Raises:
        NotEstimableError: with too few values for three knots.
    """
    column = checked.cohort.table.column(name)
    assert isinstance(column, NumberColumn)
    coded = checked.fitted.design
    rows = coded.place if coded.over_time is None else np.unique(coded.place)
    knots = sample_knots(column.values[rows], checked.cohort.follow_up.count[rows], 3)
    return np.asarray(cubic_columns(column.values[coded.place], knots)[:, 1])


@dataclass(frozen=True, slots=True)
class MissedNumbers:
    """Subjects whose deviance residual lies beyond ±3, how many would be expected to, and whether any lies
    very far out; ``known`` is False where no residual is defined."""

    beyond: float
    expected: float
    any_very_far: bool
    known: bool


def missed_numbers(checked: Checked) -> MissedNumbers:
    """How many subjects the model misses."""
    deviance, copies = checked.by_subject.deviance, checked.by_subject.copies
    far = distance(deviance)
    return MissedNumbers(
        beyond=float(copies[far > FAR].sum()),
        expected=USUAL * float(copies.sum()),
        any_very_far=bool((far > VERY_FAR).any()),
        known=bool(np.isfinite(deviance).any()),
    )


def distance(deviance: FloatArray) -> FloatArray:
    """(m,) how far residuals lie from 0; 0 where one is not defined."""
    return np.nan_to_num(np.abs(deviance), nan=0.0)


def largest_move(checked: Checked) -> float:
    """The most standard errors by which one subject alone moves a coefficient."""
    return float(np.abs(checked.alone / checked.in_errors).max(initial=0.0))


def ranking(checked: Checked) -> Concordance:
    """How well the model ranks the rows that it was fitted to."""
    return checked.fitted.concordance()


@dataclass(frozen=True, slots=True)
class Weighed:
    """What a question's verdict rests on, as it is computed.

    ``needed`` is set where there is nothing to check without it; else what is refused is the verdict
    of its own question alone.
    """

    of: Callable[[Checked], Any]
    needed: bool = False


WEIGHED: Mapping[str, Weighed] = MappingProxyType(
    {
        PROPORTIONAL_HAZARDS: Weighed(over_time_numbers, needed=True),
        FUNCTIONAL_FORM: Weighed(bends),
        OUTLIERS: Weighed(missed_numbers),
        INFLUENCE: Weighed(largest_move),
        OVERALL_FIT: Weighed(ranking),
    }
)
"""By the key of the question, in the order in which they are shown: a statement may name these."""
