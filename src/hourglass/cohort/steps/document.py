"""The steps of a study as an open, versioned document that can be applied to another file.

The document is JSON: ``format`` and ``version`` state what it is, ``follow_up`` is the follow-up
statement, ``steps`` the steps in order, each with whether it is switched on and the reason given
for it. Every step names its kind; its other fields are those of that kind. See docs/steps.md.
"""

from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.apply import Step


class PlacedStep(BaseModel):
    """A step in its place: its id, and whether it is switched on."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    id: int = 0
    step: Step
    active: bool = True
    decision: int | None = None


class PlannedStep(BaseModel):
    """A step in a document of steps, or in a plan.

    Attributes:
        decided: the place of the decision that took it, among those of the plan.
        rows_known_by: a hash for each row that the step names by its number: of its subject, or of all
            its cells. By it the row is found again in another file.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")
    step: Step
    active: bool = True
    reason: str = Field(default="", max_length=2000)
    decided: int | None = None
    rows_known_by: tuple[str, ...] = ()


class PlannedFile(BaseModel):
    """The file that a plan was made on: rows that steps name by number are its rows."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    name: str = Field(max_length=300)
    sha256: str = Field(pattern="^[0-9a-f]{64}$")


class StepsDocument(BaseModel):
    """All that makes a cohort from a file; ``made_on`` is the one whose rows the steps name by number."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    format: Literal["olden-hourglass steps"] = "olden-hourglass steps"
    version: Literal[2] = 2
    made_on: PlannedFile | None = None
    follow_up: FollowUpStatement
    steps: tuple[PlannedStep, ...] = Field(default=(), max_length=1000)

    @model_validator(mode="before")
    @classmethod
    def upgraded(cls, given: Any) -> Any:
        """A document of version 1 is read as one of today's."""
        if not isinstance(given, dict) or given.get("version", 1) != 1:
            return given
        steps = [
            {**p, "step": split_of(p["step"])} if isinstance(p, dict) and "step" in p else p
            for p in given.get("steps", ())
        ]
        return {**given, "version": 2, "steps": steps}


def split_of(step: Any) -> Any:
    """A step of version 1: the one that splits a number had another name, and named its column so."""
    if not isinstance(step, dict) or step.get("kind") != "cut_number":
        return step
    into = step.get("into") or f"{step.get('column', '')}, cut"
    return {**step, "kind": "split_number", "into": into}
