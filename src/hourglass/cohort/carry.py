"""Carrying steps over to an export of the same study: rows are found again by who they are."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from hourglass.cohort.steps.apply import Step, apply_steps
from hourglass.cohort.steps.cells import CorrectCell, SwapCells
from hourglass.cohort.steps.plan import PlacedStep
from hourglass.cohort.steps.rows import SetAside
from hourglass.cohort.table import Table
from hourglass.cohort.words import grouped

RowStep = SetAside | SwapCells | CorrectCell
"""Steps that name rows by their number in the file."""


def names_rows(step: Step) -> bool:
    """Whether a step names rows by their number, which are other rows in another file."""
    return isinstance(step, RowStep)


def row_keys(table: Table, subject: str | None) -> list[str]:
    """What a row is known by: its subject and which of the subject's rows it is, or all its cells."""
    known = subject is not None and table.has(subject)
    names = [table.column(subject or "")] if known else list(table.columns)
    texts = ["\x1f".join(c.cell(k) for c in names) for k in range(table.size)]
    seen: dict[str, int] = {}
    keys = []
    for text in texts:
        seen[text] = seen.get(text, 0) + 1
        keys.append(f"{text}\x1e{seen[text]}")
    return keys


def carry_over(
    steps: Sequence[PlacedStep], old: Table, new: Table, subject: str | None
) -> tuple[list[PlacedStep], list[str]]:
    """The steps with row numbers of the new export, and sentences on what could not be found again.

    Both tables are taken through the steps side by side, so that a step finds its rows as they
    were when it was taken.
    """
    carried, lost = [], []
    for placed in steps:
        step = placed.step
        if isinstance(step, RowStep):
            step, missing = _found_again(step, old, new, subject)
            if missing:
                rows = "1 row" if missing == 1 else f"{grouped(missing)} rows"
                lost.append(
                    f"“{placed.step.named()}” named {rows} that the new export does not have."
                )
        carried.append(placed.model_copy(update={"id": 0, "step": step}))
        if placed.active:
            old = apply_steps(old, [placed.step])[0]
            new = apply_steps(new, [step])[0]
    return carried, lost


def _found_again(step: RowStep, old: Table, new: Table, subject: str | None) -> tuple[Step, int]:
    wanted = (step.row,) if isinstance(step, CorrectCell) else step.rows
    at = old.positions(wanted)
    keys = (
        row_keys(old.take(at), subject)
        if at.size and subject is None
        else _keys_at(old, at, subject)
    )
    place = {key: int(n) for key, n in zip(row_keys(new, subject), new.numbers, strict=True)}
    found = tuple(place[key] for key in keys if key in place)
    missing = int(at.size) - len(found)
    if isinstance(step, CorrectCell):
        return step.model_copy(update={"row": found[0] if found else 0}), missing
    return step.model_copy(update={"rows": found}), missing


def _keys_at(table: Table, at: NDArray[np.int64], subject: str | None) -> list[str]:
    keys = row_keys(table, subject)
    return [keys[k] for k in at]
