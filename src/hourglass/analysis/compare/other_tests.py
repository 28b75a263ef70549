"""Tests beside the planned one: in order, in pairs, with other weights, of cumulative incidence."""

from collections.abc import Sequence

import numpy as np

from hourglass.analysis.catalogue.weights import WEIGHTS
from hourglass.analysis.compare.groups import Comparison
from hourglass.analysis.compare.part_numbers import WeightNumbers
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import Cell, WorkingsOf, number_cell, p_cell, words
from hourglass.analysis.shared.numbers import Refused
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import (
    ContentBlock,
    Section,
    Table,
    Words,
    quiet,
    test_cells,
)
from hourglass.cohort.followup import Cohort
from hourglass.core.comparison.chi_squared import Test
from hourglass.core.comparison.pairs import Pair

WEIGHTS_TITLE = "Tests with other weights"
TOGETHER = "log-rank and Fleming–Harrington (1, 0), (0, 1) and (1, 1)"
TEST_HEAD, TEST_KEYS = ["", "χ²", "df", "p"], ["test", "chi_squared", "df", "p"]


def weights_section(found: WeightNumbers | Refused, planned: str) -> Section:
    """The same comparison with every weight, the planned one marked, or why there is none."""
    blocks = _no_tests(found) if isinstance(found, Refused) else _by_weight(found, planned)
    return Section(id=SectionId.WEIGHTS, title=WEIGHTS_TITLE, place="main", blocks=blocks)


def _no_tests(refused: Refused) -> list[ContentBlock]:
    return [Words(text=f"No other tests: {refused.why}.")]


def _by_weight(found: WeightNumbers, planned: str) -> list[ContentBlock]:
    rows = []
    for key, test in found.tests.items():
        named = WEIGHTS[key]
        name = words(
            named.heading,
            strong=key == planned,
            below=f"weight {named.symbol}" if named.symbol else "all event times equally",
        )
        rows.append(_test_row(name, test, WorkingsOf(figure="log-rank", about={"weight": key})))
    blocks: list[ContentBlock] = [
        Table(label="The test with other weights", head=TEST_HEAD, keys=TEST_KEYS, rows=rows)
    ]
    several = found.together
    if several is not None:
        if several.p is None:
            blocks.append(quiet(f"No maximum of weighted log-rank tests: {several.blank}."))
        else:
            row = [
                words(formatting.capital(TOGETHER), strong=True),
                number_cell(
                    f"largest |Z| {formatting.statistic(several.largest)}", several.largest
                ),
                p_cell(several.p, workings=WorkingsOf(figure="combined")),
            ]
            blocks.append(
                Table(
                    label="Maximum of weighted log-rank tests",
                    head=["", "", "p"],
                    keys=["test", "largest_z", "p"],
                    rows=[row],
                )
            )
    blocks.append(
        quiet(
            "The comparison rests on the test that was chosen for it. The others show how far the answer "
            "depends on when differences count; choosing among them by their p makes that p too small."
        )
    )
    return blocks


def _test_row(name: Cell, test: Test, opens: WorkingsOf) -> list[Cell]:
    if test.p is None:
        return [name, words(test.blank or formatting.BLANK, wordy=True)]
    row = test_cells(name, test.statistic, test.df, test.p)
    row[1] = row[1].model_copy(update={"workings": opens})
    return row


def trend_blocks(found: Comparison) -> list[ContentBlock]:
    """The test of trend, where the groups stand in an order."""
    if not found.statement.ordered:
        return []
    groups, given = len(found.groups.labels), found.statement.scores
    if given and len(given) != groups:
        return [
            Words(
                text=f"There are {groups} groups and {formatting.count(len(given), 'scores')}: write "
                "one score for each group in the sentence above."
            )
        ]
    test = found.log_rank.trend(np.array(given) if given else None)
    if test.p is None:
        return [Words(text=f"There is no test of trend: {test.blank}.")]
    row = _test_row(words("Trend", strong=True), test, WorkingsOf(figure="trend"))
    return [Table(label="Test of trend", head=TEST_HEAD, keys=TEST_KEYS, rows=[row])]


def pairs_section(found: Comparison, tested: Sequence[Pair]) -> Section | None:
    """Groups two by two: the adjusted p over the raw one, as a matrix."""
    if not tested:
        return None
    labels = found.groups.labels
    cells = {(pair.a, pair.b): _pair_cell(pair) for pair in tested}
    columns = range(1, len(labels))
    rows = [
        [
            words(labels[a], tone=found.groups.tone(a)),
            *(cells.get((a, b), words("")) for b in columns),
        ]
        for a in range(len(labels) - 1)
        if any((a, b) in cells for b in columns)
    ]
    return Section(
        id=SectionId.PAIRS,
        title="Pairs",
        place="main",
        blocks=[
            Table(
                label="Pairs of groups",
                head=["", *(labels[b] for b in columns)],
                keys=["group", *(f"against {labels[b]}" for b in columns)],
                rows=rows,
            ),
            quiet(
                f"p-values are adjusted by {found.statement.adjustment} over "
                f"{formatting.count(len(tested), 'tests')}, the raw p beside them. Each pair is tested on "
                "its own rows alone."
            ),
        ],
    )


def _pair_cell(pair: Pair) -> Cell:
    if pair.test.p is None:
        return words(formatting.BLANK, below=pair.test.blank or "")
    return p_cell(
        pair.p,
        below=f"raw {formatting.p_value(pair.test.p)}",
        workings=WorkingsOf(figure="pair", about={"a": pair.a, "b": pair.b}),
    )


def incidence_section(cohort: Cohort, found: Comparison, gray: Test | None) -> Section | None:
    """With competing events, the test of cumulative incidence beside the cause-specific one."""
    if gray is None:
        return None
    event = cohort.statement.event_name
    name, blocks = WEIGHTS[found.statement.weight].heading, list[ContentBlock]()
    planned = WorkingsOf(figure="log-rank")
    rows = [_test_row(words(f"{name}, rates", strong=True), found.log_rank.test, planned)]
    if gray.p is None:
        blocks.append(Words(text=f"No test of cumulative incidence: {gray.blank}."))
    else:
        name_of_gray = words("Gray, cumulative incidence", strong=True)
        rows.append(_test_row(name_of_gray, gray, WorkingsOf(figure="gray")))
    return Section(
        id=SectionId.INCIDENCE,
        title="With competing events",
        place="main",
        blocks=[
            Table(label="Two tests", head=TEST_HEAD, keys=TEST_KEYS, rows=rows),
            *blocks,
            quiet(_what_is_tested(event, gray, stratified=found.stratum is not None)),
        ],
    )


def _what_is_tested(event: str, gray: Test, *, stratified: bool) -> str:
    of_rates = f"The {{}} asks whether the rate of {event} differs among those free of all causes"
    if gray.p is None:
        return f"{of_rates.format('test')}, not whether the cumulative incidence of {event} does."
    strata = " Gray’s test takes no account of strata." if stratified else ""
    return (
        f"{of_rates.format('first test')}; Gray’s asks whether the cumulative incidence of {event} differs. "
        f"A group may have a higher rate and a lower incidence, where another event comes first.{strata}"
    )
