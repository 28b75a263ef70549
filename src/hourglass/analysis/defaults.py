"""The sensible statements a study starts from, once its cohort can be formed."""

import math

from hourglass.analysis.groups import categories
from hourglass.analysis.model_sentence import new_term
from hourglass.analysis.statements import CompareStatement, ModelStatement
from hourglass.cohort.followup import Cohort
from hourglass.cohort.statement import Unit

STEPS: dict[Unit, tuple[float, ...]] = {
    "hours": (1, 6, 12, 24, 100, 200, 250, 500, 1000, 5000, 10000),
    "days": (1, 7, 30, 90, 180, 365),
    "weeks": (1, 4, 13, 26, 52),
    "months": (1, 3, 6, 12, 24, 60),
    "years": (0.25, 0.5, 1, 2, 5, 10),
}


def first_comparison(cohort: Cohort) -> CompareStatement:
    """By the first category there is."""
    named = categories(cohort)
    return CompareStatement(by=named[0] if named else None)


def first_model(cohort: Cohort) -> ModelStatement:
    """By the first category there is, alone."""
    named = categories(cohort)
    term = new_term(cohort, cohort.table.column(named[0])) if named else None
    return ModelStatement(terms=() if term is None else (term,))


def round_times(cohort: Cohort) -> tuple[float, ...]:
    """Three or four round times within the follow-up."""
    last = cohort.follow_up.end
    steps = STEPS[cohort.statement.unit]
    step = next((s for s in steps if last / s <= 6), None)
    if step is None:
        step = 10.0 ** math.floor(math.log10(last))
    if last < steps[0]:
        step = last / 4
    return tuple(step * k for k in range(1, 7) if step * k <= last)[:4]
