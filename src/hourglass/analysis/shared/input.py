"""What a stage is computed from, besides statements: its input, or what is missing of it."""

from dataclasses import dataclass
from typing import Any, Protocol

from hourglass.cohort.derive import Blocker
from hourglass.cohort.followup import Cohort


class Prepared(Protocol):
    """What Prepare has made of a study's data."""

    @property
    def hash(self) -> str:
        """Of all that the cohort follows from."""
        ...

    def cohort(self) -> Cohort | tuple[Blocker, ...]:
        """The cohort, or what must be decided first."""
        ...


@dataclass(frozen=True, slots=True)
class Missing:
    """What must be there, or be decided, before a stage has its input; at least one sentence.

    ``waits_for`` names what the stage waits for.
    """

    blocks: tuple[Blocker, ...]
    waits_for: str


class Input(Protocol):
    """Where a stage's input comes from."""

    def key(self, study: Prepared) -> str:
        """What names the input: the same key, the same value."""
        ...

    def load(self, study: Prepared) -> Any:
        """The input, or what is :class:`Missing`."""
        ...


@dataclass(frozen=True, slots=True)
class OfCohort:
    """The study's cohort, which Prepare forms."""

    def key(self, study: Prepared) -> str:
        return study.hash

    def load(self, study: Prepared) -> Cohort | Missing:
        formed = study.cohort()
        return Missing(formed, "Prepare") if isinstance(formed, tuple) else formed


@dataclass(frozen=True, slots=True)
class OfNothing:
    """No input: the statements state all of it."""

    def key(self, study: Prepared) -> str:
        return ""

    def load(self, study: Prepared) -> None:
        return None


COHORT, NOTHING = OfCohort(), OfNothing()
