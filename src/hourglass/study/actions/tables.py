"""Actions on the further tables of a study."""

from typing import Any, Literal

from pydantic import Field

from hourglass.cohort.records.covariate import BaseCovariate
from hourglass.cohort.records.forms import FIELD_FORMS
from hourglass.cohort.records.statement import LoggedOutcome, RecordTable
from hourglass.cohort.words import listed
from hourglass.study.actions.action import BaseAction, DeferredSection, Parts

TABLES: DeferredSection = ("tables",)


class OfTable(BaseAction):
    """What is done to a further table; ``table`` is its name."""

    table: str

    @property
    def about(self) -> str:
        return f"table {self.table}"

    @property
    def changes(self) -> Parts:
        return frozenset([(*TABLES, self.table)])


class TableAdded(OfTable):
    """A further table was added, or a new data extract of it was taken into use.

    Attributes:
        file: the name of its file; ``before``: that of the one it takes the place of, if any.
    """

    kind: Literal["table added"] = "table added"
    file: str
    sha256: str
    stated: RecordTable
    before: str = ""

    def _worded(self) -> str:
        if self.before:
            return f"Data extract of {self.table} in use: {self.file}"
        return f"Table {self.table} added: {self.file}"

    @property
    def before_words(self) -> str:
        return self.before


class TableStated(OfTable):
    """How a further table is read, or what is made of it, was stated."""

    kind: Literal["table stated"] = "table stated"
    before: RecordTable
    after: RecordTable

    def _worded(self) -> str:
        return f"{self.table}: {reading_of(self.after)}"

    @property
    def before_words(self) -> str:
        return reading_of(self.before)


class TableStepsSet(OfTable):
    """The steps of a further table were set; they are kept with what was decided."""

    kind: Literal["table steps set"] = "table steps set"
    steps: tuple[dict[str, Any], ...] = Field(max_length=1000)
    names: tuple[str, ...]

    def _worded(self) -> str:
        return f"Steps of {self.table}: {listed(self.names) if self.names else 'none'}"


class TableRemoved(OfTable):
    """A further table was removed, with what was made of it."""

    kind: Literal["table removed"] = "table removed"

    def _worded(self) -> str:
        return f"Table {self.table} removed"


def reading_of(stated: RecordTable) -> str:
    """How a further table is read, in words."""
    until = f" to {stated.until}" if stated.until else ""
    made = ", ".join(covariate_words(one) for one in stated.covariates)
    reading = f"of {stated.key or '…'}, dated {stated.at or '…'}{until}"
    ends = ", ".join(outcome_words(one) for one in stated.outcomes)
    left_out = ", those with it before entry left out" if stated.prevalent_left_out else ""
    own = ", an event of the follow-up table first" if stated.own_event_first else ""
    ending = f", ending follow-up at {ends}{left_out}{own}" if ends else ""
    return f"{reading}{', giving ' if made else ''}{made}{ending}"


def outcome_words(one: LoggedOutcome) -> str:
    """An outcome from a log, with which records are of it."""
    competing = ", competing" if one.meaning == "competing" else ""
    return f"{one.name} ({one.condition.named()}{competing})"


def covariate_words(one: BaseCovariate) -> str:
    """A covariate with its kind and all that is stated of it, but its reference level."""
    stated = one.model_dump(mode="json", exclude_defaults=True, exclude={"column"})
    of = f" of {one.of_column}" if one.of_column else ""
    where = "" if one.condition is None else f", where {one.condition.named()}"
    more = "".join(
        f", {_field_words(form.label.lower(), stated[form.field])}"
        for form in FIELD_FORMS
        if form.field in stated
    )
    return f"{one.into} ({one.kind}{of}{where}{more})"


def _field_words(label: str, value: object) -> str:
    if value is True:
        return label
    shown = " and ".join(f"{v:g}" for v in value) if isinstance(value, list) else f"{value}"
    return f"{label} {shown}"
