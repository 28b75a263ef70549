"""Findings about subjects: entered twice, rows repeated whole, periods that overlap or leave gaps."""

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from hourglass.cohort.derive import NO_LATE_ENTRY, Derivation
from hourglass.cohort.findings.entered_twice import entered_twice
from hourglass.cohort.findings.finding import (
    CORRECT,
    KEEP,
    Choice,
    Finding,
    FindingContext,
    count,
    set_aside,
)
from hourglass.cohort.findings.times import clock_columns
from hourglass.cohort.steps.rows import SetAside
from hourglass.cohort.steps.step import keys_of
from hourglass.cohort.table import DateColumn, Table
from hourglass.cohort.words import grouped

NARROW = 4
"""Rows of a table with fewer columns are alike by chance."""


def subject_findings(context: FindingContext) -> Iterator[Finding]:
    """What is odd about who the rows belong to."""
    subject = context.statement.subject
    whole = list(_whole_rows(context))
    yield from whole
    if subject is None or not context.table.has(subject):
        return
    if context.statement.several_rows:
        if context.derived is not None:
            yield from _periods(context, context.derived, subject)
        return
    if not isinstance(context.table.column(subject), DateColumn):
        again = np.concatenate([np.empty(0, dtype=np.int64), *(f.rows for f in whole)])
        yield from entered_twice(context, subject, again)


def _whole_rows(context: FindingContext) -> Iterator[Finding]:
    """Rows that repeat another in every cell."""
    table = context.table
    names = [c.name for c in table.columns]
    if len(names) < 2 or context.statement.count is not None:
        return
    key = np.zeros(table.size, dtype=np.int64)
    for name in names:
        key = np.unique(key * 2_000_003 + keys_of(table, [name]) + 1, return_inverse=True)[1]
        if key.max(initial=0) == table.size - 1:
            return
    _, first = np.unique(key, return_index=True)
    if len(names) < NARROW and table.size - first.size <= _by_chance(table.take(first), table.size):
        return
    again = np.ones(table.size, dtype=bool)
    again[first] = False
    rows = context.numbers(again)
    yield Finding(
        key="repeated rows",
        title=f"{grouped(rows.size)} {'row repeats' if rows.size == 1 else 'rows repeat'} an earlier row "
        "in every cell",
        why="A data extract that was joined or appended twice looks like this. Rows may also be alike by "
        "chance where a table has few columns.",
        rows=rows,
        columns=tuple(names[:6]),
        choices=(set_aside(rows, "repeats an earlier row"), KEEP),
    )


def _by_chance(once: Table, size: int) -> float:
    """How many of ``size`` rows may be alike by chance, going by rows that are not.

    The columns are taken for independent: two rows are alike with the product of their chances.
    """
    alike = 1.0
    for column in once.columns:
        n = np.bincount(keys_of(once, [column.name]) + 1).astype(float)
        alike *= float((n * (n - 1)).sum()) / max(once.size * (once.size - 1), 1)
    return 3 * alike * size * (size - 1) / 2


def _periods(context: FindingContext, derived: Derivation, subject: str) -> Iterator[Finding]:
    """(start, stop] rows of one subject that overlap, or leave a gap between them."""
    keys = keys_of(context.table, [subject])
    entry = np.where(derived.entry > NO_LATE_ENTRY, derived.entry, 0.0)
    usable = np.flatnonzero(
        (keys >= 0) & np.isfinite(derived.time) & np.isfinite(entry) & (entry < derived.time)
    )
    order = usable[np.lexsort((derived.time[usable], entry[usable], keys[usable]))]
    same = keys[order][1:] == keys[order][:-1]
    before, after = derived.time[order][:-1], entry[order][1:]
    slack = 1e-9 * max(float(np.abs(derived.time[usable]).max(initial=0.0)), 1e-300)
    overlapping, gapped = same & (after < before - slack), same & (after > before + slack)
    columns = (subject, context.statement.late_entry or "", *clock_columns(context.statement))
    shown = tuple(name for name in columns if name)
    kinds = [
        (
            "overlapping rows",
            overlapping,
            ("overlap", "overlaps"),
            "an earlier row of the same subject",
            "The subject would be at risk twice at the same time.",
        ),
        (
            "gaps between rows",
            gapped,
            ("begin", "begins"),
            "after a gap since the subject's row before",
            "Nobody is at risk in a gap: events there would not be seen. Leave it only if the "
            "subject was truly not under observation.",
        ),
    ]
    for key, hit, (several, one), what, why in kinds:
        if not hit.any():
            continue
        rows = np.sort(context.table.numbers[order[1:][hit]])
        away = set_aside(rows, key, "Set these rows aside")
        whole = np.isin(keys, keys[order[1:][hit]]) & (keys >= 0)
        subjects = Choice(
            name="set subjects aside",
            label="Set their subjects aside whole",
            done="their subjects set aside whole",
            steps=(SetAside(rows=tuple(map(int, context.numbers(whole))), why=key),),
        )
        choices = (away, subjects, *((KEEP,) if hit is gapped else ()), CORRECT)
        title = f"{count(rows)} {one if rows.size == 1 else several} {what}"
        yield Finding(key=key, title=title, why=why, rows=rows, columns=shown, choices=choices)
    yield from _event_before_last(context, derived, order, same, shown)
    yield from _several_events(context, keys, shown)


def _several_events(
    context: FindingContext, keys: NDArray[np.int64], shown: tuple[str, ...]
) -> Iterator[Finding]:
    """Subjects with the event in more than one row."""
    events = context.events()
    if events is None:
        return
    own = np.bincount(keys[events & (keys >= 0)], minlength=int(keys.max(initial=0)) + 1)
    several = np.flatnonzero(own > 1)
    if several.size == 0:
        return
    hit = events & np.isin(keys, several)
    yield Finding(
        key="several events",
        title=f"{grouped(several.size)} {'subject has' if several.size == 1 else 'subjects have'} the event "
        f"more than once, in {count(hit)}",
        why="Analyses of a time to the first event count one for each subject. Set aside what comes after "
        "it, or say that the later ones are something else.",
        rows=context.numbers(hit),
        columns=(*shown, context.statement.outcome or ""),
        choices=(KEEP, CORRECT),
    )


def _event_before_last(
    context: FindingContext,
    derived: Derivation,
    order: NDArray[np.int64],
    same: NDArray[np.bool_],
    shown: tuple[str, ...],
) -> Iterator[Finding]:
    events = context.events()
    if events is None:
        return
    hit = events[order][:-1] & same
    if not hit.any():
        return
    rows = np.sort(context.table.numbers[order[:-1][hit]])
    yield Finding(
        key="followed after the event",
        title=f"{grouped(rows.size)} rows have the event and the subject goes on in a later row",
        why="After the event a subject is no longer at risk of it. An event repeated on every row of "
        "its subject would be counted several times.",
        rows=rows,
        columns=(*shown, context.statement.outcome or ""),
        choices=(KEEP, CORRECT),
    )
