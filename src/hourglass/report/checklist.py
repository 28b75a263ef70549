"""What readers of time-to-event results need to find, and where the report has it."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from hourglass.analysis.model.result import ModelResult
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.report.composed import Composed
from hourglass.report.inputs import ReportInputs
from hourglass.report.pieces.decisions import undecided

State = Literal["reported", "open", "not needed"]


class PointView(FrozenModel):
    """A point of the checklist: where it is reported, or what is open.

    ``piece`` is the key of the piece that reports it; ``words`` add to it.
    """

    key: str
    title: str
    state: State
    piece: str = ""
    words: str = ""


Answer = tuple[State, str, str]
"""The state of a point, the piece that shows it, and words."""
Answers = Callable[[ReportInputs, frozenset[str]], Answer]
"""From what the report is made of, and the pieces that are printed."""


@dataclass(frozen=True, slots=True)
class Point:
    """A point of the checklist."""

    key: str
    title: str
    answers: Answers


def checklist(found: ReportInputs, made: Composed) -> list[PointView]:
    """Every point, with where the report has it."""
    printed = frozenset(piece.key for piece in made.pieces)
    points = []
    for point in CHECKLIST:
        state, piece, words = point.answers(found, printed)
        points.append(
            PointView(key=point.key, title=point.title, state=state, piece=piece, words=words)
        )
    return points


def _reported_in(pieces: tuple[str, ...], missing: str) -> Answers:
    """The first of these pieces that is printed reports it; without one, ``missing`` is the advice."""

    def answer(found: ReportInputs, printed: frozenset[str]) -> Answer:
        piece = next((key for key in pieces if key in printed), "")
        return ("reported", piece, "") if piece else ("open", "", missing)

    return answer


def _competing(found: ReportInputs, printed: frozenset[str]) -> Answer:
    if not found.cohort.competing:
        return "not needed", "", "No competing event was seen."
    return _reported_in(
        ("tests", "candidates"),
        "Competing events were seen: report cumulative incidence in Compare.",
    )(found, printed)


def _missing(found: ReportInputs, printed: frozenset[str]) -> Answer:
    model = found.results.get("model")
    if isinstance(model, ModelResult) and model.rows_left_out and "ratios" in printed:
        return "reported", "ratios", ""
    return _reported_in(("baseline",), "Print the baseline table, which counts what is missing.")(
        found, printed
    )


def _undecided(found: ReportInputs, printed: frozenset[str]) -> Answer:
    left = undecided(found)
    if left:
        return "open", "decisions" if "decisions" in printed else "", f"{left} Decide in Prepare."
    return "not needed", "", "Every finding was decided."


def _planned(found: ReportInputs, printed: frozenset[str]) -> Answer:
    if "plan" in printed:
        return "reported", "plan", ""
    model = found.statements.get("model")
    if (
        isinstance(model, ModelStatement)
        and any(one.planned for one in model.kept)
        and "kept-models" in printed
    ):
        return "reported", "kept-models", ""
    return "open", "", "Seal the plan, or name the planned model in Model."


def _difference(found: ReportInputs, printed: frozenset[str]) -> Answer:
    if not found.has("compare"):
        return "not needed", "", "No groups are compared."
    return _reported_in(
        ("contrasts", "ratios"), "Print how far the groups differ, with its interval."
    )(found, printed)


def _model(pieces: tuple[str, ...], missing: str) -> Answers:
    """A point that is needed where there is a model."""

    def of(found: ReportInputs, printed: frozenset[str]) -> Answer:
        if found.stage("model") is None:
            return "not needed", "", "There is no model."
        return _reported_in(pieces, missing)(found, printed)

    return of


CHECKLIST: tuple[Point, ...] = (
    Point(
        "source",
        "Where the data come from",
        _reported_in(("files",), "Print the files with their hashes."),
    ),
    Point(
        "measured",
        "How follow-up is measured: its beginning, its end, its unit",
        _reported_in(("rows", "methods"), "Print the methods."),
    ),
    Point(
        "event",
        "What the event is, and what ends follow-up without it",
        _reported_in(("rows", "methods"), "Print the methods."),
    ),
    Point(
        "rows",
        "Which rows were set aside, and why",
        _reported_in(("rows",), "Print the rows read, set aside and analysed."),
    ),
    Point("missing", "What is missing, and what was done about it", _missing),
    Point(
        "who",
        "Baseline characteristics, in each group",
        _reported_in(("baseline",), "Print the baseline table."),
    ),
    Point(
        "length",
        "How long follow-up was, over all subjects",
        _reported_in(("follow-up", "summary"), "Open Estimate, which has the median follow-up."),
    ),
    Point(
        "counts",
        "How many had the event, and how many were censored",
        _reported_in(("groups", "follow-up", "summary"), "Open Estimate or Compare."),
    ),
    Point(
        "curves",
        "Curves with the numbers at risk",
        _reported_in(("summary", "curves"), "Print the summary or the figure of curves."),
    ),
    Point(
        "intervals",
        "Survival with intervals, at stated times",
        _reported_in(("groups", "estimates"), "Print the table of groups."),
    ),
    Point("difference", "How far groups differ, with an interval", _difference),
    Point("competing", "Competing events, reported as such", _competing),
    Point(
        "ratios",
        "Hazard ratios, unadjusted and adjusted, with intervals",
        _model(("ratios", "ratios-and-medians"), "Print the hazard ratios."),
    ),
    Point(
        "assumptions",
        "Whether the model may be believed: proportional hazards, scale, single rows",
        _model(("checks",), "Open Check."),
    ),
    Point("planned", "What was planned before results were seen", _planned),
    Point("findings", "Whether every finding of Prepare was decided", _undecided),
    Point(
        "decisions",
        "What was decided on the way, with reasons",
        _reported_in(("decisions",), "Print the decisions."),
    ),
    Point(
        "program",
        "By what program, settings and seeds",
        _reported_in(("session",), "Print the program and its settings."),
    ),
)
