"""How the numbers of a stage, or of a part of one, are made, and what they follow from."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from hourglass.analysis.shared.declared import Declared, Statements, declared, stated
from hourglass.core.progress import ProgressCallback


@dataclass(frozen=True, slots=True)
class Numbers:
    """What is computed and kept; words, sections and figures are made from it when it is read.

    Attributes:
        depends_on: the fields that it follows from, by stage.
        compute: makes it from the stage's input and the declared statements; all other fields of these are
            as where nobody has stated them. It is a function of a module, by whose imports the
            program finds the code that makes the numbers.
    """

    depends_on: Declared
    compute: Callable[[Any, Statements, ProgressCallback], Any]

    def of(self, value: Any, statements: Statements, progress: ProgressCallback) -> Any:
        """The numbers of an input and statements, of which the declared fields count."""
        return self.compute(value, declared(statements, self.depends_on), progress)

    def stated(self, statements: Statements) -> dict[str, Any]:
        """What statements state in the declared fields, as JSON can hold it."""
        return stated(statements, self.depends_on)


def as_computed(numbers: Any, value: Any, statements: Statements) -> Any:
    """Shows numbers that have the form of what is shown already."""
    return numbers


@dataclass(frozen=True, slots=True)
class Refused:
    """Why there are no numbers, in the words of the core."""

    why: str
