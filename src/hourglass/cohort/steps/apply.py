"""Carrying steps out in order; one that does not fit carries a message, stays, and is passed over."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType
from typing import Annotated, TypeAlias

from pydantic import BeforeValidator, Field

from hourglass.cohort.steps.cells import (
    CorrectCell,
    FillMissing,
    GiveBack,
    MarkMissing,
    SetAsideMissing,
    SwapCells,
)
from hourglass.cohort.steps.earlier_names import with_names_of_today
from hourglass.cohort.steps.filling import FillDown, FirstKnown
from hourglass.cohort.steps.layouts import FirstBySubject, GatherRecords, StackGroups
from hourglass.cohort.steps.levels import LabelColumn, OrderLevels, ReadAsText, RespellLevels
from hourglass.cohort.steps.moved_dates import CenturyEarlier, WholeDays
from hourglass.cohort.steps.names import RenameColumn
from hourglass.cohort.steps.numbers import NewColumn, SplitNumber, TimeBetween, Transform
from hourglass.cohort.steps.parted_numbers import JoinPartedNumbers
from hourglass.cohort.steps.rows import SetAside, SetAsideRepeats, SetAsideWhere
from hourglass.cohort.steps.spread_counts import SpreadCounts
from hourglass.cohort.steps.step import BrokenStepError, Done, RowsLeftOut
from hourglass.cohort.steps.text import EditText
from hourglass.cohort.steps.types import ReadAsDates, ReadAsNumbers
from hourglass.cohort.steps.units import TakeUnitApart
from hourglass.cohort.steps.visits import KeepOneVisit, RowsBetweenVisits, StackVisits
from hourglass.cohort.steps.written_times import ReadColons, TakeEndsApart, TakeMarkApart
from hourglass.cohort.table import Column, NoSuchColumnError, Table
from hourglass.core.progress import CancelledError, ProgressCallback, no_progress

AnyStep: TypeAlias = Annotated[
    SetAside
    | SetAsideWhere
    | SetAsideRepeats
    | SetAsideMissing
    | SwapCells
    | CorrectCell
    | FillMissing
    | MarkMissing
    | GiveBack
    | RespellLevels
    | OrderLevels
    | LabelColumn
    | RenameColumn
    | ReadAsText
    | SplitNumber
    | Transform
    | TimeBetween
    | NewColumn
    | ReadAsNumbers
    | ReadAsDates
    | TakeUnitApart
    | EditText
    | TakeMarkApart
    | ReadColons
    | TakeEndsApart
    | CenturyEarlier
    | WholeDays
    | FillDown
    | FirstKnown
    | SpreadCounts
    | StackGroups
    | GatherRecords
    | FirstBySubject
    | RowsBetweenVisits
    | KeepOneVisit
    | StackVisits
    | JoinPartedNumbers,
    Field(discriminator="kind"),
]
Step: TypeAlias = Annotated[AnyStep, BeforeValidator(with_names_of_today)]
"""A step of any kind; one from an earlier version is read under its names of today."""


MAX_FAULT_CHARACTERS = 200


@dataclass(frozen=True, slots=True)
class NotMade:
    """Why a formula makes no column."""

    why: str


Made: TypeAlias = Column | NotMade
"""What a formula makes."""
NOTHING_MADE: Mapping[int, Made] = MappingProxyType({})


@dataclass(frozen=True, slots=True, kw_only=True)
class StepEffect:
    """What a step did: its name in words, rows, cells, what it made, or why it could do nothing.

    ``becomes`` is the number of rows of another layout, ``left_out`` what has no place in it; ``fault`` is
    set where the step is passed over by a fault of the program, not of the step.
    """

    name: str
    rows_set_aside: int = 0
    cells_changed: int = 0
    made: str = ""
    note: str = ""
    broken: str = ""
    becomes: int | None = None
    left_out: tuple[RowsLeftOut, ...] = ()
    fault: str = ""


def apply_steps(
    table: Table,
    steps: Sequence[Step],
    made: Mapping[int, Made] = NOTHING_MADE,
    progress: ProgressCallback = no_progress,
) -> tuple[Table, tuple[StepEffect, ...]]:
    """Apply steps in order. A step that does not fit is passed over, its effect giving the reason.

    Args:
        made: what formulas have made already, by the place of their step.
    """
    effects = []
    for place, step in enumerate(steps):
        table, effect = _apply(table, step, made.get(place), progress)
        effects.append(effect)
    return table, tuple(effects)


def made_by_formulas(
    table: Table, steps: Sequence[Step], progress: ProgressCallback
) -> dict[int, Made]:
    """Apply the steps, and return the column that each formula makes, by the place of its step."""
    made: dict[int, Made] = {}
    for place, step in enumerate(steps):
        table, effect = _apply(table, step, None, progress)
        if isinstance(step, NewColumn):
            broken = effect.broken
            made[place] = NotMade(broken) if broken else table.column(step.column)
    return made


def made_by_steps(raw: Table, after: Table, effects: Sequence[StepEffect]) -> frozenset[str]:
    """Columns that steps made of others; where another layout was made, all are as sent."""
    if any(effect.becomes is not None for effect in effects):
        return frozenset()
    return frozenset(c.name for c in after.columns if not raw.has(c.name))


def refuse_broken(effects: Sequence[StepEffect]) -> None:
    """Raise for the first step that did not fit.

    Raises:
        BrokenStepError
    """
    for effect in effects:
        if effect.broken:
            raise BrokenStepError(f"{effect.name}: {effect.broken}")


def _apply(
    table: Table, step: Step, made: Made | None, progress: ProgressCallback
) -> tuple[Table, StepEffect]:
    name = step.named()
    try:
        done = _done(table, step, made, progress)
    except CancelledError:
        raise
    except (BrokenStepError, NoSuchColumnError) as error:
        return table, StepEffect(name=name, broken=str(error))
    except Exception as fault:  # whatever it is, the study must go on without the step
        what = f"{type(fault).__name__}: {fault}"[:MAX_FAULT_CHARACTERS]
        why = f"the program could not carry it out ({what})"
        return table, StepEffect(name=name, broken=why, fault=what)
    if done.other_layout:
        lost = sum(lost.rows for lost in done.left_out)
    else:
        lost = max(table.size - done.table.size, 0)
    return done.table, StepEffect(
        name=name,
        rows_set_aside=lost,
        cells_changed=done.cells_changed,
        made=done.made,
        note=done.note,
        becomes=done.table.size if done.other_layout else None,
        left_out=done.left_out,
    )


def _done(table: Table, step: Step, made: Made | None, progress: ProgressCallback) -> Done:
    if not isinstance(step, NewColumn):
        return step.on(table)
    if isinstance(made, NotMade):
        raise BrokenStepError(made.why)
    return step.with_column(table, step.column_of(table, progress) if made is None else made)
