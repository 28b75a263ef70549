"""The checks of the model."""

from dataclasses import dataclass

from hourglass.analysis.check.readouts import TermCheck
from hourglass.analysis.check.result import CheckResult
from hourglass.analysis.model.readouts import ChiSquared
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import Cell, words
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import test_cells
from hourglass.analysis.shared.verdict import doubtful
from hourglass.report.inputs import ReportInputs
from hourglass.report.pieces.cited import paragraph
from hourglass.report.pieces.piece import Piece, Printed
from hourglass.report.pieces.sections import sections_printed
from hourglass.report.tables import Column, ReportTable, notes_beside, table_of

SHOWN = (
    SectionId.SCALE,
    SectionId.FARTHEST,
    SectionId.INFLUENCE,
    SectionId.CONCORDANCE,
    SectionId.OPTIMISM,
    SectionId.CALIBRATION,
)
"""Sections of the question that is shown."""


def _checks(found: ReportInputs) -> Printed:
    check = found.result("check", CheckResult)
    if check is None:
        return Printed()
    if check.blank is not None:
        return Printed(paragraphs=(paragraph(check.blank),))
    shown = sections_printed("check", SHOWN)(found)
    return Printed(
        tables=(verdict_table(check), check_table(check), *shown.tables), note=shown.note
    )


def verdict_table(check: CheckResult) -> ReportTable:
    """Every question put to the model, with its verdict and what it rests on."""
    return table_of(
        "questions",
        "Checks of the model",
        check.questions,
        (
            Column(key="question", head="", value=lambda q: formatting.capital(q.name)),
            Column(
                key="verdict",
                head="verdict",
                value=lambda q: q.verdict,
                cell=lambda q: words(q.verdict, verdict=q.verdict),
            ),
            Column(key="rests_on", head="", value=lambda q: q.words),
        ),
    )


MOVES = {
    "fades": "the ratio comes closer to 1 over time",
    "grows": "the ratio moves away from 1 over time",
    "reverses": "the ratio crosses 1 over time",
}
"""How the smooth line of a ratio moves; its heights are no estimates, so that they are not printed."""


def _moves(term: TermCheck) -> str:
    """The verdict on a term, and where it is doubtful how its ratio moves."""
    moves = MOVES.get(term.course, "") if doubtful(term.verdict) else ""
    return ": ".join(filter(None, (term.verdict, moves)))


@dataclass(frozen=True, slots=True)
class _Line:
    """A test with its verdict."""

    label: str
    verdict: Cell
    test: ChiSquared

    @property
    def note(self) -> str:
        return f"chi_squared: {self.test.blank}" if self.test.blank else ""

    def cell(self, place: int) -> Cell:
        """The statistic, its degrees of freedom, or its p."""
        test = self.test
        cells = test_cells(words(self.label), test.statistic, test.df, test.p)
        return cells[place] if place < len(cells) else Cell(text="")


def check_table(check: CheckResult) -> ReportTable:
    """The test of proportional hazards, a line a term and all together."""
    lines = [_Line(t.label, words(_moves(t), verdict=t.verdict), t.test) for t in check.terms]
    if check.together is not None:
        lines.append(_Line(check.together.name, words(""), check.together))
    return table_of(
        "checks",
        "Test of proportional hazards",
        lines,
        (
            Column(key="term", head="", value=lambda one: one.label),
            Column(
                key="verdict",
                head="",
                value=lambda one: one.verdict.text or None,
                cell=lambda one: one.verdict,
            ),
            Column(
                key="chi_squared",
                head="χ²",
                value=lambda one: one.test.statistic,
                cell=lambda one: one.cell(1),
            ),
            Column(
                key="df", head="df", value=lambda one: one.test.df, cell=lambda one: one.cell(2)
            ),
            Column(key="p", head="p", value=lambda one: one.test.p, cell=lambda one: one.cell(3)),
            *notes_beside(lines, lambda one: one.note),
        ),
        "Score test of a ratio that changes with time (Grambsch & Therneau 1994). A large p is no proof "
        "that a ratio is constant.",
    )


PIECE = Piece(
    key="checks",
    title="Checks",
    words="checks",
    shows="the verdict of each check and what it rests on",
    shortest="journal",
    render=_checks,
    needs=("check",),
    parts=("check/optimism",),
    sections=SHOWN,
    offer="Checks of the model",
)
