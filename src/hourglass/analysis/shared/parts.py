"""Parts of a result that take their time, requested by name."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from hourglass.analysis.shared.declared import Statements
from hourglass.analysis.shared.numbers import Numbers, as_computed
from hourglass.analysis.shared.result import PartResult


def _at_once(value: Any) -> str:
    return ""


@dataclass(frozen=True, slots=True, kw_only=True)
class DeferredSection:
    """A part of a stage's result, its numbers kept by themselves.

    Attributes:
        key: its name in addresses, and in the sections that wait for it.
        title: what it is called.
        result: the type of what it brings.
        numbers: how its numbers are made.
        show: what it brings, from these, the stage's input and the statements that the stage reads.
        offer: what somebody is offered in its place where an input makes it long; blank where a page, and
            the report, ask for it by themselves.
    """

    key: str
    title: str
    result: type[PartResult]
    numbers: Numbers
    show: Callable[[Any, Any, Statements], PartResult] = as_computed
    offer: Callable[[Any], str] = _at_once
