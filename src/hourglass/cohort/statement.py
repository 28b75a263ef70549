"""The follow-up statement: when each row's clock starts and stops, and what each code means."""

from typing import Annotated, Literal, TypeAlias

from pydantic import BaseModel, ConfigDict, Field

Unit = Literal["hours", "days", "weeks", "months", "years"]
Meaning = Literal["event", "censored", "competing", "set aside"]

DAYS_IN: dict[Unit, float] = {
    "hours": 1 / 24,
    "days": 1.0,
    "weeks": 7.0,
    "months": 30.4375,
    "years": 365.25,
}
BLANK = ""
"""The code of a cell with nothing in it."""


class _Part(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class BetweenDates(_Part):
    """Time runs from one date to another."""

    kind: Literal["dates"] = "dates"
    start: str | None = None
    end: str | None = None


class Duration(_Part):
    """A column already holds the time, in the statement's unit."""

    kind: Literal["duration"] = "duration"
    column: str | None = None


Clock: TypeAlias = Annotated[BetweenDates | Duration, Field(discriminator="kind")]


class CodeMeaning(_Part):
    """What a code of the outcome column stands for, and what to call it."""

    meaning: Meaning
    name: str = Field(default="", max_length=200)


class FollowUpStatement(_Part):
    """How a table becomes follow-up. A code without a meaning blocks every later stage."""

    version: Literal[1] = 1
    rows_are: str = Field(default="rows", min_length=1, max_length=80)
    event_name: str = Field(default="the event", min_length=1, max_length=80)
    subject: str | None = None
    clock: Clock = BetweenDates()
    unit: Unit = "months"
    outcome: str | None = None
    meanings: dict[str, CodeMeaning] = Field(default_factory=dict)
    late_entry: str | None = None

    @property
    def spent(self) -> frozenset[str]:
        """Columns that are the outcome, the clock or the subject, and so cannot explain it."""
        clock = self.clock
        times = (clock.start, clock.end) if isinstance(clock, BetweenDates) else (clock.column,)
        named = (self.outcome, self.subject, self.late_entry, *times)
        return frozenset(name for name in named if name is not None)
