"""What a step would do, before it is taken."""

import numpy as np

from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.cohort.derive import Derivation, derive
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.apply import Step, apply_steps
from hourglass.cohort.table import Column, Table, TextColumn
from hourglass.core.progress import ProgressCallback, no_progress

MAX_BANDS = 60
MAX_ROWS = 6


class Band(FrozenModel):
    """A level with its rows and events; ``events`` is null while codes have no meaning."""

    label: str
    rows: int
    events: int | None


class StepPreview(FrozenModel):
    """The step's name, what it would do, and the column it would make."""

    name: str
    rows_set_aside: int
    cells_changed: int
    made: str
    note: str
    broken: str
    column: str
    bands: list[Band]
    before: list[str]
    after: list[str]


def preview_step(
    table: Table, step: Step, statement: FollowUpStatement, progress: ProgressCallback = no_progress
) -> StepPreview:
    """Try a step on the table as the steps before it have left it."""
    after, (effect,) = apply_steps(table, [step], progress=progress)
    touched = _touched(table, after)
    bands: list[Band] = []
    shown: tuple[list[str], list[str]] = ([], [])
    if touched is not None:
        bands = _bands(after, touched, statement)
        shown = _cells(table, after, touched)
    return StepPreview(
        name=effect.name,
        rows_set_aside=effect.rows_set_aside,
        cells_changed=effect.cells_changed,
        made=effect.made,
        note=effect.note,
        broken=effect.broken,
        column="" if touched is None else touched.name,
        bands=bands,
        before=shown[0],
        after=shown[1],
    )


def _touched(before: Table, after: Table) -> Column | None:
    """The column that is new or changed."""
    if before.size != after.size:
        return None
    for column in after.columns:
        if not before.has(column.name) or before.column(column.name) is not column:
            return column
    return None


def _bands(table: Table, column: Column, statement: FollowUpStatement) -> list[Band]:
    if not isinstance(column, TextColumn) or len(column.levels) > MAX_BANDS:
        return []
    derived = derive(table, statement)
    events = None
    if isinstance(derived, Derivation) and None not in derived.meanings:
        count = np.where(np.isfinite(derived.count), derived.count, 0)
        events = derived.means("event") * count
    held = column.codes >= 0
    rows = np.bincount(column.codes[held], minlength=len(column.levels))
    had = (
        None
        if events is None
        else np.bincount(column.codes[held], weights=events[held], minlength=len(column.levels))
    )
    return [
        Band(label=level, rows=int(rows[k]), events=None if had is None else int(had[k]))
        for k, level in enumerate(column.levels)
    ]


def _cells(before: Table, after: Table, column: Column) -> tuple[list[str], list[str]]:
    """A few cells before and after, those that differ first."""
    old = before.column(column.name) if before.has(column.name) else None
    sample = range(min(after.size, 2000))
    now = [column.cell(k) for k in sample]
    was = ["" if old is None else old.cell(k) for k in sample]
    order = sorted(sample, key=lambda k: was[k] == now[k])[:MAX_ROWS]
    return [was[k] for k in order], [now[k] for k in order]
