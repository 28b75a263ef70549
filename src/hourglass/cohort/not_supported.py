"""What a table may hold that no method here can use: fractional weights, and events known to lie
between two inspections. It is recognised and reported, not forced into counts or dates."""

import re
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from hourglass.cohort.derive import Blocker
from hourglass.cohort.statement import BetweenDates, Duration, FollowUpStatement
from hourglass.cohort.table import DateColumn, NumberColumn, Table

WEIGHT = re.compile(
    r"^(sw|wt|wgt|weights?|case_?weights?)$|samp.*w(eigh)?t|(iptw|ipcw|ipw)"
    r"|(design|survey|stabili[sz]ed|inverse|propensity).*w(eigh)?t"
)
"""Names of weights of rows, not of bodies."""
BEFORE = re.compile(
    r"(last|latest).*(neg|free|clear|clean|intact|pass|good|without)|^(left|lower)$"
)
AFTER = re.compile(
    r"(first|earliest).*(pos|fail|detect|found|abnormal|bad|seen_with)|^(right|upper)$"
)
WHY_INSPECTIONS = (
    "The event happened at some time between the two, nobody knows when. The methods here need the time "
    "of each event: the later date would make all times too long, a middle would pretend to know. Bring "
    "the date of the event itself if there is one, or ask at fixed visits whether it had happened."
)
WHY_WEIGHTS = (
    "A count says how many identical subjects a row stands for. Fractional weights say how much a row "
    "counts for others, and intervals and tests would need other formulas than the methods here have. "
    "Leave them out, and say in the report that the analysis is unweighted."
)


def inspections(table: Table) -> tuple[str, str] | None:
    """The last inspection without the event and the first with it, if a table has such columns."""
    for kind in (DateColumn, NumberColumn):
        of_kind = [c for c in table.columns if isinstance(c, kind)]
        before = [c for c in of_kind if BEFORE.search(c.name.lower())]
        after = [c for c in of_kind if AFTER.search(c.name.lower())]
        for a in before:
            for b in after:
                x, y = (c.days if isinstance(c, DateColumn) else c.values for c in (a, b))
                both = np.isfinite(x) & np.isfinite(y)
                if both.sum() >= 3 and (x[both] <= y[both]).mean() > 0.9:
                    return a.name, b.name
    return None


def is_weight(column: NumberColumn) -> bool:
    """Whether a column holds fractional weights of rows, by its values and its name."""
    if not WEIGHT.search(column.name.strip().lower()):
        return False
    known = column.values[~column.missing]
    return _fractional(known) and not (known < 0).any() and float(np.median(known)) < 20


def unsupported(table: Table, statement: FollowUpStatement) -> Iterator[Blocker]:
    """Why a statement cannot be carried out: it takes such columns for something else."""
    if statement.count is not None and table.has(statement.count):
        column = table.column(statement.count)
        if isinstance(column, NumberColumn) and _fractional(column.values[~column.missing]):
            yield Blocker(
                f"{column.name} holds fractional weights, not counts. {WHY_WEIGHTS}", "count"
            )
    pair = inspections(table)
    clock = statement.clock
    used = {
        name
        for name in (
            (clock.start, clock.end)
            if isinstance(clock, BetweenDates)
            else (clock.column,)
            if isinstance(clock, Duration)
            else ()
        )
        if name
    }
    if pair is not None and (
        used == set(pair) or (isinstance(clock, Duration) and used & set(pair))
    ):
        yield Blocker(
            f"{pair[0]} and {pair[1]} are inspections before and after the event. {WHY_INSPECTIONS}",
            "end" if statement.dated else "duration",
        )


def _fractional(known: NDArray[np.float64]) -> bool:
    return bool(known.size > 4 and (known != np.floor(known)).mean() > 0.2)
