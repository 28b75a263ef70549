"""What a stage registers: everything that the rest of the program knows of it."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from hourglass.analysis.shared.field_words import Words
from hourglass.analysis.shared.figure.description import Figure
from hourglass.analysis.shared.key_numbers import KeyNumber
from hourglass.analysis.shared.parts import Part
from hourglass.analysis.shared.result import StageResult
from hourglass.analysis.shared.statement import StageStatement
from hourglass.analysis.shared.workings import WorkedFigure
from hourglass.cohort.followup import Cohort
from hourglass.core.errors import HourglassError
from hourglass.core.watch import Watch

Statements = Mapping[str, StageStatement]


class NoSuchPartError(HourglassError):
    """The stage has no such part."""


def _no_mark(result: Any) -> str:
    return ""


def _none(result: Any) -> tuple[KeyNumber, ...]:
    return ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Stage:
    """A stage that analyses a cohort.

    Attributes:
        name: its name in addresses and in the database; ``title``: what the spine calls it.
        about: in a sentence, for the description of the interface.
        statement, result: their types.
        needs: the stages whose statements its result follows from, its own among them.
        default: what it states before anybody has changed its statement.
        run: its result, from the cohort and the statements it needs.
        field_words: what the fields of its statement are called, and how their values read.
        takes: of the statement of another stage, the fields that its result follows from; all where none
            are named.
        tries: what a statement would draw that somebody is still choosing, its curves alone.
        mark: what the spine shows when something in the result is in doubt; blank otherwise.
        parts: what takes its time, asked for by name.
        workings: the figures that can be worked out.
        key_numbers: the numbers that are set beside those of another export.
        asks_for: the stages whose results are wanted wherever this one's is.
    """

    name: str
    title: str
    about: str
    statement: type[StageStatement]
    result: type[StageResult]
    needs: tuple[str, ...]
    default: Callable[[Cohort], StageStatement]
    run: Callable[[Cohort, Statements, Watch], StageResult]
    field_words: Words = field(default_factory=dict)
    tries: Callable[[Cohort, Statements], Figure] | None = None
    mark: Callable[[Any], str] = _no_mark
    parts: tuple[Part, ...] = ()
    workings: tuple[WorkedFigure, ...] = ()
    key_numbers: Callable[[Any], tuple[KeyNumber, ...]] = _none
    asks_for: tuple[str, ...] = ()
    takes: Mapping[str, tuple[str, ...]] = field(default_factory=dict)

    def part(self, key: str) -> Part:
        """The part of that key.

        Raises:
            NoSuchPartError: when there is none.
        """
        found = next((one for one in self.parts if one.key == key), None)
        if found is None:
            raise NoSuchPartError(f"{self.title} has no part called “{key}”")
        return found


Stages = tuple[Stage, ...]


def stage_of(stages: Stages, name: str) -> Stage:
    """The stage of that name."""
    return next(stage for stage in stages if stage.name == name)
