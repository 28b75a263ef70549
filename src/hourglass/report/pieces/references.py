"""The sources of the methods, numbered by their first citation."""

from hourglass.report.claims.registry import sources_of
from hourglass.report.inputs import ReportInputs
from hourglass.report.pieces.piece import Piece, Printed


def _references(found: ReportInputs) -> Printed:
    if "methods" in found.left_out:
        return Printed()
    return Printed(items=tuple(source.full for source in sources_of(found)))


PIECE = Piece(
    key="references",
    title="References",
    words="the sources of the methods",
    shortest="journal",
    render=_references,
)
