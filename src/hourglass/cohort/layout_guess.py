"""A layout that a table may have, with what speaks for it and what it changes."""

from dataclasses import dataclass
from typing import Literal

from hourglass.cohort.proposal.duration import unit_of_times
from hourglass.cohort.statement import UNSTATED, FollowUpStatement, Unit
from hourglass.cohort.steps.apply import Step
from hourglass.cohort.table import NumberColumn, Table

Layout = Literal[
    "one row each", "counts", "counts at times", "a status for each group", "periods", "dated records",
    "parameters", "rows between visits", "the last visit", "the first event seen",
    "one of several outcomes",
]  # fmt: skip
LABELS: dict[Layout, str] = {
    "one row each": "one row for each subject",
    "counts": "one row for many identical subjects, with their count",
    "counts at times": "counts of events and censorings at each time",
    "a status for each group": "one column of times, a status column for each group",
    "periods": "several periods for each subject, each from an entry to an end",
    "dated records": "dated records",
    "parameters": "the analysis layout of clinical trials: parameter, value, censoring flag",
    "rows between visits": "visits, each followed from the one before it",
    "the last visit": "visits, of which the last of each subject is kept",
    "one of several outcomes": "one row for each subject, with several outcomes",
    "the first event seen": "visits, of which the first with the event is kept, else the last",
}
"""What each layout is called."""


@dataclass(frozen=True, slots=True)
class LayoutGuess:
    """A layout that a table may have.

    Attributes:
        reason: what speaks for it.
        variant: which of several guesses at one layout it is.
        steps: those that turn it into rows that are each followed.
        changes: what it implies for the follow-up statement; meanings stay to be confirmed.
    """

    layout: Layout
    reason: str
    steps: tuple[Step, ...] = ()
    changes: tuple[tuple[str, object], ...] = ()
    variant: str = ""

    @property
    def key(self) -> str:
        """By what it is chosen."""
        return f"{self.layout}: {self.variant}" if self.variant else self.layout

    @property
    def label(self) -> str:
        """What the layout is called."""
        return f"{LABELS[self.layout]}: {self.variant}" if self.variant else LABELS[self.layout]

    def change(self, statement: FollowUpStatement) -> FollowUpStatement:
        """The statement with what the layout implies for it."""
        return FollowUpStatement.model_validate({**statement.model_dump(), **dict(self.changes)})


def unit_in(table: Table, time: str) -> Unit:
    """The unit of a column of times, where it or its name states one."""
    column = table.column(time)
    return (unit_of_times(column) if isinstance(column, NumberColumn) else None) or UNSTATED
