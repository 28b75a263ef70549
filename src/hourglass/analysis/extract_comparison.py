"""A new data extract beside the one that it would replace: rows, findings and all stages' numbers."""

from collections.abc import Sequence

import numpy as np

from hourglass.analysis.extract_cells import (
    ChangedCell,
    GraverChange,
    changed_cells,
    losses,
    shown_key,
)
from hourglass.analysis.extract_numbers import (
    ExtractSide,
    HeadlinePair,
    NumberOnSides,
    OpenedStage,
    on_sides,
    sides_between,
)
from hourglass.analysis.renamed_columns import RenamedColumn, renamed_columns
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.cohort.carry import row_keys
from hourglass.cohort.findings.find import find
from hourglass.cohort.findings.finding import Finding
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.apply import made_by_steps
from hourglass.cohort.table import NoSuchColumnError
from hourglass.core.progress import ProgressCallback

MAX_ROWS_LISTED = 2_000


class ExtractComparison(FrozenModel):
    """What accepting the new data extract would change."""

    known_by: str
    rows_before: int
    rows_after: int
    new: int
    gone: int
    changed: int
    new_rows: list[str]
    gone_rows: list[str]
    graver: list[GraverChange]
    changed_cells: list[ChangedCell]
    columns_new: list[str]
    columns_gone: list[str]
    findings_new: list[str]
    broken: list[str]
    not_found: list[str]
    renamed: list[RenamedColumn]
    headlines: list[HeadlinePair]
    sides: list[str]
    numbers: list[NumberOnSides]


def compare_extracts(
    before: ExtractSide,
    after: ExtractSide,
    statement: FollowUpStatement,
    stated: Sequence[OpenedStage],
    not_found: Sequence[str],
    progress: ProgressCallback,
) -> ExtractComparison:
    """Set two data extracts side by side."""
    progress("comparing the rows", 0.1)
    old, new = before.raw, after.raw
    subject = (
        statement.subject if old.has(statement.subject) and new.has(statement.subject) else None
    )
    old_keys, new_keys = row_keys(old, subject), row_keys(new, subject)
    places = {key: k for k, key in enumerate(old_keys)}
    fresh = [key for key in new_keys if key not in places]
    there = set(new_keys)
    gone = [key for key in old_keys if key not in there]
    pairs = [(places[key], k) for k, key in enumerate(new_keys) if key in places]
    was, now = np.array(pairs, dtype=np.int64).reshape(-1, 2).T
    cells, changed = changed_cells(old, new, was, now, new_keys)
    progress("looking for findings", 0.4)
    known = {f.key for f in _findings(before, statement)}
    found = [f.title for f in _findings(after, statement) if f.key not in known]
    sides = sides_between(before, after, was, now, changed > 0)
    computed = on_sides(sides, statement, stated, progress)
    return ExtractComparison(
        known_by=subject or "",
        rows_before=old.size,
        rows_after=new.size,
        new=len(fresh),
        gone=len(gone),
        changed=changed,
        new_rows=[shown_key(key) for key in fresh[:MAX_ROWS_LISTED]],
        gone_rows=[shown_key(key) for key in gone[:MAX_ROWS_LISTED]],
        graver=losses(old, new, was, now, new_keys, statement),
        changed_cells=cells,
        columns_new=[c.name for c in new.columns if not old.has(c.name)],
        columns_gone=[c.name for c in old.columns if not new.has(c.name)],
        findings_new=found,
        broken=[f"{e.name}: {e.broken}" for e in after.effects if e.broken],
        not_found=list(not_found),
        renamed=renamed_columns(old, new, was, now),
        headlines=computed.headlines,
        sides=computed.sides,
        numbers=computed.numbers,
    )


def _findings(extract: ExtractSide, statement: FollowUpStatement) -> Sequence[Finding]:
    made = made_by_steps(extract.raw, extract.after, extract.effects)
    try:
        return find(extract.after, statement, made=made, raw=extract.raw)
    except NoSuchColumnError:
        return ()
