"""The steps of a plan, as they are placed for a file: rows named by number are found again."""

from collections.abc import Sequence
from dataclasses import dataclass

from hourglass.cohort.carry import RowStep, found_again, known_by
from hourglass.cohort.steps.apply import apply_steps
from hourglass.cohort.steps.document import PlacedStep, PlannedStep, StepsDocument
from hourglass.cohort.table import Table
from hourglass.cohort.words import grouped
from hourglass.study.plans.document import StudyPlan


@dataclass(frozen=True, slots=True)
class StepForFile:
    """A step as it is placed for a file, and what of it does not fit; blank where all does."""

    placed: PlacedStep
    why: str = ""


def rows_are_others(plan: StudyPlan | StepsDocument, sha256: str) -> bool:
    """Whether steps of a plan name rows by their numbers in another file than that of these bytes."""
    named = any(isinstance(planned.step, RowStep) for planned in plan.steps)
    return named and plan.made_on is not None and plan.made_on.sha256 != sha256


def steps_for_file(
    plan: StudyPlan | StepsDocument, sha256: str | None, table: Table | None
) -> list[StepForFile]:
    """The steps of a plan for a file.

    Where it is another file than the plan was made on, rows that a step names by their number are looked
    for by who they are; a step of which none is found is switched off, for those numbers are other rows.

    Args:
        sha256: of the file; None while there is none, when steps wait as they are planned.
        table: of the file; not needed unless :func:`rows_are_others`.
    """
    if sha256 is None or not rows_are_others(plan, sha256):
        return [StepForFile(PlacedStep(step=p.step, active=p.active)) for p in plan.steps]
    assert table is not None
    made = []
    for planned in plan.steps:
        step = _looked_for(planned, table, plan.follow_up.subject)
        made.append(step)
        if step.placed.active:
            table = apply_steps(table, [step.placed.step])[0]
    return made


def with_keys(
    steps: Sequence[PlannedStep], table: Table, subject: str | None
) -> tuple[PlannedStep, ...]:
    """The steps with what the rows that they name are known by, as these were when each was taken."""
    found = []
    for planned in steps:
        step = planned.step
        keys = known_by(step, table, subject) if isinstance(step, RowStep) else ()
        found.append(planned.model_copy(update={"rows_known_by": keys}))
        if planned.active:
            table = apply_steps(table, [step])[0]
    return tuple(found)


def _looked_for(planned: PlannedStep, table: Table, subject: str | None) -> StepForFile:
    step, keys = planned.step, planned.rows_known_by
    if not isinstance(step, RowStep):
        return StepForFile(PlacedStep(step=step, active=planned.active))
    if not keys:
        why = "names rows by their number in another file, so it is switched off"
        return StepForFile(PlacedStep(step=step, active=False), why)
    found, missing = found_again(step, keys, table, subject)
    if missing == len(keys):
        why = "none of the rows that it names is in this file, so it is switched off"
        return StepForFile(PlacedStep(step=step, active=False), why)
    why = f"{grouped(missing)} of its {grouped(len(keys))} rows are not in this file"
    return StepForFile(PlacedStep(step=found, active=planned.active), why if missing else "")
