"""The plan that was sealed, and what departs from it."""

from datetime import UTC, datetime

from hourglass.report.inputs import ReportInputs
from hourglass.report.pieces.cited import paragraph
from hourglass.report.pieces.piece import Piece, Printed
from hourglass.report.tables import Column, table_of
from hourglass.study.plans.departures import Departure, in_words


def _plan(found: ReportInputs) -> Printed:
    plan = found.sealed
    if plan is None:
        return Printed()
    sealed = _moment(plan.at)
    text = (
        f"The plan was sealed on {sealed}"
        if plan.here
        else f"The plan came sealed, by its own word on {sealed}"
    )
    order = "before" if plan.before else "after"
    if plan.before is not None:
        placed = "" if plan.here else f"; it was put in place on {_moment(plan.placed)}"
        text += f"{placed}, {order} the data were read"
    sealing = paragraph(f"{text}.", f"Its SHA-256 is {plan.sha256}.")
    if not plan.departures:
        return Printed(paragraphs=(sealing, paragraph(in_words(plan.departures))))
    table = table_of("departures", "What departs from the plan", plan.departures, COLUMNS)
    return Printed(tables=(table,), paragraphs=(sealing,))


def _why(departure: Departure) -> str:
    on = "" if departure.on is None else f"on {departure.on:%-d %B %Y}"
    return ", ".join(part for part in (departure.reason, on) if part)


COLUMNS: tuple[Column[Departure], ...] = (
    Column(key="about", head="", value=lambda one: one.about),
    Column(key="planned", head="planned", value=lambda one: one.planned),
    Column(key="as_it_is", head="as it is", value=lambda one: one.now),
    Column(key="why_and_when", head="why, and when", value=_why),
)


def _moment(at: datetime) -> str:
    moment = at.astimezone(UTC)
    return f"{moment:%-d %B %Y} at {moment:%H:%M} UTC"


PIECE = Piece(
    key="plan",
    title="Plan",
    words="the sealed plan and what departs from it",
    shows="what departs from the plan",
    shortest="journal",
    render=_plan,
)
