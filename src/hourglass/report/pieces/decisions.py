"""What people decided, and why."""

from hourglass.analysis.shared import formatting
from hourglass.report.inputs import LoggedDecision, ReportInputs
from hourglass.report.pieces.cited import paragraph
from hourglass.report.pieces.piece import Piece, Printed
from hourglass.report.tables import Column, table_of


def undecided(found: ReportInputs) -> str:
    """The findings that nobody has decided about, in a sentence; blank where there are none."""
    open_ones = found.prepare.findings
    if not open_ones:
        return ""
    titles = "; ".join(one.title for one in open_ones)
    n = len(open_ones)
    return f"{formatting.count(n, 'findings')} {formatting.were(n)} not decided: {titles}."


def _decisions(found: ReportInputs) -> Printed:
    left = undecided(found)
    if not found.decisions:
        return Printed(paragraphs=(paragraph(left or "No decisions were recorded."),))
    table = table_of("decisions", "Decisions", found.decisions, COLUMNS)
    return Printed(paragraphs=(paragraph(left),) if left else (), tables=(table,))


COLUMNS: tuple[Column[LoggedDecision], ...] = (
    Column(key="about", head="about", value=lambda one: one.about),
    Column(key="decision", head="decision", value=lambda one: one.outcome),
    Column(key="reason", head="reason", value=lambda one: one.reason),
    Column(key="decided_on", head="decided on", value=lambda one: f"{one.made_at:%-d %B %Y}"),
)
PIECE = Piece(
    key="decisions",
    title="Decisions",
    words="decisions",
    shows="what was decided about the data and the analysis, and why",
    render=_decisions,
)
