"""The plan that was sealed, and what departs from it."""

from datetime import UTC, datetime

from hourglass.analysis.shared.cell import words
from hourglass.report.pieces.piece import Findings, Piece, Printed
from hourglass.report.tables import ReportRow, ReportTable
from hourglass.study.plans.departures import Departure, in_words

HEAD = ("", "planned", "as it is", "why, and when")


def _plan(found: Findings) -> Printed:
    plan = found.sealed
    if plan is None:
        return Printed()
    sealed = _moment(plan.at)
    said = (
        f"The plan was sealed on {sealed}"
        if plan.here
        else f"The plan came sealed, by its own word on {sealed}"
    )
    order = "before" if plan.before else "after"
    if plan.before is not None:
        placed = "" if plan.here else f"; it was put in place on {_moment(plan.placed)}"
        said += f"{placed}, {order} the data were read"
    paragraphs = [f"{said}. Its SHA-256 is {plan.sha256}."]
    if not plan.departures:
        return Printed(paragraphs=(*paragraphs, in_words(plan.departures)))
    rows = tuple(_row(departure) for departure in plan.departures)
    table = ReportTable(
        key="departures", title="What departs from the plan", head=HEAD, keys=HEAD, rows=rows
    )
    return Printed(paragraphs=tuple(paragraphs), tables=(table,))


def _row(departure: Departure) -> ReportRow:
    on = "" if departure.on is None else f"on {departure.on:%-d %B %Y}"
    why = ", ".join(part for part in (departure.reason, on) if part)
    cells = (departure.about, departure.planned, departure.now, why)
    return ReportRow(tuple(words(cell) for cell in cells), cells)


def _moment(at: datetime) -> str:
    moment = at.astimezone(UTC)
    return f"{moment:%-d %B %Y} at {moment:%H:%M} UTC"


PIECE = Piece(
    key="plan", title="Plan", words="the sealed plan and what departs from it", render=_plan
)
