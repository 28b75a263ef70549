"""What people decided, and why."""

from hourglass.report.pieces.piece import Findings, Piece, Printed


def _decisions(found: Findings) -> Printed:
    if not found.decisions:
        return Printed(paragraphs=("No decisions were recorded.",))
    return Printed(
        items=tuple(
            (d.sentence, d.reason, f"{d.stage.capitalize()}, {d.made_at:%Y-%m-%d}")
            for d in found.decisions
        )
    )


PIECE = Piece("decisions", "Decisions", "decisions", _decisions)
