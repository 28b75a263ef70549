"""How a further table of a study is read: whose its rows are, when they were, and what is made of them."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from hourglass.cohort.condition import Condition
from hourglass.cohort.records.covariate import Covariate

Role = Literal["dated records", "periods"]
MAX_TABLES = 20
"""So many further tables a study may have."""
MAX_COVARIATES = 50
"""So many covariates may be made from a table."""
TableName = Annotated[str, Field(min_length=1, max_length=80, pattern=r"^\S(.*\S)?$")]


class LoggedOutcome(BaseModel):
    """What records end follow-up, and with what: the first of them after entry, up to its end.

    Attributes:
        name: what it is called; ``meaning``: the event, or one that competes with it.
        condition: which rows of the table are records of it; a missing value fulfils none.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")
    name: str = Field(min_length=1, max_length=80)
    meaning: Literal["event", "competing"] = "event"
    condition: Condition


class RecordTable(BaseModel):
    """A further table, and the covariates that are made from it.

    Attributes:
        name: what the table is called in the study.
        role: whether a row is a dated record, or a period from one time to another.
        key: the column of the subject's key.
        at: the column of the date or the follow-up time of a record, or of a period's start.
        until: the column of a period's end; blank in a period that is still open.
        last_day: whether a period's end is its last day, and not the day after.
        covariates: what is made of it.
        outcomes: what of it ends follow-up; of several at one time the first stated.
        prevalent_left_out: whether subjects with such a record at or before entry are left out; else the
            first one after entry counts.
        own_event_first: whether an event of the follow-up table at its end counts before a record then.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")
    version: Literal[1] = 1
    name: TableName
    role: Role = "dated records"
    key: str | None = None
    at: str | None = None
    until: str | None = None
    last_day: bool = False
    covariates: Annotated[tuple[Covariate, ...], Field(max_length=MAX_COVARIATES)] = ()
    outcomes: Annotated[tuple[LoggedOutcome, ...], Field(max_length=30)] = ()
    prevalent_left_out: bool = False
    own_event_first: bool = False
