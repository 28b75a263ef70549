"""What a stage registers: everything that the rest of the program knows of it."""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from hourglass.analysis.shared.declared import Statements
from hourglass.analysis.shared.field_words import Words
from hourglass.analysis.shared.input import COHORT, Input
from hourglass.analysis.shared.key_numbers import KeyNumber
from hourglass.analysis.shared.numbers import Numbers
from hourglass.analysis.shared.parts import DeferredSection
from hourglass.analysis.shared.result import StageResult
from hourglass.analysis.shared.statement import StageStatement
from hourglass.analysis.shared.trial import Trial
from hourglass.analysis.shared.workings import ExplainedNumber
from hourglass.core.errors import HourglassError
from hourglass.core.progress import ProgressCallback, no_progress


class NoSuchPartError(HourglassError):
    """The stage has no such part."""


def _no_mark(result: Any) -> str:
    return ""


def _none(result: Any) -> tuple[KeyNumber, ...]:
    return ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Stage:
    """A stage: a statement about an input, its numbers, and how they are shown.

    Attributes:
        name: its name in addresses and in the database; ``title``: what the stage list calls it.
        about: in a sentence, for the description of the interface.
        statement, result: their types.
        input: what it is computed from besides statements.
        numbers: how its numbers are made.
        show: its result, from the numbers, the input and the statements that it reads, its own among
            them, with all their fields: it is made whenever somebody looks.
        reads: the stages whose statements those are.
        default: what it states of an input before anybody has changed its statement.
        field_words: what the fields of its statement are called, and how their values read.
        tries: what a statement would draw that somebody is still choosing.
        mark: what the stage list shows when something in the result is in doubt; blank otherwise.
        parts: what takes its time, requested by name.
        workings: the figures that can be worked out.
        key_numbers: the numbers that are set beside those of another data extract.
        opens_too: the stages whose results are shown wherever this one's is.
        several_views: whether it has views with a statement each; Model has its kept models instead.
    """

    name: str
    title: str
    about: str
    statement: type[StageStatement]
    result: type[StageResult]
    input: Input = COHORT
    numbers: Numbers
    show: Callable[[Any, Any, Statements], StageResult]
    reads: tuple[str, ...]
    default: Callable[[Any], StageStatement]
    field_words: Words = field(default_factory=dict)
    tries: Callable[[Any, Statements], Trial] | None = None
    mark: Callable[[Any], str] = _no_mark
    parts: tuple[DeferredSection, ...] = ()
    workings: tuple[ExplainedNumber, ...] = ()
    key_numbers: Callable[[Any], tuple[KeyNumber, ...]] = _none
    opens_too: tuple[str, ...] = ()
    several_views: bool = True

    @property
    def needs(self) -> tuple[str, ...]:
        """The stages whose statements its numbers, its parts or what is shown of them follow from."""
        of_numbers = [self.numbers, *(part.numbers for part in self.parts)]
        declared = [name for one in of_numbers for name in one.depends_on]
        return tuple(dict.fromkeys((*self.reads, *declared)))

    def part(self, key: str) -> DeferredSection:
        """The part of that key.

        Raises:
            NoSuchPartError: when there is none.
        """
        found = next((one for one in self.parts if one.key == key), None)
        if found is None:
            raise NoSuchPartError(f"{self.title} has no part called “{key}”")
        return found

    def numbers_of(self, part: str) -> Numbers:
        """How the numbers of a part are made, or without one those of the stage itself."""
        return self.part(part).numbers if part else self.numbers

    def now(
        self, value: Any, statements: Statements, progress: ProgressCallback = no_progress
    ) -> StageResult:
        """Its result, computed and shown."""
        return self.show(self.numbers.of(value, statements, progress), value, statements)


Stages = tuple[Stage, ...]


def stage_of(stages: Stages, name: str) -> Stage:
    """The stage of that name."""
    return next(stage for stage in stages if stage.name == name)
