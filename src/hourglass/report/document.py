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
from hourglass.analysis.estimate import EstimateResult
from hourglass.analysis.model import ModelResult
from hourglass.analysis.preparation import PrepareResult
from hourglass.analysis.sentence import Entry, Option, Sentence, Slot, sentence
from hourglass.analysis.statements import PIECES, Piece, ReportStatement
from hourglass.report import svg
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
    """Everything a report is made from."""

    study: str
    file: str
    sha256: str
    prepare: PrepareResult
    estimate: EstimateResult
    compare: CompareResult
    model: ModelResult
    check: CheckResult
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


def tables(found: Findings, statement: ReportStatement) -> tuple[ReportTable, ...]:
    """The tables of the pieces the report holds."""
    made: dict[Piece, ReportTable] = {"rows": ledger_table(found.prepare.ledger)}
    made["groups"] = group_table(found.estimate, found.compare, found.times)
    if found.model.blank is None:
        made["ratios"] = ratio_table(found.model)
    if found.check.blank is None:
        made["checks"] = check_table(found.check)
    return tuple(table for piece, table in made.items() if piece in statement.pieces)


def to_html(found: Findings, statement: ReportStatement) -> str:
    """The whole report as one HTML file without any outside part."""
    by_key = {table.key: table for table in tables(found, statement)}
    figure = found.compare.figure or found.estimate.figure
    return _templates.get_template("report.html.j2").render(
        title=statement.title or found.study,
        found=found,
        pieces=statement.pieces,
        tables=by_key,
        figure=Markup(svg.draw(figure, ("survival", "followed"))),  # noqa: S704 (escaped in svg)
        figure_note=next(t.note for t in figure.tracks if t.id == "survival"),
        paragraphs=_paragraphs(found),
        cautions=_cautions(found),
        version=VERSION,
        wording=wording,
    )


def _paragraphs(found: Findings) -> dict[str, str]:
    cohort, digits = found.estimate.cohort, found.estimate.cohort.time_digits
    median = next(q for q in found.estimate.curve.quartiles if q.q == 0.5)
    follow_up = (
        f"{wording.count(cohort.subjects, cohort.rows_are).capitalize()} were followed"
        + ("" if cohort.rows == cohort.subjects else f" in {cohort.rows:,} rows")
        + ", for a median of "
        f"{wording.time(cohort.follow_up.time, digits)} {cohort.unit} (by the reversed curve). "
        f"{wording.count(cohort.events, 'events')} were seen, {cohort.censored:,} were censored"
        + (f", {cohort.competing:,} had a competing event. " if cohort.competing else ". ")
        + f"The median time to {cohort.event_name} was {quantile_text(median, digits)} "
        f"{cohort.unit}."
    )
    said = {"follow-up": follow_up, "groups": "", "ratios": "", "checks": ""}
    test = found.compare.test
    if found.compare.asked:
        if test.p is None:
            said["groups"] = f"There is no log-rank test: {test.blank}."
        else:
            seen = wording.listed(
                [
                    f"{g.observed:,} events in {g.label} where {g.expected:.1f} were expected"
                    for g in found.compare.groups
                ]
            )
            said["groups"] = (
                f"There were {seen} if the groups did not differ (log-rank χ² "
                f"{wording.statistic(test.statistic)}, {test.df} df, {wording.p_phrase(test.p)})."
            )
            if found.compare.left_out:
                left = wording.count(found.compare.left_out, "rows")
                said["groups"] += f" {left} without a group were left out."
    if found.model.blank is None:
        left = "; ".join(f"{o.rows:,} for want of {o.column}" for o in found.model.left_out)
        said["ratios"] = " ".join(found.model.words) + (
            f" The model rests on {found.model.rows:,} rows and {found.model.events:,} events"
            + (f" ({found.model.rows_left_out:,} rows left out: {left})" if left else "")
            + "."
        )
        if found.model.concordance is not None and found.model.concordance_error is not None:
            said["ratios"] += (
                f" It puts {wording.percent(found.model.concordance)} of the pairs that can be "
                f"compared in the order in which they happened (concordance "
                f"{found.model.concordance:.3f}, standard error "
                f"{found.model.concordance_error:.3f})."
            )
    if found.check.blank is None:
        said["checks"] = found.check.sentence.text
    return said


def _cautions(found: Findings) -> list[Caution]:
    seen: dict[str, Caution] = {}
    for caution in (*found.estimate.cautions, *found.compare.cautions, *found.model.cautions):
        seen.setdefault(caution.key, caution)
    return list(seen.values())
