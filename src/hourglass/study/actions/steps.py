"""Actions on steps."""

from collections.abc import Sequence
from typing import Literal

from hourglass.analysis.shared.field_words import details_of, worded_changes
from hourglass.cohort.carry import RowStep, rows_of
from hourglass.cohort.steps.apply import Step
from hourglass.cohort.steps.document import PlacedStep
from hourglass.cohort.words import grouped, listed
from hourglass.study.actions.action import DATA, NEW_STEPS, STEPS, BaseAction, OnItsOwn, Parts
from hourglass.study.actions.follow_up import FieldsOfFollowUp


class StepTaken(OnItsOwn, FieldsOfFollowUp):
    """A step was taken after all others; ``before`` and ``after`` are slots that it filled."""

    kind: Literal["step taken"] = "step taken"
    step: Step

    @property
    def about(self) -> str:
        return "step"

    @property
    def changes(self) -> Parts:
        return frozenset([NEW_STEPS]) | self.touched

    @property
    def rests_on(self) -> Parts:
        return frozenset([DATA])

    def _worded(self) -> str:
        return step_words(self.step)


class StepEdited(OnItsOwn):
    """A step was put in the place of another, whose id was ``step_id``."""

    kind: Literal["step edited"] = "step edited"
    step_id: int
    was: Step
    step: Step

    @property
    def about(self) -> str:
        return "step"

    @property
    def changes(self) -> Parts:
        return frozenset([(*STEPS, str(self.step_id))])

    @property
    def rests_on(self) -> Parts:
        return self.changes | {DATA}

    def _worded(self) -> str:
        if self.was.named() != self.step.named():
            return step_words(self.step)
        was, now = (step.model_dump(mode="json") for step in (self.was, self.step))
        changes = details_of(worded_changes(was, now, {}))
        return f"{self.step.named()}, with {changes}" if changes else self.step.named()

    @property
    def before_words(self) -> str:
        if self.was.named() == self.step.named():
            return ""
        return step_words(self.was)


def step_words(step: Step) -> str:
    """What a step is called, with the rows that it names."""
    if not isinstance(step, RowStep):
        return step.named()
    rows, shown = rows_of(step), listed([grouped(n) for n in rows_of(step)])
    if len(rows) == 1:
        return f"{step.named()} (row {shown})"
    return f"{step.named()} ({grouped(len(rows))} rows: {shown})"


class StepMove(BaseAction):
    """A step that was moved; places are counted from 1."""

    kind: Literal["moved"] = "moved"
    step: Step
    before: int
    after: int

    def _worded(self) -> str:
        return f"Step moved from place {self.before} to {self.after}: {self.step.named()}"


class StepSwitch(BaseAction):
    """A step that was switched on or off."""

    kind: Literal["switched"] = "switched"
    step: Step
    on: bool

    def _worded(self) -> str:
        return f"Step switched {'on' if self.on else 'off'}: {self.step.named()}"


class StepGone(BaseAction):
    """A step that was removed."""

    kind: Literal["removed"] = "removed"
    step: Step

    def _worded(self) -> str:
        return f"Step removed: {self.step.named()}"


class StepsArranged(BaseAction):
    """Steps were removed, switched or moved."""

    kind: Literal["steps arranged"] = "steps arranged"
    removed: tuple[StepGone, ...] = ()
    switched: tuple[StepSwitch, ...] = ()
    moved: tuple[StepMove, ...] = ()

    @property
    def changes(self) -> Parts:
        return frozenset([STEPS])

    def _worded(self) -> str:
        every = (*self.removed, *self.switched, *self.moved)
        return "; ".join(one.sentence for one in every) or "Steps arranged"


def arranged(before: Sequence[PlacedStep], after: Sequence[PlacedStep]) -> StepsArranged:
    """What was removed, switched and moved between two rows of steps."""
    stay = {placed.id: placed for placed in after}
    was = {placed.id: k for k, placed in enumerate((p for p in before if p.id in stay), start=1)}
    now = {placed.id: k for k, placed in enumerate(after, start=1)}
    shifts = {id: abs(now[id] - was[id]) for id in now if now[id] != was[id]}
    # One step moved past others shifts each of these by one: it is the one that moved.
    moved = [id for id in shifts if shifts[id] == max(shifts.values())]
    return StepsArranged(
        removed=tuple(StepGone(step=p.step) for p in before if p.id not in stay),
        switched=tuple(
            StepSwitch(step=p.step, on=not p.active)
            for p in before
            if p.id in stay and stay[p.id].active != p.active
        ),
        moved=tuple(
            StepMove(step=stay[id].step, before=was[id], after=now[id])
            for id in (moved[:1] if len(moved) == 2 and max(shifts.values()) == 1 else moved)
        ),
    )


class LevelNamed(OnItsOwn):
    """A level of a category got another name."""

    kind: Literal["level named"] = "level named"
    column: str
    before: str
    after: str

    @property
    def about(self) -> str:
        return "step"

    @property
    def changes(self) -> Parts:
        return frozenset([STEPS, *self.rests_on])

    @property
    def rests_on(self) -> Parts:
        return frozenset([DATA, ("level", self.column, self.before)])

    def _worded(self) -> str:
        return f"{self.column}: “{self.before}” is called “{self.after}”"
