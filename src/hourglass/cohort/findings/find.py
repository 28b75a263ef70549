"""All findings in a table as the steps so far have left it."""

import os
from collections import defaultdict
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from datetime import date

from hourglass.cohort.derive import Derivation, Derived, derive
from hourglass.cohort.findings.cells import cell_findings
from hourglass.cohort.findings.codes import code_findings
from hourglass.cohort.findings.columns import column_findings
from hourglass.cohort.findings.dates import date_findings
from hourglass.cohort.findings.definitions import definition_findings
from hourglass.cohort.findings.filled_once import filled_once
from hourglass.cohort.findings.finding import Finding, FindingContext
from hourglass.cohort.findings.levels import level_findings
from hourglass.cohort.findings.reading import apart_findings, reading_findings
from hourglass.cohort.findings.subjects import subject_findings
from hourglass.cohort.findings.times import time_findings
from hourglass.cohort.profile import ROWS_WITHOUT_THREADS, profile
from hourglass.cohort.reading.apart import still_apart
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.table import Table

COVERED_BY = {
    "repeats": {"tells the outcome", "tells the time"},
    "known late": {"tells the outcome"},
    "no events": {"tells the outcome"},
    "few numbers": {"tells the outcome"},
    "missing": {"known late", "filled once", "outcome in two columns"},
}
"""Kinds of findings about a column, and those that hold the same of it and more."""


def find(
    table: Table,
    statement: FollowUpStatement,
    today: date | None = None,
    made: frozenset[str] = frozenset(),
    raw: Table | None = None,
    known: Derived | None = None,
) -> tuple[Finding, ...]:
    """Find everything that is odd, the most serious first.

    Args:
        today: the day after which a date lies in the future; the day of the call when absent.
        made: columns that steps made of others, in which what is odd is odd by intention.
        raw: the table as it was read, which knows what was mended in it.
        known: what :func:`derive` makes of table and statement, where it is known already.
    """
    if table.size == 0:
        return ()
    apart = still_apart(table, () if raw is None else raw.mended)
    whole, derived = table, known
    if apart.size:  # what is odd about rows that are none is that they are there
        table, derived = table.without(map(int, apart)), None
    derived = derive(table, statement) if derived is None else derived
    context = FindingContext(
        table=table,
        statement=statement,
        derived=derived if isinstance(derived, Derivation) else None,
        today=today or date.today(),
        made=made,
        raw=raw,
    )
    profile(table)  # of all columns at once; what looks at them finds it
    return once_each(*apart_findings(whole, apart, raw), *_looked_for(context))


LOOKS: tuple[Callable[[FindingContext], Iterator[Finding]], ...] = (
    time_findings, date_findings, code_findings, subject_findings, definition_findings, cell_findings,
    reading_findings, column_findings, filled_once, level_findings,
)  # fmt: skip
"""What is looked for, in the order in which it is shown where two findings weigh alike."""


def _looked_for(context: FindingContext) -> Iterator[Finding]:
    """All findings in order; of many rows several things are looked for at a time."""
    if context.table.size < ROWS_WITHOUT_THREADS:
        for look in LOOKS:
            yield from look(context)
        return
    with ThreadPoolExecutor(os.cpu_count()) as threads:
        for found in threads.map(lambda look: list(look(context)), LOOKS):
            yield from found


def once_each(*found: Finding) -> tuple[Finding, ...]:
    """Findings without those that a graver one about the same column covers."""
    kinds = defaultdict[str, set[str]](set)
    for finding in found:
        kind, _, column = finding.key.partition(": ")
        kinds[column].add(kind)
    return tuple(f for f in found if not _covered(f, kinds))


def _covered(finding: Finding, kinds: dict[str, set[str]]) -> bool:
    kind, _, column = finding.key.partition(": ")
    return bool(kinds[column] & COVERED_BY.get(kind, set()))
