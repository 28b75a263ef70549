"""A result that somebody wants."""

from dataclasses import dataclass

from hourglass.study.made import Making
from hourglass.study.study import Analysis


@dataclass(frozen=True, slots=True)
class ResultRequest:
    """A result that somebody wants, and how it is made.

    Attributes:
        hash: of what its numbers follow from; ``key``: of what is shown of them, which its figure is
            requested by, too.
        rows: how many it is made of.
    """

    analysis: Analysis
    part: str
    hash: str
    key: str
    making: Making
    rows: int = 0
