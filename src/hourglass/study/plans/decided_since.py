"""Which decision of a study last decided a part of it."""

from collections.abc import Callable

from hourglass.cohort.steps.apply import Step
from hourglass.study.actions.data import ExtractTaken, FileAttached, FileReadOtherwise
from hourglass.study.actions.follow_up import FieldsOfFollowUp
from hourglass.study.actions.plans import PlanApplied, StepsApplied
from hourglass.study.actions.statements import (
    ModelsKept,
    OfAnalysis,
    ReportWordsEdited,
    StatementSet,
    StatementsGiven,
)
from hourglass.study.actions.steps import StepsArranged
from hourglass.study.actions.tables import OfTable
from hourglass.study.actions.turns import Withdrawn
from hourglass.study.actions.union import Action
from hourglass.study.history import Decision
from hourglass.study.study import Study


class LastDecisions:
    """The decisions of a study that stand, looked through from the last."""

    def __init__(self, study: Study) -> None:
        self._steps = [placed for placed in study.steps if placed.active]
        self._by_id = {d.id: d for d in study.decisions}
        self._standing = study.standing[::-1]

    def of_data(self) -> Decision | None:
        """The one that put the file in place, and how it is read."""
        return self._last(lambda a: isinstance(a, FileAttached | FileReadOtherwise | ExtractTaken))

    def of_follow_up(self, field: str) -> Decision | None:
        """The one that set a field of the follow-up statement."""
        return self._last(
            lambda a: (
                (isinstance(a, FieldsOfFollowUp) and field in a.after)
                or isinstance(a, PlanApplied | StepsApplied)
            )
        )

    def of_step(self, place: int) -> Decision | None:
        """The one that took a step, by its place among those that are on."""
        return self._by_id.get(self._steps[place].decision or 0)

    def of_step_gone(self, step: Step) -> Decision | None:
        """The one with which a step went: removed, switched off, or withdrawn."""

        def took_away(action: Action) -> bool:
            match action:
                case StepsArranged():
                    off = [one.step for one in action.switched if not one.on]
                    return step in off or any(one.step == step for one in action.removed)
                case Withdrawn() | StepsApplied() | PlanApplied() | ExtractTaken():
                    return True
                case _:
                    return False

        return self._last(took_away)

    def of_table(self, name: str) -> Decision | None:
        """The one that last changed a further table."""
        return self._last(
            lambda a: isinstance(a, PlanApplied) or (isinstance(a, OfTable) and a.table == name)
        )

    def of_settings(self) -> Decision | None:
        """The one that moved steps."""
        return self._last(lambda a: isinstance(a, StepsArranged) and bool(a.moved))

    def of_stage(self, stage: str) -> Decision | None:
        """The last about the analyses of a stage."""
        return self._last(lambda a: isinstance(a, OfAnalysis) and a.stage == stage)

    def of_field(self, stage: str, field: str) -> Decision | None:
        """The one that set a field of a stage’s statement."""

        def set_it(action: Action) -> bool:
            match action:
                case StatementSet():
                    return action.stage == stage and field in action.after
                case ModelsKept():
                    return action.stage == stage and field == "kept"
                case ReportWordsEdited():
                    return action.stage == stage and field == "words"
                case StatementsGiven():
                    return stage in action.after
                case PlanApplied():
                    return True
                case _:
                    return False

        return self._last(set_it)

    def _last(self, meant: Callable[[Action], bool]) -> Decision | None:
        return next((d for d in self._standing if meant(d.action)), None)
