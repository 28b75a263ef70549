"""Carrying steps over to a data extract of the same study: rows are found again by who they are."""

import hashlib
from collections.abc import Sequence

from hourglass.cohort.steps.apply import Step, apply_steps
from hourglass.cohort.steps.cells import CorrectCell, SwapCells
from hourglass.cohort.steps.document import PlacedStep
from hourglass.cohort.steps.rows import SetAside
from hourglass.cohort.steps.step import BrokenStepError
from hourglass.cohort.table import Table
from hourglass.cohort.words import grouped

RowStep = SetAside | SwapCells | CorrectCell
"""Steps that name rows by their number in the file."""


def rows_of(step: RowStep) -> tuple[int, ...]:
    """The numbers of the rows that a step names."""
    return (step.row,) if isinstance(step, CorrectCell) else step.rows


def refuse_rows_gone(step: Step, table: Table) -> None:
    """Refuse a step that names rows which the table it is taken on does not have.

    Raises:
        BrokenStepError: with the first such row.
    """
    if not isinstance(step, RowStep):
        return
    gone = sorted(set(rows_of(step)) - set(table.numbers[table.positions(rows_of(step))].tolist()))
    if gone:
        others = f" and {grouped(len(gone) - 1)} more of the rows named" if len(gone) > 1 else ""
        raise BrokenStepError(
            f"row {grouped(gone[0])}{others} cannot be found in the table as the steps before leave it"
        )


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
    """The steps with row numbers of the new data extract, and sentences on what could not be found again.

    Both tables are taken through the steps side by side, so that a step finds its rows as they
    were when it was taken.
    """
    carried, lost = [], []
    for placed in steps:
        step = placed.step
        if isinstance(step, RowStep):
            step, missing = found_again(step, known_by(step, old, subject), new, subject)
            if missing:
                rows = "1 row" if missing == 1 else f"{grouped(missing)} rows"
                lost.append(
                    f"“{placed.step.named()}” named {rows} that the new data extract does not have."
                )
        carried.append(placed.model_copy(update={"id": 0, "step": step}))
        if placed.active:
            old = apply_steps(old, [placed.step])[0]
            new = apply_steps(new, [step])[0]
    return carried, lost


def known_by(step: RowStep, table: Table, subject: str | None) -> tuple[str, ...]:
    """What each row that a step names is known by, hashed: it is kept where the data are not."""
    at = table.positions(rows_of(step))
    if subject is None:
        keys = row_keys(table.take(at), subject)
    else:
        every = row_keys(table, subject)
        keys = [every[k] for k in at]
    return tuple(_hashed(key) for key in keys)


def found_again(
    step: RowStep, keys: Sequence[str], table: Table, subject: str | None
) -> tuple[RowStep, int]:
    """The step with the numbers of the rows known by ``keys`` in another table, and how many are missing."""
    wanted = set(keys)
    place = {
        hashed: int(n)
        for key, n in zip(row_keys(table, subject), table.numbers, strict=True)
        if (hashed := _hashed(key)) in wanted
    }
    found = tuple(place[key] for key in keys if key in place)
    missing = len(keys) - len(found)
    if isinstance(step, CorrectCell):
        return step.model_copy(update={"row": found[0] if found else 0}), missing
    return step.model_copy(update={"rows": found}), missing


def _hashed(key: str) -> str:
    return hashlib.sha256(key.encode()).hexdigest()[:16]
