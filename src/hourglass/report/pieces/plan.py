"""The plan that was sealed, and what departs from it."""

from datetime import UTC

from hourglass.analysis.shared.cell import words
from hourglass.report.pieces.piece import Findings, Piece, Printed
from hourglass.report.tables import ReportRow, ReportTable

HEAD = ("", "planned", "as it is")


def _plan(found: Findings) -> Printed:
    plan = found.sealed
    if plan is None:
        return Printed()
    day = plan.at.astimezone(UTC)
    read = min(file.read_at for file in found.files)
    order = "before" if plan.at < read else "after"
    paragraphs = [
        f"The plan was sealed on {day:%-d %B %Y} at {day:%H:%M} UTC, {order} the data were read "
        f"({read:%-d %B %Y}). Its SHA-256 is {plan.sha256}."
    ]
    if not plan.departures:
        return Printed(paragraphs=(*paragraphs, "Nothing departs from it."))
    rows = tuple(
        ReportRow((words(d.about), words(d.planned), words(d.now)), (d.about, d.planned, d.now))
        for d in plan.departures
    )
    table = ReportTable("departures", "What departs from the plan", HEAD, HEAD, rows)
    return Printed(paragraphs=tuple(paragraphs), tables=(table,))


PIECE = Piece("plan", "Plan", "the sealed plan and what departs from it", _plan)
