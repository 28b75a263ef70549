"""Actions on who is followed, from when to when: the follow-up statement, findings, the layout."""

from typing import Any, Literal

from pydantic import Field

from hourglass.analysis.prepare.field_words import follow_up_changes
from hourglass.analysis.shared.field_words import changed_fields, sentence_of
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.cells import CorrectCell
from hourglass.study.actions.action import DATA, FOLLOW_UP, NEW_STEPS, BaseAction, OnItsOwn, Parts

KEEP = "keep"
"""The choice that leaves a finding as it is."""


class FieldsOfFollowUp(BaseAction):
    """Fields of the follow-up statement that hold something else, as JSON; the others are left out."""

    before: dict[str, Any] = Field(default_factory=dict)
    after: dict[str, Any] = Field(default_factory=dict)

    @property
    def touched(self) -> Parts:
        """The statement, if it is otherwise."""
        return frozenset([FOLLOW_UP]) if self.before or self.after else frozenset()


def fields_set(before: FollowUpStatement, after: FollowUpStatement) -> dict[str, dict[str, Any]]:
    """The fields in which two statements differ, before and after."""
    was, becomes = before.model_dump(mode="json"), after.model_dump(mode="json")
    names = changed_fields(was, becomes)
    return {"before": {n: was[n] for n in names}, "after": {n: becomes[n] for n in names}}


class FollowUpSet(FieldsOfFollowUp):
    """A part of the follow-up statement was set."""

    kind: Literal["follow-up set"] = "follow-up set"

    @property
    def changes(self) -> Parts:
        return frozenset([FOLLOW_UP])

    @property
    def rests_on(self) -> Parts:
        return frozenset([FOLLOW_UP, DATA])

    def _worded(self) -> str:
        return sentence_of(follow_up_changes(self.before, self.after))


class FindingDecided(OnItsOwn, FieldsOfFollowUp):
    """Somebody decided what to do about a finding.

    Attributes:
        finding: its key; ``rows``: how many it concerned then, None where that was not kept.
        choice: what was chosen, by its name.
        title, done: how the finding and the choice read then.
        corrections: cells that were corrected.
    """

    kind: Literal["finding decided"] = "finding decided"
    finding: str
    choice: str
    rows: int | None = None
    title: str
    done: str = ""
    corrections: tuple[CorrectCell, ...] = ()

    @property
    def about(self) -> str:
        return self.finding

    @property
    def changes(self) -> Parts:
        return frozenset([NEW_STEPS, self._own]) | self.touched

    @property
    def rests_on(self) -> Parts:
        return frozenset([DATA, self._own]) | self.touched

    @property
    def _own(self) -> tuple[str, ...]:
        return ("finding", self.finding)

    def _worded(self) -> str:
        if not self.outcome:
            return self.title
        joint = ": " if self.done else " "
        return f"{self.title}{joint}{self.outcome}"

    @property
    def outcome(self) -> str:
        """What was done about the finding, with the cells that were corrected; blank for nothing."""
        cells = [
            f"row {c.row}, {c.column} now {c.value.strip() or 'missing'}" for c in self.corrections
        ]
        corrected = f"({'; '.join(cells)})" if cells else ""
        return " ".join(part for part in (self.done, corrected) if part)


class LayoutConfirmed(OnItsOwn, FieldsOfFollowUp):
    """Somebody confirmed which layout the table has."""

    kind: Literal["layout confirmed"] = "layout confirmed"
    layout: str
    label: str

    @property
    def changes(self) -> Parts:
        return frozenset([NEW_STEPS, ("layout",)]) | self.touched

    @property
    def rests_on(self) -> Parts:
        return frozenset([DATA, ("layout",)]) | self.touched

    @property
    def about(self) -> str:
        return "layout"

    def _worded(self) -> str:
        return f"The table's layout: {self.label}" if self.label else "The table's layout"
