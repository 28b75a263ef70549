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
    title = f"{free_of(found.cohort.event_name)}, with the numbers at risk"
    drawn = (curves_of(r, title) for r in results if isinstance(r, StageResult))
    return next((figure for figure in drawn if figure is not None), None)


def curves_of(result: StageResult, title: str) -> PrintedFigure | None:
    """The curves of a result with the numbers at risk; None where it draws none, as a screen of variables."""
    track = None if result.figure is None else result.figure.track(CURVE_TRACKS[0])
    if result.figure is None or track is None:
        return None
    return PrintedFigure(result.figure, CURVE_TRACKS, title, track.note)


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
