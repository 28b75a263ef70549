"""Actions with plans and documents of steps."""

from typing import Literal

from hourglass.analysis.shared.formatting import count
from hourglass.cohort.words import grouped
from hourglass.study.actions.action import FOLLOW_UP, REPORT, STEPS, BaseAction, OnItsOwn, Parts


class PlanApplied(BaseAction):
    """A plan was put in the place of everything; ``sha256`` is that of its seal, if it has one."""

    kind: Literal["plan applied"] = "plan applied"
    name: str
    sha256: str = ""

    @property
    def about(self) -> str:
        return "plan"

    def _worded(self) -> str:
        return f"By the plan “{self.name}”"


class StepsApplied(OnItsOwn):
    """A document's steps were put in the place of those that there were; ``lost`` name rows that are gone."""

    kind: Literal["steps applied"] = "steps applied"
    steps: int
    lost: int = 0

    @property
    def changes(self) -> Parts:
        return frozenset([STEPS, FOLLOW_UP])

    def _worded(self) -> str:
        words = f"Steps applied from a document: {grouped(self.steps)}"
        if not self.lost:
            return words
        verb = "names" if self.lost == 1 else "name"
        return f"{words}; {count(self.lost, 'steps')} {verb} rows that are not all in this file"


class PlanSealed(BaseAction):
    """The plan was sealed as it stood."""

    kind: Literal["plan sealed"] = "plan sealed"
    sha256: str

    @property
    def where(self) -> str:
        return REPORT

    @property
    def changes(self) -> Parts:
        return frozenset([("seal",)])

    @property
    def rests_on(self) -> Parts:
        return frozenset([()])

    def _worded(self) -> str:
        return f"Plan sealed: SHA-256 {self.sha256}"
