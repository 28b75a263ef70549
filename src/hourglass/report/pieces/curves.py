"""The figure of the curves."""

from hourglass.analysis.shared.result import StageResult
from hourglass.report.pieces.piece import Findings, Piece, Printed, PrintedFigure

TRACKS = ("survival", "at_risk")


def _curves(found: Findings) -> Printed:
    results = (found.results.get(stage) for stage in ("compare", "estimate"))
    figures = (r.figure for r in results if isinstance(r, StageResult) and r.figure is not None)
    # A screen of many variables has no curves of its own.
    figure = next((f for f in figures if f.track(TRACKS[0]) is not None), None)
    track = None if figure is None else figure.track(TRACKS[0])
    if figure is None or track is None:
        return Printed()
    return Printed(figure=PrintedFigure(figure, TRACKS, track.note))


PIECE = Piece("curves", "Curves", "the figure of curves", _curves, needs=("estimate", "compare"))
