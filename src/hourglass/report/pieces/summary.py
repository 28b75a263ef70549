"""The first page: the question, who was followed, the curves, and the answer."""

from collections.abc import Iterator, Mapping
from dataclasses import replace

from hourglass.analysis.check.result import CheckResult
from hourglass.analysis.compare.result import CompareResult
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.estimate.result import EstimateResult
from hourglass.analysis.model.readouts import RatioReadout
from hourglass.analysis.model.result import ModelResult
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import Cell, estimate, p_cell, words
from hourglass.analysis.shared.curve_form import study_form
from hourglass.analysis.shared.curve_readouts import CurveReadout
from hourglass.analysis.shared.declared import statement_of
from hourglass.analysis.shared.naming import UNNAMED_EVENT
from hourglass.analysis.shared.verdict import doubtful
from hourglass.report.inputs import ReportInputs
from hourglass.report.pieces.cautions import cautions_of, most_serious
from hourglass.report.pieces.cited import CitedSentence
from hourglass.report.pieces.curves import drawn_curves
from hourglass.report.pieces.follow_up import median_words
from hourglass.report.pieces.group_columns import counted_columns, median_columns
from hourglass.report.pieces.piece import Piece, Printed
from hourglass.report.sentences import worded
from hourglass.report.tables import Column, ReportTable, table_of
from hourglass.study.actions.action import PREPARE

FILE = "summary"
COMPARED, MODELLED, ESTIMATED = ("compare",), ("model",), ("estimate",)
"""The stages that sentences rest on."""
MAX_NAMED = 4
"""Groups that are named in the question; more are counted."""


def _summary(found: ReportInputs) -> Printed:
    compared = found.result("compare", CompareResult)
    compared = None if compared is None or compared.blank is not None else compared
    answers = tuple(_answers(found, compared))
    followed = CitedSentence(_followed(found), (PREPARE,))
    made = ((_question(found, compared),), (followed, *answers[:1]), answers[1:])
    drawn = drawn_curves(found)
    return Printed(
        paragraphs=tuple(sentences for sentences in made if sentences),
        shows=_shows(found, compared),
        tables=tuple(_tables(found, compared)),
        figure=None if drawn is None else replace(drawn, key="curves", height=_height(compared)),
        cautions=most_serious(cautions_of(found)),
    )


def _height(compared: CompareResult | None) -> float:
    """A low figure, so that the page holds the summary; a line of numbers at risk for each group."""
    groups = 1 if compared is None else len(compared.curves)
    return 0.43 + 0.025 * groups


def _question(found: ReportInputs, compared: CompareResult | None) -> CitedSentence:
    event = found.cohort.event_name
    if compared is not None and _each(found):
        return CitedSentence(worded(FILE, "question of variables", event=event), COMPARED)
    if compared is not None and compared.by is not None:
        labels = [compared.group(curve.label) for curve in compared.curves]
        groups = f"the {formatting.grouped(len(labels))} groups of {compared.by}"
        if len(labels) <= MAX_NAMED:
            groups = formatting.listed(labels)
        return CitedSentence(
            worded(FILE, "question of groups", event=event, groups=groups), COMPARED
        )
    model = found.stage("model")
    if isinstance(model, ModelResult) and model.terms:
        terms = formatting.listed([term.label for term in model.terms])
        return CitedSentence(worded(FILE, "question of rates", event=event, terms=terms), MODELLED)
    return CitedSentence(
        worded(FILE, "question of curves", event=event, rows=found.cohort.rows_are), ESTIMATED
    )


def _each(found: ReportInputs) -> bool:
    """Whether each variable is tested in turn."""
    return statement_of(found.statements, CompareStatement).each


def _followed(found: ReportInputs) -> str:
    cohort = found.cohort
    subjects = formatting.count(cohort.subjects, cohort.rows_are)
    were = formatting.were(cohort.subjects)
    median = cohort.median_follow_up
    who = (
        worded(FILE, "followed without a median", subjects=subjects, were=were)
        if median.time is None
        else worded(
            FILE,
            "followed",
            subjects=subjects,
            were=were,
            median=formatting.computed_time(median.time, cohort.decimals),
            unit=cohort.unit,
        )
    )
    event = cohort.event_name
    named = "" if event == UNNAMED_EVENT else f" ({event})"
    seen = worded(
        FILE,
        "observed with competing" if cohort.competing else "observed",
        events=formatting.count(cohort.events, "events") + named,
        were=formatting.were(cohort.events),
        censored=formatting.grouped(cohort.censored),
        were_censored=formatting.were(cohort.censored),
        competing=formatting.grouped(cohort.competing),
    )
    return f"{who} {seen}"


def _answers(found: ReportInputs, compared: CompareResult | None) -> Iterator[CitedSentence]:
    """The test, and the ratio; without groups, the median."""
    if compared is not None:
        yield CitedSentence(_of_test(found, compared), COMPARED)
        yield from _of_ratio(found, compared)
        return
    estimated, model = found.result("estimate", EstimateResult), found.result("model", ModelResult)
    if estimated is not None and estimated.blank is None:
        event = found.cohort.event_name
        words = worded(FILE, "median", event=event, median=median_words(estimated))
        yield CitedSentence(words, ESTIMATED)
    if model is not None and model.blank is None:
        yield from (CitedSentence(words, MODELLED) for words in model.words[:1])


def _of_test(found: ReportInputs, compared: CompareResult) -> str:
    test, event = compared.test, found.cohort.event_name
    if _each(found):
        return worded(FILE, "variables tested", test=compared.test_name)
    if test.p is None:
        return worded(FILE, "no test", reason=test.blank)
    within = statement_of(found.statements, CompareStatement).within
    tested = formatting.tested(
        f"stratified {compared.test_name}" if within else compared.test_name,
        test.statistic,
        test.df,
        test.p,
    )
    kind = worded(FILE, _kind(found))
    name = "groups differ" if test.p < formatting.ALPHA else "groups may differ"
    return worded(FILE, name, event=event, test=tested, kind=kind)


def _kind(found: ReportInputs) -> str:
    """Whether the comparison was planned."""
    if found.sealed is None or found.sealed.before is False:
        return "exploratory"
    return "planned" if found.sealed.planned("compare") else "departed"


def _of_ratio(found: ReportInputs, compared: CompareResult) -> Iterator[CitedSentence]:
    """The ratio of the one other group against the reference; of several, the table has them."""
    if len(compared.curves) != 2:
        return
    reference, other = compared.curves
    reading = _ratios(found, compared).get(other.label)
    if reading is None or reading.ratio is None:
        return
    changes = _changes(found, compared.by)
    words = worded(
        FILE,
        "ratio of changing hazards" if changes else "ratio",
        event=found.cohort.event_name,
        group=compared.group(other.label),
        reference=compared.group(reference.label),
        ratio=reading.shown,
        limits=f"{_level(found)} {reading.interval}; {formatting.p_phrase(reading.p)}",
        adjusted="".join(f"; {one}" for one in _conditions(found, compared)),
    )
    yield CitedSentence(words, (*MODELLED, "check") if changes else MODELLED)


def _ratios(found: ReportInputs, compared: CompareResult) -> Mapping[str, RatioReadout]:
    """The ratio of each group against the reference of the comparison, by its label.

    None is there where the model has another event than the curves. A ratio within a period or a level of
    another term has a label of its own: it is none of the groups as a whole.
    """
    model = found.result("model", ModelResult)
    if model is None or statement_of(found.statements, ModelStatement).cause:
        return {}
    reference, *others = (curve.label for curve in compared.curves)
    return {
        one.label: one.alone if len(model.terms) == 1 else one.adjusted
        for term in model.terms
        if term.name == compared.by
        for one in term.coefficients
        if one.against == reference and one.label in others
    }


def _level(found: ReportInputs) -> str:
    confidence = statement_of(found.statements, ModelStatement).confidence
    return study_form(found.statements).at_level(confidence).ci


def _conditions(found: ReportInputs, compared: CompareResult) -> Iterator[str]:
    """What the ratios of the groups hold for: the other terms, and the strata."""
    model, stated = (
        found.result("model", ModelResult),
        statement_of(found.statements, ModelStatement),
    )
    terms = () if model is None else model.terms
    others = [term.label for term in terms if term.name != compared.by]
    if others:
        yield worded(FILE, "adjusted", terms=formatting.listed(others))
    if stated.strata:
        yield worded(FILE, "stratified", strata=formatting.listed(list(stated.strata)))


def _changes(found: ReportInputs, column: str | None) -> bool:
    """Whether the check of proportional hazards speaks against one ratio of the groups."""
    check = found.result("check", CheckResult)
    if check is None:
        return False
    return any(term.name == column and doubtful(term.verdict) for term in check.terms)


def _tables(found: ReportInputs, compared: CompareResult | None) -> Iterator[ReportTable]:
    """Medians and hazard ratios side by side, a row a group."""
    if compared is None or not compared.curves:
        return
    cohort, ratios = found.cohort, _ratios(found, compared)
    columns = [*counted_columns(cohort, compared), *median_columns(cohort)]
    title, note = "Medians", worded(FILE, "note", limits=compared.curves[0].limits)
    if ratios:
        columns += _ratio_columns(ratios, compared.curves[0])
        title = "Medians and hazard ratios"
        note += " " + worded(
            FILE,
            "note of ratios",
            reference=compared.group(compared.curves[0].label),
            adjusted="".join(f", {one}" for one in _conditions(found, compared)),
            level=_level(found),
        )
    yield table_of("summary", title, compared.curves, columns, note)


def _shows(found: ReportInputs, compared: CompareResult | None) -> str:
    curves = "the curves with the numbers at risk"
    if compared is None or not compared.curves:
        return curves
    ratios = " and hazard ratios" if _ratios(found, compared) else ""
    return f"medians{ratios} of the groups, and {curves}"


def _ratio_columns(
    ratios: Mapping[str, RatioReadout], reference: CurveReadout
) -> list[Column[CurveReadout]]:
    def shown(curve: CurveReadout) -> Cell:
        one = ratios.get(curve.label)
        if one is None:
            return words("reference" if curve is reference else "")
        return estimate(one.worded, one.ratio, one.lower, one.upper)

    def ratio(curve: CurveReadout) -> float | None:
        one = ratios.get(curve.label)
        return None if one is None else one.ratio

    def p(curve: CurveReadout) -> float | None:
        one = ratios.get(curve.label)
        return None if one is None else one.p

    return [
        Column(key="hazard_ratio", head="hazard ratio", value=ratio, cell=shown),
        Column(
            key="p", head="p", value=p, cell=lambda c: words("") if p(c) is None else p_cell(p(c))
        ),
    ]


PIECE = Piece(
    key="summary",
    title="Summary",
    words="the summary",
    shortest="page",
    render=_summary,
    needs=("estimate", "compare"),
    uses=("model", "check", PREPARE),
)
