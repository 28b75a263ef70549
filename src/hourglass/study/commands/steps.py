"""Commands on steps: taken, edited, arranged; levels named; decisions withdrawn with their steps."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

from hourglass.analysis.level_names import naming_steps, respelled_again
from hourglass.cohort.carry import refuse_rows_gone
from hourglass.cohort.proposal.waiting import with_waiting_filled
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.apply import Step, refuse_broken
from hourglass.cohort.steps.document import PlacedStep
from hourglass.cohort.steps.levels import RespellLevels
from hourglass.cohort.table import Table
from hourglass.core.errors import UserError
from hourglass.study.actions.follow_up import fields_set
from hourglass.study.actions.steps import LevelNamed, StepEdited, StepTaken, arranged
from hourglass.study.actions.turns import Redone, Undone, Withdrawn
from hourglass.study.actions.union import Action
from hourglass.study.history import NewDecision
from hourglass.study.level_renaming import renaming_of, with_levels_named
from hourglass.study.repository import StudyRepository
from hourglass.study.source import Source
from hourglass.study.study import NothingToUndoError, Study

STEPS_CHANGED = "steps-changed"


def decide(
    repository: StudyRepository,
    study: Study,
    action: Action,
    steps: Sequence[Step] = (),
    *,
    reason: str = "",
    instead_of: int | None = None,
    follow_up: FollowUpStatement | None = None,
) -> Study:
    """Log a decision together with the steps that carry it out, and what it changes in the follow-up.

    Args:
        instead_of: the id of a step that the (one) new step takes the place of.
    """
    new = [PlacedStep(step=step) for step in steps]
    there = list(study.steps)
    places = [k for k, placed in enumerate(there) if placed.id == instead_of]
    replaced = there[places[0]].step if places else None
    renamed = [found for step in steps if (found := renaming_of(step, replaced)) is not None]
    if places:
        new = [new[0].model_copy(update={"active": there[places[0]].active})]
        there[places[0] : places[0] + 1] = new
    else:
        there += new
    snapshot = replace(study.snapshot, steps=tuple(there), follow_up=follow_up or study.follow_up)
    entry = NewDecision(action=action, reason=reason, withdraws=steps_left(study, there))
    return repository.append(study, entry, with_levels_named(snapshot, renamed))


def take_step(
    repository: StudyRepository, study: Study, source: Source, step: Step, reason: str = ""
) -> Study:
    """Take a step after all others; slots of the follow-up statement that waited for it are filled.

    Raises:
        BrokenStepError: when it does not fit, or names rows that are not there.
    """
    refuse_rows_gone(step, source.after_steps())
    after, effects = source.with_steps((*source.steps, step)).applied()
    refuse_broken(effects[-1:])
    follow_up = with_waiting_filled(study.follow_up, source.after_steps(), after)
    return put_step(repository, study, step, reason, follow_up=follow_up)


def edit_step(
    repository: StudyRepository,
    study: Study,
    source: Source,
    step_id: int,
    step: Step,
    reason: str = "",
) -> Study:
    """Put a step in the place of another. Later steps that it breaks carry a message and stay.

    Raises:
        UserError: when the other is not there.
        BrokenStepError: when it does not fit.
    """
    before = source_before(study, source, step_id)
    refuse_rows_gone(step, before.after_steps())
    refuse_broken(before.with_steps((*before.steps, step)).applied()[1][-1:])
    return put_step(repository, study, step, reason, instead_of=step_id)


def put_step(
    repository: StudyRepository,
    study: Study,
    step: Step,
    reason: str = "",
    *,
    instead_of: int | None = None,
    follow_up: FollowUpStatement | None = None,
) -> Study:
    """Record a step that is known to fit, after all others or in the place of one."""
    was = next((p.step for p in study.steps if p.id == instead_of), None)
    action: Action
    if was is not None and instead_of is not None:
        action = StepEdited(step_id=instead_of, was=was, step=step)
    else:
        action = StepTaken(step=step, **fields_set(study.follow_up, follow_up or study.follow_up))
    return decide(
        repository, study, action, [step], reason=reason, instead_of=instead_of, follow_up=follow_up
    )


def source_before(study: Study, source: Source, step_id: int) -> Source:
    """The table with the steps before one of them.

    Raises:
        UserError: when it is not there.
    """
    before: list[Step] = []
    for placed in study.steps:
        if placed.id == step_id:
            return source.with_steps(before)
        if placed.active:
            before.append(placed.step)
    raise UserError("That step is gone: reload.", STEPS_CHANGED, "step")


def arrange_steps(repository: StudyRepository, study: Study, wanted: Mapping[int, bool]) -> Study:
    """Move, switch or remove steps; decisions of which no step is left are withdrawn.

    Args:
        wanted: the ids of the steps that stay, in their order, with whether each is on.

    Raises:
        UserError: when there is no such step.
    """
    there = {placed.id: placed for placed in study.steps}
    if not wanted.keys() <= there.keys():
        raise UserError("The steps have changed: reload.", STEPS_CHANGED, "steps")
    steps = tuple(there[id].model_copy(update={"active": on}) for id, on in wanted.items())
    action = arranged(study.steps, steps)
    if steps == study.steps:
        return study.left_as_it_is(action)
    entry = NewDecision(action=action, withdraws=steps_left(study, steps))
    return repository.append(study, entry, replace(study.snapshot, steps=steps))


def steps_left(study: Study, steps: Sequence[PlacedStep]) -> tuple[int, ...]:
    """Decisions that had steps and have none among these."""
    had = {p.decision for p in study.steps} - {p.decision for p in steps}
    return tuple(sorted(d for d in had if d is not None))


def withdraw(repository: StudyRepository, study: Study, decision: int) -> Study:
    """Take a decision back, with its steps; the log keeps it.

    Raises:
        UserError: when there is no such standing decision in the study.
        NothingToUndoError: when it is not one that can be taken back on its own.
    """
    known = next((d for d in study.standing if d.id == decision), None)
    if known is None:
        raise UserError(
            "There is no such decision, or it has changed: reload the page.",
            "no-such-decision",
            "decision",
        )
    if not known.action.withdrawable:
        raise NothingToUndoError("This is changed where it was set, or undone in its turn.")
    steps = tuple(placed for placed in study.steps if placed.decision != decision)
    assert not isinstance(known.action, Undone | Redone | Withdrawn)
    action = Withdrawn(of=known.action, decision=decision)
    entry = NewDecision(action=action, withdraws=(decision,))
    return repository.append(study, entry, replace(study.snapshot, steps=steps))


def name_level(
    repository: StudyRepository, study: Study, table: Table, column: str, level: str, name: str
) -> Study:
    """Give a level of a category another name, as a step in Prepare, so that all stages share it.

    Raises:
        BrokenStepError: when there is no such level, or another is called that.
    """
    steps = naming_steps(table, column, level, name)
    last = study.steps[-1] if study.steps else None
    action = LevelNamed(column=column, before=level, after=name)
    if last is not None and last.active and isinstance(last.step, RespellLevels):
        again = respelled_again(last.step, steps)
        if again is not None:
            return decide(repository, study, action, [again], instead_of=last.id)
    return decide(repository, study, action, steps)
