"""The statement of Report."""

from typing import Annotated, Literal

from pydantic import Field

from hourglass.analysis.shared.statement import Body, StageStatement

PIECES_OF_VERSION_1 = ("rows", "follow-up", "groups", "curves", "ratios", "checks", "decisions")


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
    """The report's title, and which pieces it leaves out."""

    upgrades = (_left_out,)
    stage: Literal["report"] = "report"
    version: Literal[2] = 2
    title: Annotated[str, Field(max_length=200)] = ""
    left_out: tuple[Annotated[str, Field(max_length=60)], ...] = ()
