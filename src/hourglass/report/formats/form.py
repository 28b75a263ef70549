"""What a form of the report as a file is."""

from collections.abc import Callable
from dataclasses import dataclass

from hourglass.report.composed import Composed


@dataclass(frozen=True, slots=True)
class ReportForm:
    """A form in which the report leaves the program.

    Attributes:
        key: the ending of its file's name; ``media``: its media type.
        words: what it is called where it is offered.
        write: its bytes, the same for the same report of the same day.
    """

    key: str
    media: str
    words: str
    write: Callable[[Composed], bytes]
