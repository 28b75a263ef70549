"""The figure of the curves."""

from hourglass.analysis.shared.naming import free_of
from hourglass.analysis.shared.result import StageResult
from hourglass.report.findings import Findings
from hourglass.report.pieces.piece import CURVE_TRACKS, Piece, Printed, PrintedFigure

STAGES = ("compare", "estimate")


def drawn_curves(found: Findings) -> PrintedFigure | None:
    """The curves of the groups, or of all subjects, with the numbers at risk; None where none are drawn."""
    stages = (found.curves,) if found.curves else STAGES
    results = (found.results.get(stage) for stage in stages)
    figures = (r.figure for r in results if isinstance(r, StageResult) and r.figure is not None)
    # A screen of many variables has no curves of its own.
    figure = next((f for f in figures if f.track(CURVE_TRACKS[0]) is not None), None)
    track = None if figure is None else figure.track(CURVE_TRACKS[0])
    if figure is None or track is None:
        return None
    event = found.cohort.event_name
    title = f"{free_of(event)}, with the numbers at risk"
    return PrintedFigure(figure, CURVE_TRACKS, title, track.note)


def _curves(found: Findings) -> Printed:
    """The figure, unless the summary has it."""
    in_summary = "summary" not in found.left_out
    return Printed(figure=None if in_summary else drawn_curves(found))


PIECE = Piece(
    key="curves",
    title="Curves",
    words="the figure of curves",
    shows="the curves with the numbers at risk",
    shortest="journal",
    render=_curves,
    needs=("estimate", "compare"),
)
