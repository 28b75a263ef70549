"""A piece for each further view of Estimate and Compare: its figure of curves with its tables."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import partial

from hourglass.analysis.compare.result import CompareResult
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.shared.declared import statement_of
from hourglass.analysis.shared.result import StageResult
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.report.inputs import ReportInputs
from hourglass.report.pieces.cited import paragraph
from hourglass.report.pieces.curves import curves_of
from hourglass.report.pieces.groups import comparison_words, group_table, limits_named
from hourglass.report.pieces.piece import Piece, Pieces, Printed
from hourglass.report.pieces.sections import sections_printed

REPORTED = ("estimate", "compare")
"""The stages whose views have a piece: those that draw curves."""
ESTIMATED = (SectionId.GROUPS, SectionId.QUARTILES)
"""What is printed of a view of Estimate."""
AFTER = "curves"
"""The piece that those of views follow."""


@dataclass(frozen=True, slots=True)
class ReportedView:
    """A view besides the first of its stage, which the other pieces are made from.

    Attributes:
        key: under which its result is found; ``analysis``: its id.
        stage_title, letter, title: what its stage, and it, are called.
    """

    key: str
    stage: str
    analysis: int
    stage_title: str
    letter: str
    title: str

    @property
    def name(self) -> str:
        """What the piece is headed by."""
        return self.title or f"View {self.letter} of {self.stage_title}"


def pieces_with_views(pieces: Pieces, views: Sequence[ReportedView]) -> Pieces:
    """The pieces of a report, with one for each view after that of the curves."""
    place = next((k + 1 for k, piece in enumerate(pieces) if piece.key == AFTER), len(pieces))
    return (*pieces[:place], *map(_piece, views), *pieces[place:])


def _piece(view: ReportedView) -> Piece:
    return Piece(
        key=_key(view),
        title=view.name,
        words=f"view {view.letter} of {view.stage_title}",
        shows="its curves with the numbers at risk, and its readings",
        shortest="journal",
        render=partial(_view, view),
        needs=(view.key,),
    )


def _key(view: ReportedView) -> str:
    return f"view-{view.stage}-{view.letter}"


def _view(view: ReportedView, found: ReportInputs) -> Printed:
    result = found.results.get(view.key)
    if not isinstance(result, StageResult):
        return Printed()
    if result.blank is not None:
        return Printed(paragraphs=(paragraph(result.blank),))
    made = (
        _compared(view, found, result)
        if isinstance(result, CompareResult)
        else sections_printed(view.key, ESTIMATED)(found)
    )
    return replace(made, figure=curves_of(found, view.key, view.name))


def _compared(view: ReportedView, found: ReportInputs, result: CompareResult) -> Printed:
    """The groups of a view of Compare, as those of the first; of variables in turn, their table."""
    stated = found.statements[view.key]
    assert isinstance(stated, CompareStatement)
    if stated.each:
        return sections_printed(view.key, (SectionId.SCREENING,))(found)
    estimating = statement_of(found.statements, EstimateStatement)
    limits = limits_named(estimating, result.curves)
    table = group_table(found.cohort, result.curves, estimating.times, limits, result)
    own = replace(table, key=f"{_key(view)}-groups", title=f"Groups of view {view.letter}")
    words = paragraph(comparison_words(result, stated))
    return Printed(paragraphs=(words,), tables=(own,))
