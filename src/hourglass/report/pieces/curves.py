"""The figure of the curves."""

from hourglass.analysis.shared.figure.figure_settings import arranged, arrangement_of
from hourglass.analysis.shared.naming import free_of
from hourglass.analysis.shared.result import StageResult
from hourglass.report.inputs import ReportInputs
from hourglass.report.pieces.piece import CURVE_TRACKS, Piece, Printed, PrintedFigure

STAGES = ("compare", "estimate")


def drawn_curves(found: ReportInputs) -> PrintedFigure | None:
    """The curves of the groups, or of all subjects, with the numbers at risk; None where none are drawn."""
    stages = (found.curves,) if found.curves else STAGES
    title = f"{free_of(found.cohort.event_name)}, with the numbers at risk"
    drawn = (curves_of(found, stage, title) for stage in stages)
    return next((figure for figure in drawn if figure is not None), None)


def curves_of(found: ReportInputs, view: str, title: str) -> PrintedFigure | None:
    """The curves of a view with the numbers at risk, its tracks as it shows them; None where it draws
    none, as a screen of variables."""
    result = found.results.get(view)
    if not isinstance(result, StageResult) or result.figure is None:
        return None
    figure = arranged(result.figure, arrangement_of(found.tracks.get(view, ())))
    track = figure.track(CURVE_TRACKS[0])
    return None if track is None else PrintedFigure(figure, CURVE_TRACKS, title, track.notes)


def _curves(found: ReportInputs) -> Printed:
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
