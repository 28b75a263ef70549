"""How a further table of a study is read: whose its rows are, when they were, and what is made of them."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from hourglass.cohort.records.covariate import Covariate

Role = Literal["dated records", "periods"]
MAX_TABLES = 20
"""So many further tables a study may have."""
MAX_COVARIATES = 50
"""So many covariates may be made from a table."""
TableName = Annotated[str, Field(min_length=1, max_length=80, pattern=r"^\S(.*\S)?$")]


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
