"""The table of groups, and the test."""

from hourglass.analysis.catalogue.scales import INTERVAL_SCALES
from hourglass.analysis.compare.result import CompareResult
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.compare.threshold import BEFOREHAND, tried_in_words
from hourglass.analysis.estimate.result import EstimateResult
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import Cell, number_cell, words
from hourglass.analysis.shared.cohort_summary import CohortSummary
from hourglass.analysis.shared.curve_readouts import CurvePoint, CurveReadout
from hourglass.analysis.shared.declared import statement_of
from hourglass.report.inputs import ReportInputs
from hourglass.report.pieces.cited import paragraph
from hourglass.report.pieces.group_columns import counted_columns, median_columns
from hourglass.report.pieces.piece import Piece, Printed
from hourglass.report.tables import Column, ReportTable, notes_beside, table_of

MAX_NAMED = 3
"""Groups whose events the sentence names; those of more stand in the table."""


def _groups(found: ReportInputs) -> Printed:
    compared = found.result("compare", CompareResult)
    estimated = found.result("estimate", EstimateResult)
    curves = [
        *([] if estimated is None else [estimated.curve]),
        *([] if compared is None else compared.curves),
    ]
    estimating = statement_of(found.statements, EstimateStatement)
    limits = limits_named(estimating, curves)
    table = group_table(found.cohort, curves, estimating.times, limits, compared)
    if compared is None:
        return Printed(tables=(table,))
    if compared.blank is not None:
        return Printed(
            paragraphs=(paragraph("The comparison could not be made.", compared.blank),),
            tables=(table,) if curves else (),
        )
    stated = statement_of(found.statements, CompareStatement)
    texts = () if stated.each else (paragraph(comparison_words(compared, stated)),)
    return Printed(paragraphs=texts, tables=(table,) if curves else ())


def comparison_words(compare: CompareResult, stated: CompareStatement) -> str:
    """Events seen and expected, and the test; the p of a stated threshold with what it rests on."""
    test, strata = compare.test, stated.within
    name = f"stratified {compare.test_name}" if strata else compare.test_name
    if test.p is None:
        return f"There is no {name} test: {test.blank}."
    tested = formatting.tested(name, test.statistic, test.df, test.p)
    if stated.thresholds:
        tested += f", {BEFOREHAND}"
    tried = tried_in_words(stated)
    if len(compare.groups) > MAX_NAMED:
        groups = formatting.grouped(len(compare.groups))
        return f"The {groups} groups were compared ({tested}).{tried}{_without(compare)}"
    seen = formatting.listed(
        [
            f"{formatting.count(g.observed, 'events')} in {compare.group(g.label)} where "
            f"{formatting.rounded(g.expected, 1)} were expected"
            for g in compare.groups
        ]
    )
    if strata:
        groups = f"if the groups did not differ within {formatting.listed(list(strata))}"
    else:
        groups = "if the groups did not differ"
    return f"There were {seen} {groups} ({tested}).{tried}{_without(compare)}"


def _without(compare: CompareResult) -> str:
    if not compare.left_out:
        return ""
    left = formatting.count(compare.left_out, "rows")
    return f" {left} without a group {formatting.were(compare.left_out)} left out."


def limits_named(estimating: EstimateStatement, curves: list[CurveReadout]) -> str:
    """What stands in brackets; groups may state another level than all subjects."""
    scale = INTERVAL_SCALES[estimating.scale].name
    kinds = formatting.listed(list(dict.fromkeys(curve.limits for curve in curves)))
    return f"In brackets: {kinds} on the {scale} scale, of medians where the pointwise limits reach one half."


def group_table(
    cohort: CohortSummary,
    curves: list[CurveReadout],
    times: tuple[float, ...],
    limits: str,
    compared: CompareResult | None,
) -> ReportTable:
    """Subjects, events, median and survival at chosen times: all subjects, and each group."""
    moved = [f"{formatting.grouped(c.moved_on)} from {c.label}" for c in curves if c.moved_on]
    note = f" {formatting.capital(cohort.rows_are)} who moved on: {formatting.listed(moved)}."
    return table_of(
        "groups",
        "Groups",
        curves,
        (
            *counted_columns(cohort, compared),
            *_expected(compared),
            *median_columns(cohort),
            *(column for k, t in enumerate(times) for column in _free_at(k, t)),
            *notes_beside(curves, _note),
        ),
        f"Medians are over all who were followed. {limits} After the bar the number at risk at that time."
        + (note if moved else ""),
    )


def _expected(compared: CompareResult | None) -> list[Column[CurveReadout]]:
    """The events that the test expects of a group, if the groups did not differ."""
    if compared is None or compared.test.p is None:
        return []
    expected = {group.label: group.expected for group in compared.groups}

    def of(curve: CurveReadout) -> float | None:
        return expected.get(curve.label) if curve in compared.curves else None

    return [
        Column(
            key="expected",
            head="expected",
            value=of,
            cell=lambda c: (
                number_cell(formatting.fixed(value, 1), value)
                if (value := of(c)) is not None
                else words("")
            ),
        )
    ]


def _free_at(k: int, time: float) -> list[Column[CurveReadout]]:
    """The share free at the k-th of the chosen times, with its limits and the number at risk."""
    at = formatting.plain(time)
    return [
        Column(
            key=f"free_at_{at}",
            head=f"survival at {at}",
            value=lambda c: c.points[k].survival,
            cell=lambda c: _at(c.points[k]),
        ),
        Column(key=f"lower_at_{at}", value=lambda c: c.points[k].lower),
        Column(key=f"upper_at_{at}", value=lambda c: c.points[k].upper),
        Column(key=f"at_risk_at_{at}", value=lambda c: c.points[k].at_risk),
    ]


def _note(curve: CurveReadout) -> str:
    """Why values are not there."""
    median, notes = curve.median, []
    if median.note:
        notes.append(f"median: {median.note}")
    for point in curve.points:
        at = formatting.plain(point.time)
        if point.survival is None:
            notes.append(f"free_at_{at}: past the end of the curve")
        elif point.lower is None or point.upper is None:
            notes.append(f"lower_at_{at}, upper_at_{at}: no interval there")
    return "; ".join(notes)


def _at(point: CurvePoint) -> Cell:
    if point.survival is None:
        return Cell(text="not followed so far")
    text = formatting.percent(point.survival)
    if point.lower is not None and point.upper is not None:
        low, high = formatting.share_of_100(point.lower), formatting.share_of_100(point.upper)
        text += f" ({formatting.interval(low, high)})"
    return number_cell(f"{text} | {formatting.grouped(point.at_risk)}", point.survival)


PIECE = Piece(
    key="groups",
    title="Groups",
    words="the table of groups",
    shows="events, medians and survival at chosen times",
    shortest="journal",
    render=_groups,
    needs=("estimate", "compare"),
    offer="A comparison of groups",
)
