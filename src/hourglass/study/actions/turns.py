"""Actions on the study as a whole, and on other actions."""

from typing import Annotated, Literal, TypeAlias

from pydantic import Field

from hourglass.study.actions.action import EVERYTHING, STEPS, BaseAction, Parts
from hourglass.study.actions.data import (
    ExtractReceived,
    ExtractRefused,
    ExtractTaken,
    FileAttached,
    FileReadOtherwise,
)
from hourglass.study.actions.figures import FigureSet, GroupStyleSet, TracksShown
from hourglass.study.actions.follow_up import FindingDecided, FollowUpSet, LayoutConfirmed
from hourglass.study.actions.plans import PlanApplied, PlanSealed, StepsApplied
from hourglass.study.actions.statements import (
    AnalysisArranged,
    AnalysisBegun,
    AnalysisDeleted,
    Answered,
    ModelsKept,
    ReportWordsEdited,
    StatementSet,
    StatementsGiven,
)
from hourglass.study.actions.steps import LevelNamed, StepEdited, StepsArranged, StepTaken
from hourglass.study.actions.tables import TableAdded, TableRemoved, TableStated, TableStepsSet


class StudyBegun(BaseAction):
    """The study was begun; ``earlier``: what an earlier program kept begins with it."""

    kind: Literal["study begun"] = "study begun"
    name: str
    earlier: bool = False

    def _worded(self) -> str:
        if self.earlier:
            return "Kept by an earlier version of the program"
        return f"Study begun: {self.name}"


class StudyRenamed(BaseAction):
    """The study got another name."""

    kind: Literal["study renamed"] = "study renamed"
    before: str
    after: str

    @property
    def about(self) -> str:
        return "study"

    @property
    def changes(self) -> Parts:
        return frozenset([("name",)])

    def _worded(self) -> str:
        return f"Study renamed: {self.before} → {self.after}"


class Earlier(BaseAction):
    """What an earlier program kept of a decision that is of no kind known now: its words as they were.

    ``alone`` states whether it can be taken back on its own.
    """

    kind: Literal["earlier"] = "earlier"
    stage: str
    subject: str
    choice: str
    words: str
    alone: bool = True

    @property
    def withdrawable(self) -> bool:
        return self.alone

    @property
    def where(self) -> str:
        return self.stage

    @property
    def about(self) -> str:
        return self.subject

    def _worded(self) -> str:
        return self.words


Done: TypeAlias = Annotated[
    StudyBegun
    | StudyRenamed
    | FileAttached
    | FileReadOtherwise
    | ExtractReceived
    | ExtractTaken
    | ExtractRefused
    | FollowUpSet
    | FindingDecided
    | LayoutConfirmed
    | StepTaken
    | StepEdited
    | StepsArranged
    | LevelNamed
    | StatementSet
    | ModelsKept
    | ReportWordsEdited
    | StatementsGiven
    | AnalysisBegun
    | AnalysisArranged
    | AnalysisDeleted
    | Answered
    | FigureSet
    | TracksShown
    | GroupStyleSet
    | TableAdded
    | TableStated
    | TableStepsSet
    | TableRemoved
    | PlanApplied
    | PlanSealed
    | StepsApplied
    | Earlier,
    Field(discriminator="kind"),
]
"""What is done to a study itself."""


class Withdrawn(BaseAction):
    """A decision was taken back on its own, with its steps; ``decision`` is the id of its entry."""

    kind: Literal["withdrawn"] = "withdrawn"
    of: Done
    decision: int

    @property
    def where(self) -> str:
        return self.of.where

    @property
    def about(self) -> str:
        return self.of.about

    @property
    def changes(self) -> Parts:
        return frozenset([STEPS]) | self.rests_on

    @property
    def rests_on(self) -> Parts:
        return frozenset([("decision", str(self.decision))])

    def _worded(self) -> str:
        return f"Withdrawn: {self.of.sentence}"


class Turn(BaseAction):
    """What is done about the last action, which it holds; ``decision`` is the id of its entry."""

    of: Annotated[Done | Withdrawn, Field(discriminator="kind")]
    decision: int

    @property
    def where(self) -> str:
        return self.of.where

    @property
    def about(self) -> str:
        return self.of.about

    @property
    def changes(self) -> Parts:
        return self.of.changes

    @property
    def rests_on(self) -> Parts:
        return EVERYTHING


class Undone(Turn):
    """An action was undone."""

    kind: Literal["undone"] = "undone"

    def _worded(self) -> str:
        return f"Undone: {self.of.sentence}"


class Redone(Turn):
    """An action that was undone was done again."""

    kind: Literal["redone"] = "redone"

    def _worded(self) -> str:
        return f"Redone: {self.of.sentence}"
