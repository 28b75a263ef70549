"""The statement of Report."""

from collections.abc import Sequence
from typing import Annotated, Literal

from pydantic import Field

from hourglass.analysis.shared.statement import Body, StageStatement, renamed
from hourglass.report.editable_text import Edited

PIECES_OF_VERSION_1 = ("rows", "follow-up", "groups", "curves", "ratios", "checks", "decisions")
Key = Annotated[str, Field(max_length=60)]
Place = Annotated[str, Field(max_length=200)]
Width = Literal["column", "page", "screen"]
Length = Literal["page", "journal", "complete"]
LENGTHS: dict[Length, tuple[str, str]] = {
    "page": ("on one page", "the summary: the question, who was followed, the curves, the answer"),
    "journal": ("at journal length", "methods, results and their sources"),
    "complete": ("at full length", "every table, decision and setting"),
}
"""The lengths of a report from the shortest to the longest: what each is called, and what it holds."""
WIDTHS: dict[Width, tuple[int, str]] = {
    "column": (85, "a journal column, 85 mm"),
    "page": (170, "a page, 170 mm"),
    "screen": (260, "a screen"),
}
"""Millimetres that figures are drawn in, and what they are for."""


def _left_out(body: Body) -> Body:
    """Version 1 named the pieces that are printed; now those that are left out are named."""
    there = body.get("pieces", PIECES_OF_VERSION_1)
    return {
        "stage": "report",
        "version": 2,
        "title": body.get("title", ""),
        "left_out": [piece for piece in PIECES_OF_VERSION_1 if piece not in there],
    }


class ReportStatement(StageStatement):
    """What a report is called, what it is for, which pieces it has in which order, and whose words.

    Attributes:
        left_out: pieces that are not printed.
        order: pieces in their order; one that is not named follows the one before it in the table of
            pieces.
        words: those that somebody wrote, by their place.
        width: what figures are drawn for.
        length: pieces that only a longer report holds are not printed.
        model: the letter of the kept model that is reported; blank for the one that Model shows.
        curves: whose curves are drawn; blank for those of Compare where there are any.
    """

    upgrades = (_left_out, renamed(3))
    stage: Literal["report"] = "report"
    version: Literal[3] = 3
    title: Annotated[str, Field(max_length=200)] = ""
    left_out: Annotated[tuple[Key, ...], Field(max_length=200)] = ()
    order: Annotated[tuple[Key, ...], Field(max_length=200)] = ()
    words: Annotated[dict[Place, Edited], Field(max_length=500)] = Field(default_factory=dict)
    width: Width = "page"
    length: Length = "complete"
    model: Annotated[str, Field(max_length=4)] = ""
    curves: Literal["", "estimate", "compare"] = ""

    @property
    def millimetres(self) -> int:
        """The width that figures are drawn in."""
        return WIDTHS[self.width][0]

    def holds(self, key: str, shortest: Length) -> bool:
        """Whether a piece that a report of at least this length holds may be printed."""
        lengths = list(LENGTHS)
        return key not in self.left_out and lengths.index(shortest) <= lengths.index(self.length)


def in_order(keys: Sequence[str], order: Sequence[str]) -> list[str]:
    """Keys as they are ordered; one that is not named follows the one before it among the keys."""
    known = [key for key in dict.fromkeys(order) if key in keys]
    for k, key in enumerate(keys):
        if key not in known:
            before = known.index(keys[k - 1]) + 1 if k else 0
            known.insert(before, key)
    return known
