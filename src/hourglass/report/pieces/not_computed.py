"""What would be printed, had somebody had it computed: nothing is missing without a word."""

from hourglass.analysis.shared.naming import listed
from hourglass.report.inputs import ReportInputs
from hourglass.report.pieces.cited import paragraph
from hourglass.report.pieces.piece import Piece, Printed


def _not_computed(found: ReportInputs) -> Printed:
    if not found.waiting:
        return Printed()
    parts = [f"{part.title} ({part.stage_title})" for part in found.waiting]
    return Printed(
        paragraphs=(
            paragraph(f"This report was made before these were computed: {listed(parts)}."),
        )
    )


PIECE = Piece(
    key="not-computed",
    title="Not computed",
    words="what has not been computed",
    shortest="journal",
    render=_not_computed,
)
