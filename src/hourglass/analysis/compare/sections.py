"""The readings of Compare."""

import numpy as np

from hourglass.analysis.catalogue.weights import WEIGHTS, WeightEntry
from hourglass.analysis.compare.contrasts import chosen_times_section, margin_section, rates_section
from hourglass.analysis.compare.crossing import crossing_section
from hourglass.analysis.compare.groups import Comparison
from hourglass.analysis.compare.numbers import CompareNumbers
from hourglass.analysis.compare.other_tests import (
    WEIGHTS_TITLE,
    incidence_section,
    pairs_section,
    trend_blocks,
)
from hourglass.analysis.compare.threshold import BEFOREHAND, TITLE
from hourglass.analysis.compare.threshold_profile import split_by_one
from hourglass.analysis.estimate.chosen_times import chosen_times
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cautions import Crossed
from hourglass.analysis.shared.cell import Cell, WorkingsOf, estimate, number_cell, whole, words
from hourglass.analysis.shared.cohort_summary import CohortSummary
from hourglass.analysis.shared.curve_readouts import CurveReadout
from hourglass.analysis.shared.figure.series import Series
from hourglass.analysis.shared.mean_section import Means, mean_section
from hourglass.analysis.shared.sand_line import at_the_sand_line
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import (
    Cautions,
    ContentBlock,
    Section,
    Table,
    TimedCell,
    TimedRow,
    TimedTable,
    Words,
    quiet,
)
from hourglass.cohort.followup import Cohort
from hourglass.cohort.time_decimals import TimeDecimals
from hourglass.core.curves.difference import CurveDifference

EXPECTED = (
    "Expected: how many events a group would have had if all groups shared one rate at each "
    "time. The p-value says how often chance alone would part the curves as far; it is not the "
    "chance that they are alike."
)


def compare_sections(
    rows: Cohort,
    cohort: CohortSummary,
    found: Comparison,
    numbers: CompareNumbers,
    apart: CurveDifference,
    read: list[CurveReadout],
    stated: EstimateStatement,
    crossed: Crossed | None,
) -> list[Section]:
    """At the sand line, the whole follow-up, the test; under the figure all other contrasts.

    ``stated`` is what Estimate states about times and limits.
    """
    weight = WEIGHTS[found.statement.weight]
    timed = at_the_sand_line(
        found.curves, cohort.rows_are, chosen_times(stated), events=False, grouped=True
    )
    means = Means(found.curves, found.form.confidence, stated.limit)
    sections = [
        Section(id=SectionId.AT_TIME, blocks=[_with_difference(timed, found, apart)]),
        Section(
            id=SectionId.WHOLE, title="Summary by group", blocks=_whole(cohort, read, found.form.ci)
        ),
        Section(id=SectionId.TEST, title=f"{weight.heading} test", blocks=_test(found, weight)),
        margin_section(cohort, found),
        Section(id=SectionId.THRESHOLD, title=TITLE, place="main", part="threshold")
        if split_by_one(rows, found.statement)
        else None,
        crossing_section(cohort, found, crossed, stated),
        incidence_section(rows, found, numbers.gray),
        pairs_section(found, numbers.pairs),
        Section(id=SectionId.WEIGHTS, title=WEIGHTS_TITLE, place="main", part="weights"),
        mean_section(cohort, means, "main"),
        chosen_times_section(cohort, found, stated.times),
        rates_section(cohort, found),
        Section(id=SectionId.MEDIANS, title="Ratio of medians", place="main", part="medians"),
    ]
    return [section for section in sections if section is not None]


def _with_difference(timed: TimedTable, found: Comparison, apart: CurveDifference) -> TimedTable:
    """The difference of the curves under them; it has neither interval nor band once one is at 0."""
    series = Series(
        rule="from",
        time=apart.time,
        columns=[apart.difference, apart.lower, apart.upper],
        before=[None, None, None],
        end=found.end,
    )
    k = len(timed.series)
    row = TimedRow(
        label="difference",
        cells=[
            TimedCell(form="points", series=k, value=0),
            TimedCell(form="points", series=k, low=1, high=2),
        ],
    )
    return timed.model_copy(update={"series": [*timed.series, series], "rows": [*timed.rows, row]})


def _whole(cohort: CohortSummary, read: list[CurveReadout], interval: str) -> list[ContentBlock]:
    blocks: list[ContentBlock] = [
        Table(
            label="Summary by group",
            head=["", cohort.rows_are, "events", f"median, {cohort.unit} ({interval})"],
            keys=["group", "subjects", "events", "median"],
            rows=[
                [
                    words(c.label, tone=c.tone),
                    whole(c.subjects),
                    whole(c.events),
                    _median(c, cohort.decimals),
                ]
                for c in read
            ],
        )
    ]
    moved = [f"{formatting.grouped(c.moved_on)} from {c.label}" for c in read if c.moved_on]
    if moved:
        blocks.append(quiet(f"Moved on to another group: {', '.join(moved)}."))
    return blocks


def _median(curve: CurveReadout, decimals: TimeDecimals) -> Cell:
    limits = curve.median.interval(decimals)
    return estimate(
        curve.median.worded(decimals),
        curve.median.time,
        curve.median.lower,
        curve.median.upper,
        note=curve.median.note,
        below="neither limit reached" if limits == formatting.NOT_REACHED else limits,
        workings=WorkingsOf(figure="quantile", about={"group": curve.place, "q": 0.5}),
    )


def _test(found: Comparison, weight: WeightEntry) -> list[ContentBlock]:
    tested, test = found.log_rank, found.log_rank.test
    blocks: list[ContentBlock] = [
        Table(
            label="Observed and expected events",
            head=["events", "observed", "expected"],
            keys=["group", "observed", "expected"],
            rows=[
                [
                    words(curve.label, tone=curve.tone),
                    whole(int(tested.observed[curve.place])),
                    number_cell(
                        formatting.rounded(float(tested.expected[curve.place]), 1),
                        float(tested.expected[curve.place]),
                        workings=WorkingsOf(figure="log-rank"),
                    ),
                ]
                for curve in found.curves
            ],
        )
    ]
    if test.p is None:
        blocks.append(Words(text=f"There is no {weight.test} test: {test.blank}."))
    else:
        blocks.append(
            Table(
                label=f"{weight.heading} test",
                keys=["test", "chi_squared", "df", "p"],
                rows=[
                    [
                        words(weight.heading, strong=True),
                        number_cell(
                            f"χ² {formatting.statistic(test.statistic)}",
                            test.statistic,
                            workings=WorkingsOf(figure="log-rank"),
                        ),
                        Cell(text=f"{test.df} df", raw=test.df),
                        number_cell(
                            formatting.p_phrase(test.p),
                            test.p,
                            exact=formatting.exact_p(test.p),
                            strong=True,
                        ),
                    ]
                ],
            )
        )
        if found.statement.thresholds:
            blocks.append(quiet(f"Its p-value holds {BEFOREHAND}."))
    blocks += trend_blocks(found)
    strata = _strata_in_words(found)
    if strata:
        blocks.append(quiet(f"Sums are taken within {strata}, then added up."))
    blocks.append(quiet(EXPECTED))
    if found.left_out:
        blocks.append(
            Words(text=f"{formatting.count(found.left_out, 'rows')} without a group left out.")
        )
    if found.without_stratum:
        blocks.append(
            Words(
                text=f"{formatting.count(found.without_stratum, 'rows')} without a stratum left out."
            )
        )
    return [*blocks, Cautions()]


def _strata_in_words(found: Comparison) -> str:
    """Over how many strata of what sums are added up; blank without strata."""
    if found.stratum is None:
        return ""
    strata = int(np.unique(found.stratum).size)
    return (
        f"{formatting.count(strata, 'strata')} of {formatting.listed(list(found.statement.within))}"
    )
