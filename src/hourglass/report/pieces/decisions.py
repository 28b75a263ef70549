"""What people decided, and why."""

from hourglass.analysis.shared import wording
from hourglass.report.findings import Findings
from hourglass.report.pieces.piece import Piece, Printed


def undecided(found: Findings) -> str:
    """The findings that nobody has decided about, in a sentence; blank where there are none."""
    open_ones = found.prepare.findings
    if not open_ones:
        return ""
    titles = "; ".join(one.title for one in open_ones)
    n = len(open_ones)
    return f"{wording.count(n, 'findings')} {wording.were(n)} not decided: {titles}."


def _decisions(found: Findings) -> Printed:
    left = undecided(found)
    if not found.decisions:
        return Printed(paragraphs=(left or "No decisions were recorded.",))
    return Printed(
        paragraphs=(left,) if left else (),
        items=tuple(
            (d.sentence, d.reason, f"{d.stage.capitalize()}, {d.made_at:%Y-%m-%d}")
            for d in found.decisions
        ),
    )


PIECE = Piece(key="decisions", title="Decisions", words="decisions", render=_decisions)
