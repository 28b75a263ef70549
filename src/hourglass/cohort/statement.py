"""The follow-up statement: when each row's follow-up starts and ends, and what each code means."""

import datetime
from typing import Annotated, Literal, TypeAlias

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from hourglass.core.near_ties import CLOSE, NEAR_TIE

TimeUnit = Literal["hours", "days", "weeks", "months", "years"]
Unit = Literal[
    "hours", "days", "weeks", "months", "years", "minutes", "cycles", "kilometres", "miles", "uses",
    "unstated",
]  # fmt: skip
UNSTATED: Unit = "unstated"
"""Nobody has stated yet in which unit the times are."""
OTHER_UNITS: tuple[Unit, ...] = ("minutes", "cycles", "kilometres", "miles", "uses")
"""What a clock can count besides hours, days, weeks, months and years, where no dates are used."""
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


class _FrozenModel(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class BetweenDates(_FrozenModel):
    """Time runs from one date to another."""

    kind: Literal["dates"] = "dates"
    start: str | None = None
    end: str | None = None


class DatedEvent(_FrozenModel):
    """An event that happened if a column of dates has a date."""

    column: str
    meaning: Literal["event", "competing"] = "event"
    name: str = Field(default="", max_length=200)


class FirstOf(_FrozenModel):
    """Time runs to the earliest of several dated events, else to the last contact."""

    kind: Literal["first of"] = "first of"
    start: str | None = None
    events: tuple[DatedEvent, ...] = Field(default=(), max_length=30)
    last_contact: str | None = None


class Duration(_FrozenModel):
    """A column already holds the time, in the statement's unit."""

    kind: Literal["duration"] = "duration"
    column: str | None = None


Clock: TypeAlias = Annotated[BetweenDates | FirstOf | Duration, Field(discriminator="kind")]
Ended = Literal["codes", "date", "everyone", "records"]
Positive = Annotated[float, Field(gt=0, allow_inf_nan=False)]
NEAR_TIES = (0.0, NEAR_TIE, CLOSE)
"""Shares of a time within which an earlier one is the same, of which one is chosen."""


def _near_ties(share: float) -> float:
    if share not in NEAR_TIES:
        raise ValueError(
            f"near-ties are within {', '.join(f'{s:g}' for s in NEAR_TIES[:-1])} or {CLOSE:g}"
        )
    return share


NearTies = Annotated[
    float, AfterValidator(_near_ties), Field(json_schema_extra={"enum": list(NEAR_TIES)})
]


class CodeMeaning(_FrozenModel):
    """What a code of the outcome column stands for, and what to call it."""

    meaning: Meaning
    name: str = Field(default="", max_length=200)


class OtherFollowUp(_FrozenModel):
    """Another time and outcome of the same rows, which waits while the first is followed."""

    clock: Clock
    unit: Unit
    outcome: str | None = None
    meanings: dict[str, CodeMeaning] = Field(default_factory=dict)
    ended: Ended = "codes"
    event_date: str | None = None
    event_name: str = Field(default="the event", min_length=1, max_length=80)


class FollowUpStatement(_FrozenModel):
    """How a table becomes follow-up. A code without a meaning blocks every later stage.

    Attributes:
        ended: who had the event: by code, whoever has a date of it, everyone, or those with a record of it in
            a further table.
        event_date: the column of that date.
        closing_date: what happened after it is not counted; follow-up ends there.
        several_rows: a subject may have several rows, each from an entry to an end.
        count: a column of how many identical subjects a row stands for.
        zero_moved_to: the time that rows ending at their start are given.
        longest: follow-up ends there at the latest, censored.
        near_ties: the share of a time within which an earlier one is the same time.
        others: other follow-ups of the same rows, which wait.
        landmark: only rows still at risk at this time are kept, their time set back to 0 there.
    """

    version: Literal[1] = 1
    rows_are: str = Field(default="rows", min_length=1, max_length=80)
    event_name: str = Field(default="the event", min_length=1, max_length=80)
    subject: str | None = None
    clock: Clock = BetweenDates()
    unit: Unit = "months"
    outcome: str | None = None
    meanings: dict[str, CodeMeaning] = Field(default_factory=dict)
    late_entry: str | None = None
    ended: Ended = "codes"
    event_date: str | None = None
    closing_date: datetime.date | None = None
    several_rows: bool = False
    count: str | None = None
    zero_moved_to: Positive | None = None
    longest: Positive | None = None
    landmark: Positive | None = None
    near_ties: NearTies = NEAR_TIE
    others: tuple[OtherFollowUp, ...] = Field(default=(), max_length=20)

    def following(self, other: int) -> "FollowUpStatement":
        """The statement with one of the others followed, and in its place what was followed."""
        kept = {name: getattr(self, name) for name in OtherFollowUp.model_fields}
        waits = list(self.others)
        chosen, waits[other] = waits[other], OtherFollowUp(**kept)
        taken = {name: getattr(chosen, name) for name in OtherFollowUp.model_fields}
        return self.model_copy(update={**taken, "others": tuple(waits)})

    @property
    def dated(self) -> bool:
        """Whether times are worked out from dates."""
        return self.clock.kind != "duration"

    def meaning_of(self, code: str) -> CodeMeaning | None:
        """What a code means, spaces and capitals aside."""
        given = self.meanings.get(code)
        if given is not None:
            return given
        folded = code.strip().casefold()
        return next((m for c, m in self.meanings.items() if c.strip().casefold() == folded), None)

    @property
    def columns(self) -> frozenset[str]:
        """All columns that it names, in use or not; those of other follow-ups wait with them."""
        return self.spent | {name for name in (self.outcome, self.event_date) if name is not None}

    @property
    def spent(self) -> frozenset[str]:
        """Columns that are the outcome, the clock or the subject, and so cannot explain it."""
        match self.clock:
            case BetweenDates(start=start, end=end):
                times: tuple[str | None, ...] = (start, end)
            case FirstOf(start=start, events=events, last_contact=last):
                times = (start, last, *(event.column for event in events))
            case Duration(column=column):
                times = (column,)
        outcome = {"codes": self.outcome, "date": self.event_date}.get(self.ended)
        named = (outcome, self.subject, self.late_entry, self.count, *times)
        return frozenset(name for name in named if name is not None)
