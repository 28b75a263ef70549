"""The figure of the curves."""

from hourglass.analysis.shared.result import StageResult
from hourglass.report.pieces.piece import Findings, Piece, Printed, PrintedFigure

TRACKS = ("survival", "at_risk")


def _curves(found: Findings) -> Printed:
    results = (found.results.get(stage) for stage in ("compare", "estimate"))
    figures = (r.figure for r in results if isinstance(r, StageResult))
    figure = next((f for f in figures if f is not None), None)
    if figure is None:
        return Printed()
    note = next(track.note for track in figure.tracks if track.id == TRACKS[0])
    return Printed(figure=PrintedFigure(figure, TRACKS, note))


PIECE = Piece("curves", "Curves", "the figure of curves", _curves, needs=("estimate", "compare"))
