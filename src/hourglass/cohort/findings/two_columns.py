"""Findings about an outcome that stands in two columns: whether it ended in one, how in another."""

from collections.abc import Iterator

import numpy as np

from hourglass.cohort.derive import Derivation
from hourglass.cohort.findings.finding import KEEP, Choice, Finding, FindingContext, count
from hourglass.cohort.profile import profile_of
from hourglass.cohort.statement import BLANK
from hourglass.cohort.steps.filling import FirstKnown
from hourglass.cohort.table import DateColumn, NumberColumn
from hourglass.cohort.words import listed

SAME = 0.95
MAX_LEVELS, MIN_ROWS = 12, 8


def outcome_in_two_columns(context: FindingContext, derived: Derivation) -> Iterator[Finding]:
    """Columns that hold something with one code of the outcome only, and so separate its kinds."""
    outcome = context.statement.outcome
    codes = [code for code in derived.codes if code != BLANK]
    if outcome is None or len(codes) != 2:
        return
    for column in context.columns:
        if column.name in context.statement.spent or isinstance(column, DateColumn):
            continue
        if isinstance(column, NumberColumn) and column.decimals > 0:
            continue
        there = ~column.missing
        if not MIN_ROWS <= there.sum() < there.size:
            continue
        if not 2 <= profile_of(column).distinct <= MAX_LEVELS:
            continue
        with_code = np.bincount(derived.code_of[there], minlength=len(derived.codes))
        k = int(with_code.argmax())
        code, rows = derived.codes[k], int((derived.code_of == k).sum())
        if code == BLANK or with_code[k] < there.sum() or with_code[k] < SAME * rows:
            continue
        into = f"{outcome} and {column.name}"
        kinds = listed(
            list(dict.fromkeys(column.cell(int(j)) for j in np.flatnonzero(there)[:200])), 4
        )
        yield Finding(
            key=f"outcome in two columns: {column.name}",
            title=f"{column.name} is filled in {count(there)}, those in which {outcome} is {code}",
            why=f"It holds {kinds}. With {outcome} alone all of them are one event. Joined into one column "
            "each "
            "can be the event, or another that keeps it from happening.",
            rows=context.numbers(there),
            columns=(outcome, column.name),
            choices=(
                Choice(
                    name="join",
                    label=f"Join {outcome} and {column.name} into one outcome",
                    done=f"joined as {into}",
                    steps=(FirstKnown(columns=(column.name, outcome), into=into),),
                    outcome=into,
                ),
                KEEP,
            ),
        )
