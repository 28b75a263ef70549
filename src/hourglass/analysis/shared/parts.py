"""Parts of a result that take their time, asked for by name."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from hourglass.analysis.shared.result import PartResult
from hourglass.analysis.shared.statement import StageStatement
from hourglass.cohort.followup import Cohort
from hourglass.core.watch import Watch


@dataclass(frozen=True, slots=True)
class Part:
    """A part of a stage's result, kept with a hash of its own.

    Attributes:
        key: its name in addresses, and in the sections that wait for it.
        title: what it is called.
        result: the type of what it brings.
        run: from the cohort and the statements that the stage needs.
        at_once: whether a page asks for it by itself; otherwise somebody has to.
    """

    key: str
    title: str
    result: type[PartResult]
    run: Callable[[Cohort, Mapping[str, StageStatement], Watch], PartResult]
    at_once: bool = True
