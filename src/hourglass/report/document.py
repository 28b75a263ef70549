"""The report as one page that reads like a results section, self-contained and printable."""

from dataclasses import dataclass
from datetime import datetime

from jinja2 import Environment, PackageLoader, StrictUndefined
from markupsafe import Markup

from hourglass import VERSION
from hourglass.analysis import wording
from hourglass.analysis.cautions import Caution
from hourglass.analysis.check import CheckResult
from hourglass.analysis.compare import CompareResult
from hourglass.analysis.context import CohortSummary
from hourglass.analysis.estimate import EstimateResult
from hourglass.analysis.model import ModelResult
from hourglass.analysis.preparation import PrepareResult
from hourglass.analysis.sentence import Entry, Option, Sentence, Slot, sentence
from hourglass.analysis.statements import PIECES, Piece, ReportStatement, Stage
from hourglass.report import svg
from hourglass.report.report_result import Offer
from hourglass.report.tables import (
    ReportTable,
    check_table,
    group_table,
    ledger_table,
    quantile_text,
    ratio_table,
)

PIECE_WORDS: dict[Piece, str] = {
    "rows": "where the rows went",
    "follow-up": "follow-up and survival of everyone",
    "groups": "the table of groups",
    "curves": "the figure of curves",
    "ratios": "hazard ratios",
    "checks": "checks",
    "decisions": "decisions",
}
_templates = Environment(
    loader=PackageLoader("hourglass.report"), autoescape=True, undefined=StrictUndefined
)


@dataclass(frozen=True, slots=True)
class LoggedDecision:
    """A standing decision as the report tells it."""

    stage: str
    sentence: str
    reason: str
    made_at: datetime


@dataclass(frozen=True, slots=True)
class Findings:
    """Everything a report is made from; a stage that nobody asked for has no result here."""

    study: str
    file: str
    sha256: str
    prepare: PrepareResult
    cohort: CohortSummary
    estimate: EstimateResult | None
    compare: CompareResult | None
    model: ModelResult | None
    check: CheckResult | None
    decisions: tuple[LoggedDecision, ...]
    times: tuple[float, ...]


def report_sentence(statement: ReportStatement, study: str) -> Sentence:
    """The report's own statement."""
    chosen = [p for p in PIECES if p in statement.pieces]
    options = [
        Option(
            label=PIECE_WORDS[p],
            note="in the report" if p in chosen else "left out",
            field="pieces",
            value=[q for q in PIECES if (q in chosen) != (q == p)],
            chosen=p in chosen,
        )
        for p in PIECES
    ]
    all_of_it = len(chosen) == len(PIECES)
    return sentence(
        "Report ",
        Slot(
            id="title",
            label=statement.title or study,
            title="Title of the report",
            entry=Entry(kind="text", field="title", label="Title", value=statement.title or study),
        ),
        ", with ",
        Slot(
            id="pieces",
            label="all its pieces"
            if all_of_it
            else wording.listed([PIECE_WORDS[p] for p in chosen]) or "nothing",
            title="Pieces of the report",
            options=options,
        ),
        ".",
    )


def printed(found: Findings, statement: ReportStatement) -> list[Piece]:
    """The pieces that are printed: those of the statement whose stage somebody asked for."""
    there = {
        "rows": True,
        "decisions": True,
        "follow-up": found.estimate is not None,
        "groups": found.estimate is not None or found.compare is not None,
        "curves": found.estimate is not None or found.compare is not None,
        "ratios": found.model is not None,
        "checks": found.check is not None,
    }
    return [piece for piece in PIECES if piece in statement.pieces and there[piece]]


def offers(found: Findings, statement: ReportStatement) -> list[Offer]:
    """What could be printed if somebody opened its stage."""
    could: list[tuple[Stage, object, Piece, str]] = [
        ("estimate", found.estimate, "follow-up", "Survival of everyone"),
        ("compare", found.compare, "groups", "A comparison of groups"),
        ("model", found.model, "ratios", "Hazard ratios"),
        ("check", found.check, "checks", "Checks of the model"),
    ]
    return [
        Offer(stage=stage, sentence=f"{what}: printed once {stage.capitalize()} has been opened.")
        for stage, result, piece, what in could
        if result is None and piece in statement.pieces
    ]


def tables(found: Findings, statement: ReportStatement) -> tuple[ReportTable, ...]:
    """The tables of the pieces that are printed."""
    made: dict[Piece, ReportTable] = {"rows": ledger_table(found.prepare.ledger)}
    if found.estimate is not None or found.compare is not None:
        made["groups"] = group_table(found.cohort, found.estimate, found.compare, found.times)
    if found.model is not None and found.model.blank is None:
        made["ratios"] = ratio_table(found.model)
    if found.check is not None and found.check.blank is None:
        made["checks"] = check_table(found.check)
    pieces = printed(found, statement)
    return tuple(table for piece, table in made.items() if piece in pieces)


def to_html(found: Findings, statement: ReportStatement) -> str:
    """The whole report as one HTML file without any outside part."""
    by_key = {table.key: table for table in tables(found, statement)}
    compared = None if found.compare is None else found.compare.figure
    figure = compared or (None if found.estimate is None else found.estimate.figure)
    return _templates.get_template("report.html.j2").render(
        title=statement.title or found.study,
        found=found,
        pieces=printed(found, statement),
        tables=by_key,
        figure=figure and Markup(svg.draw(figure, ("survival", "at_risk"))),  # noqa: S704 (escaped there)
        figure_note=figure and next(t.note for t in figure.tracks if t.id == "survival"),
        paragraphs=_paragraphs(found),
        cautions=_cautions(found),
        version=VERSION,
        wording=wording,
    )


def _paragraphs(found: Findings) -> dict[str, str]:
    return {
        "follow-up": "" if found.estimate is None else _follow_up(found.estimate),
        "groups": "" if found.compare is None else _groups(found.compare),
        "ratios": "" if found.model is None else _ratios(found.model),
        "checks": "" if found.check is None else found.check.sentence.text,
    }


def _follow_up(estimate: EstimateResult) -> str:
    cohort, digits = estimate.cohort, estimate.cohort.time_digits
    median = next(q for q in estimate.curve.quartiles if q.q == 0.5)
    return (
        f"{wording.count(cohort.subjects, cohort.rows_are).capitalize()} were followed"
        + ("" if cohort.rows == cohort.subjects else f" in {cohort.rows:,} rows")
        + ", for a median of "
        f"{wording.time(cohort.follow_up.time, digits)} {cohort.unit} (by the reversed curve). "
        f"{wording.count(cohort.events, 'events')} were seen, {cohort.censored:,} were censored"
        + (f", {cohort.competing:,} had a competing event. " if cohort.competing else ". ")
        + f"The median time to {cohort.event_name} was {quantile_text(median, digits)} "
        f"{cohort.unit}."
    )


def _groups(compare: CompareResult) -> str:
    test = compare.test
    if not compare.asked:
        return ""
    if test.p is None:
        return f"There is no log-rank test: {test.blank}."
    seen = wording.listed(
        [
            f"{g.observed:,} events in {g.label} where {wording.rounded(g.expected, 1)} were expected"
            for g in compare.groups
        ]
    )
    said = (
        f"There were {seen} if the groups did not differ (log-rank χ² "
        f"{wording.statistic(test.statistic)}, {test.df} df, {wording.p_phrase(test.p)})."
    )
    if compare.left_out:
        said += f" {wording.count(compare.left_out, 'rows')} without a group were left out."
    return said


def _ratios(model: ModelResult) -> str:
    if model.blank is not None:
        return ""
    left = "; ".join(f"{o.rows:,} for want of {o.column}" for o in model.left_out)
    said = " ".join(model.words) + (
        f" The model rests on {model.rows:,} rows and {model.events:,} events"
        + (f" ({model.rows_left_out:,} rows left out: {left})" if left else "")
        + "."
    )
    if model.concordance is not None and model.concordance_error is not None:
        said += (
            f" It puts {wording.percent(model.concordance)} of the pairs that can be compared in the "
            f"order in which they happened (concordance {wording.rounded(model.concordance, 3)}, "
            f"standard error {wording.rounded(model.concordance_error, 3)})."
        )
    return said


def _cautions(found: Findings) -> list[Caution]:
    seen: dict[str, Caution] = {}
    for result in (found.estimate, found.compare, found.model):
        for caution in () if result is None else result.cautions:
            seen.setdefault(caution.key, caution)
    return list(seen.values())
