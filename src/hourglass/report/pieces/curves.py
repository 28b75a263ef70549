"""The figure of the curves."""

from hourglass.analysis.shared.result import StageResult
from hourglass.report.findings import Findings
from hourglass.report.pieces.piece import CURVE_TRACKS, Piece, Printed, PrintedFigure

STAGES = ("compare", "estimate")


def _curves(found: Findings) -> Printed:
    stages = (found.curves,) if found.curves else STAGES
    results = (found.results.get(stage) for stage in stages)
    figures = (r.figure for r in results if isinstance(r, StageResult) and r.figure is not None)
    # A screen of many variables has no curves of its own.
    figure = next((f for f in figures if f.track(CURVE_TRACKS[0]) is not None), None)
    track = None if figure is None else figure.track(CURVE_TRACKS[0])
    if figure is None or track is None:
        return Printed()
    return Printed(figure=PrintedFigure(figure, CURVE_TRACKS, track.note))


PIECE = Piece(
    key="curves",
    title="Curves",
    words="the figure of curves",
    render=_curves,
    needs=("estimate", "compare"),
)
