"""Pieces of a model beyond its ratios: kept models, predictions, subgroups, candidates, its curves."""

from collections.abc import Callable
from dataclasses import replace

from hourglass.analysis.shared.figure.description import Figure
from hourglass.analysis.shared.result import StageResult
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.report.inputs import ReportInputs
from hourglass.report.pieces.piece import Piece, Printed, PrintedFigure
from hourglass.report.pieces.sections import piece_of_sections, sections_printed


def _tracks(found: ReportInputs, title: str, begins: tuple[str, ...]) -> PrintedFigure | None:
    """The tracks of Model's figure whose id begins so, where there are any."""
    result = found.results.get("model")
    figure: Figure | None = result.figure if isinstance(result, StageResult) else None
    if figure is None:
        return None
    chosen = [track for track in figure.tracks if track.id.startswith(begins)]
    if not chosen:
        return None
    notes = " ".join(track.notes for track in chosen if track.notes)
    return PrintedFigure(figure, tuple(track.id for track in chosen), title, notes)


def _drawn(title: str, *begins: str) -> Callable[[ReportInputs], Printed]:
    """What prints the tracks whose id begins so."""
    return lambda found: Printed(figure=_tracks(found, title, begins))


PREDICTED = (SectionId.PREDICTIONS, SectionId.MEANS, SectionId.ADJUSTED)


def _predictions(found: ReportInputs) -> Printed:
    tables = sections_printed("model", PREDICTED)(found)
    return replace(
        tables, figure=_tracks(found, "Predicted survival", ("predicted", "unadjusted", "adjusted"))
    )


MEDIANS = piece_of_sections(
    key="ratios-and-medians",
    title="Hazard ratios beside medians",
    words="hazard ratios beside medians",
    shows="each ratio beside the median of its level",
    stage="model",
    sections=(SectionId.MEDIANS,),
    parts=("model/medians",),
)
FOREST = Piece(
    key="forest",
    title="Hazard ratios, drawn",
    words="the figure of hazard ratios",
    shows="the adjusted and unadjusted ratios",
    render=_drawn("Hazard ratios with their intervals", "ratios"),
    needs=("model",),
)
SUBGROUPS = Piece(
    key="subgroups",
    title="Within subgroups",
    words="subgroups",
    shows="the ratio within each subgroup",
    render=_drawn("Hazard ratios within subgroups", "subgroups"),
    needs=("model",),
)
TERMS = piece_of_sections(
    key="terms",
    title="Terms and fit of the model",
    words="tests of each term, the fit and variance inflation",
    shows="the tests of the terms and the fit of the model",
    stage="model",
    sections=(SectionId.TERMS, SectionId.INFLATION, SectionId.FIT),
    parts=("model/terms",),
)
CURVES = Piece(
    key="term-curves",
    title="Ratios over a number",
    words="curves of the terms",
    shows="how the ratio changes over a number",
    render=_drawn("Hazard ratio over a number", "curve-"),
    needs=("model",),
)
PREDICTIONS = Piece(
    key="predictions",
    title="Predictions",
    words="predictions and adjusted curves",
    shows="what the model predicts",
    shortest="journal",
    render=_predictions,
    needs=("model",),
    parts=("model/means", "model/adjusted"),
    sections=PREDICTED,
)
CANDIDATES = piece_of_sections(
    key="candidates",
    title="Candidates",
    words="candidates alone and together, and each cause",
    shows="the ratios of other models of the same data",
    stage="model",
    sections=(SectionId.CANDIDATES, SectionId.CAUSES),
    parts=("model/candidates", "model/causes"),
)
KEPT = piece_of_sections(
    key="kept-models",
    title="Models compared",
    words="the kept models",
    shows="the kept models beside each other",
    shortest="journal",
    stage="model",
    sections=(SectionId.KEPT, SectionId.BESIDE),
    parts=("model/kept",),
)
