"""The first page: what was asked, who was followed, the curves, and the answer."""

from collections.abc import Iterator
from dataclasses import replace

from hourglass.analysis.check.result import CheckResult
from hourglass.analysis.compare.result import CompareResult
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.estimate.result import EstimateResult
from hourglass.analysis.model.readings import CoefficientReading, RatioReading
from hourglass.analysis.model.result import ModelResult
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.cell import Cell, estimate, p_cell, words
from hourglass.analysis.shared.curve_form import study_form
from hourglass.analysis.shared.curve_readings import CurveReading
from hourglass.analysis.shared.declared import statement_of
from hourglass.analysis.shared.naming import UNNAMED_EVENT
from hourglass.analysis.shared.verdict import doubtful
from hourglass.report.findings import Findings
from hourglass.report.pieces.cautions import cautions_of, gravest
from hourglass.report.pieces.curves import drawn_curves
from hourglass.report.pieces.group_columns import counted_columns, median_columns
from hourglass.report.pieces.piece import Piece, Printed
from hourglass.report.sentences import worded
from hourglass.report.tables import Column, ReportTable, table_of

FILE = "summary"
MOST_NAMED = 4
"""Groups that are named in the question; more are counted."""


def _summary(found: Findings) -> Printed:
    compared = found.result("compare", CompareResult)
    compared = None if compared is None or compared.blank is not None else compared
    question, followed = _question(found, compared), _followed(found)
    test, *others = [*_answers(found, compared), ""]
    drawn = drawn_curves(found)
    return Printed(
        paragraphs=(question, f"{followed} {test}".rstrip(), " ".join(others).rstrip()),
        shows=_shows(found, compared),
        tables=tuple(_tables(found, compared)),
        figure=None if drawn is None else replace(drawn, key="curves", height=_height(compared)),
        cautions=gravest(cautions_of(found)),
    )


def _height(compared: CompareResult | None) -> float:
    """A low figure, so that the page holds the summary; a line of numbers at risk for each group."""
    groups = 1 if compared is None else len(compared.curves)
    return 0.43 + 0.025 * groups


def _question(found: Findings, compared: CompareResult | None) -> str:
    event = found.cohort.event_name
    if compared is not None and _each(found):
        return worded(FILE, "question of variables", event=event)
    if compared is not None and compared.by is not None:
        labels = [compared.group(curve.label) for curve in compared.curves]
        groups = f"the {wording.grouped(len(labels))} groups of {compared.by}"
        if len(labels) <= MOST_NAMED:
            groups = wording.listed(labels)
        return worded(FILE, "question of groups", event=event, groups=groups)
    model = found.stage("model")
    if isinstance(model, ModelResult) and model.terms:
        terms = wording.listed([term.label for term in model.terms])
        return worded(FILE, "question of rates", event=event, terms=terms)
    return worded(FILE, "question of curves", event=event, rows=found.cohort.rows_are)


def _each(found: Findings) -> bool:
    """Whether each variable is tested in turn."""
    return statement_of(found.statements, CompareStatement).each


def _followed(found: Findings) -> str:
    cohort = found.cohort
    subjects = wording.count(cohort.subjects, cohort.rows_are)
    were = wording.were(cohort.subjects)
    median = cohort.median_follow_up
    who = (
        worded(FILE, "followed without a median", subjects=subjects, were=were)
        if median.time is None
        else worded(
            FILE,
            "followed",
            subjects=subjects,
            were=were,
            median=wording.computed_time(median.time, cohort.decimals),
            unit=cohort.unit,
        )
    )
    event = cohort.event_name
    named = "" if event == UNNAMED_EVENT else f" ({event})"
    seen = worded(
        FILE,
        "observed with competing" if cohort.competing else "observed",
        events=wording.count(cohort.events, "events") + named,
        were=wording.were(cohort.events),
        censored=wording.grouped(cohort.censored),
        were_censored=wording.were(cohort.censored),
        competing=wording.grouped(cohort.competing),
    )
    return f"{who} {seen}"


def _answers(found: Findings, compared: CompareResult | None) -> Iterator[str]:
    """What the test says, and the ratio; without groups, the median."""
    if compared is not None:
        yield _of_test(found, compared)
        yield from _of_ratio(found, compared)
        return
    model, curve = found.result("model", ModelResult), found.result("estimate", EstimateResult)
    if curve is not None and curve.blank is None:
        median = curve.curve.median
        shown = median.whole(found.cohort.decimals)
        shown += f" {found.cohort.unit}" if median.time is not None else ""
        yield worded(FILE, "median", event=found.cohort.event_name, median=shown)
    if model is not None and model.blank is None:
        yield from model.words[:1]


def _of_test(found: Findings, compared: CompareResult) -> str:
    test, event = compared.test, found.cohort.event_name
    if _each(found):
        return worded(FILE, "variables tested", test=compared.test_name)
    if test.p is None:
        return worded(FILE, "no test", reason=test.blank)
    within = statement_of(found.statements, CompareStatement).within
    name_of_test = f"stratified {compared.test_name}" if within else compared.test_name
    tested = (
        f"{name_of_test} χ² {wording.statistic(test.statistic)}, {test.df} df, "
        f"{wording.p_phrase(test.p)}"
    )
    kind = worded(FILE, _kind(found))
    name = "groups differ" if test.p < wording.ALPHA else "groups may differ"
    return worded(FILE, name, event=event, test=tested, kind=kind)


def _kind(found: Findings) -> str:
    """Whether the comparison was planned."""
    if found.sealed is None or found.sealed.before is False:
        return "exploratory"
    return "planned" if found.sealed.planned("compare") else "departed"


def _of_ratio(found: Findings, compared: CompareResult) -> Iterator[str]:
    """The ratio of the one other group against the reference; of several, the table has them."""
    model = _model_of(found, compared)
    if model is None or len(compared.curves) != 2:
        return
    reference, other = compared.curves
    one = _coefficient(model, compared, other)
    reading = None if one is None else _reading(model, one)
    if reading is None or reading.ratio is None:
        return
    yield worded(
        FILE,
        "ratio of changing hazards" if _changes(found, compared.by) else "ratio",
        event=found.cohort.event_name,
        group=compared.group(other.label),
        reference=compared.group(reference.label),
        ratio=reading.shown,
        limits=f"{_level(found)} {reading.interval}; {wording.p_phrase(reading.p)}",
        adjusted="".join(f"; {one}" for one in _conditions(found, model, compared)),
    )


def _model_of(found: Findings, compared: CompareResult) -> ModelResult | None:
    """The model, where it has one ratio of a group against the same reference and its event is that of the
    curves: a ratio within a period or a level of another term is none of the groups as a whole."""
    model = found.result("model", ModelResult)
    if model is None or model.blank is not None:
        return None
    asked = statement_of(found.statements, ModelStatement)
    there = any(_coefficient(model, compared, curve) is not None for curve in compared.curves)
    return model if there and not asked.cause else None


def _coefficient(
    model: ModelResult, compared: CompareResult, group: CurveReading
) -> CoefficientReading | None:
    """The coefficient of a group against the reference of the comparison."""
    of_groups = (c for term in model.terms if term.name == compared.by for c in term.coefficients)
    reference = compared.curves[0].label
    return next((c for c in of_groups if (c.label, c.against) == (group.label, reference)), None)


def _level(found: Findings) -> str:
    asked = statement_of(found.statements, ModelStatement)
    return study_form(found.statements).at_level(asked.confidence).ci


def _reading(model: ModelResult, one: CoefficientReading) -> RatioReading:
    return one.alone if len(model.terms) == 1 else one.adjusted


def _conditions(found: Findings, model: ModelResult, compared: CompareResult) -> list[str]:
    """What the ratios of the groups hold for: the other terms, and the strata."""
    asked = statement_of(found.statements, ModelStatement)
    others = [term.label for term in model.terms if term.name != compared.by]
    adjusted = [worded(FILE, "adjusted", terms=wording.listed(others))] if others else []
    strata = wording.listed(list(asked.strata))
    return [*adjusted, *([worded(FILE, "stratified", strata=strata)] if strata else [])]


def _changes(found: Findings, column: str | None) -> bool:
    """Whether the check of proportional hazards speaks against one ratio of the groups."""
    check = found.result("check", CheckResult)
    if check is None:
        return False
    return any(term.name == column and doubtful(term.verdict) for term in check.terms)


def _tables(found: Findings, compared: CompareResult | None) -> Iterator[ReportTable]:
    """Medians and hazard ratios side by side, a row a group."""
    if compared is None or not compared.curves:
        return
    cohort, model = found.cohort, _model_of(found, compared)
    columns = [*counted_columns(cohort, compared), *median_columns(cohort)]
    note = worded(FILE, "note", limits=compared.curves[0].limits)
    if model is not None:
        columns += _ratio_columns(model, compared)
        ratios = worded(
            FILE,
            "note of ratios",
            reference=compared.group(compared.curves[0].label),
            adjusted="".join(f", {one}" for one in _conditions(found, model, compared)),
            level=_level(found),
        )
        note = f"{note} {ratios}"
    title = "Medians and hazard ratios" if model is not None else "Medians"
    yield table_of("summary", title, compared.curves, columns, note)


def _shows(found: Findings, compared: CompareResult | None) -> str:
    curves = "the curves with the numbers at risk"
    if compared is None or not compared.curves:
        return curves
    ratios = " and hazard ratios" if _model_of(found, compared) is not None else ""
    return f"medians{ratios} of the groups, and {curves}"


def _ratio_columns(model: ModelResult, compared: CompareResult) -> list[Column[CurveReading]]:
    def reading(curve: CurveReading) -> RatioReading | None:
        one = _coefficient(model, compared, curve)
        return None if one is None else _reading(model, one)

    def ratio(curve: CurveReading) -> Cell:
        one = reading(curve)
        if one is None:
            return words("reference" if curve is compared.curves[0] else "")
        return estimate(one.worded, one.ratio, one.lower, one.upper)

    def p(curve: CurveReading) -> float | None:
        one = reading(curve)
        return None if one is None else one.p

    def raw(curve: CurveReading) -> float | None:
        one = reading(curve)
        return None if one is None else one.ratio

    return [
        Column(key="hazard_ratio", head="hazard ratio", value=raw, cell=ratio),
        Column(
            key="p",
            head="p",
            value=p,
            cell=lambda c: p_cell(p(c)) if p(c) is not None else words(""),
        ),
    ]


PIECE = Piece(
    key="summary",
    title="Summary",
    words="the summary",
    shortest="page",
    render=_summary,
    needs=("estimate", "compare"),
    uses=("model", "check"),
)
