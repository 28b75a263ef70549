"""The test over all thresholds of a number, and the p of the threshold that gave the most."""

from typing import cast

import numpy as np

from hourglass.analysis.catalogue.weights import WEIGHTS
from hourglass.analysis.compare.groups import Comparison
from hourglass.analysis.compare.part_numbers import ThresholdNumbers
from hourglass.analysis.compare.statement import MIN_MOVED, CompareStatement
from hourglass.analysis.compare.threshold_profile import profile_of
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cautions import Caution
from hourglass.analysis.shared.cell import WorkingsOf, number_cell, p_cell, words
from hourglass.analysis.shared.declared import Statements, statement_of
from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.description import Handle, Track
from hourglass.analysis.shared.figure.marks import Line, Points
from hourglass.analysis.shared.grouping import grouped, is_split, thresholds_of
from hourglass.analysis.shared.numbers import Refused
from hourglass.analysis.shared.result import PartResult
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import Section, Table, Words, quiet
from hourglass.analysis.shared.workings import NoWorkingsError, Workings, decimal, digits
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import NumberColumn
from hourglass.core.comparison.thresholds import PERMUTATIONS, ThresholdProfile

TITLE = "All thresholds"
TRACK = "thresholds"
BEFOREHAND = "if this threshold was stated beforehand"
"""What the p of a threshold rests on, which may have been moved after its statistic was seen."""
AIR = 0.03
"""Room at either end of the axis of thresholds, as a share of what they span."""


class Thresholds(PartResult):
    """The largest statistic over all thresholds, and its p."""


def chosen_for_its_p(cohort: Cohort, statement: CompareStatement) -> list[Caution]:
    """A threshold that was stated: its p holds only if the data did not choose it."""
    if not statement.thresholds or not is_split(cohort, statement):
        return []
    return [
        Caution(
            key="threshold",
            lead="A threshold.",
            sentence=f"The p-value holds if the threshold of {statement.by} was chosen before these data "
            "were seen. If it was chosen because it parts the curves well, use the p-value of the maximum "
            "over all thresholds, below the figure.",
        )
    ]


def thresholds_part(
    numbers: ThresholdNumbers | Refused, cohort: Cohort, statements: Statements
) -> Thresholds:
    """The largest statistic over all admissible thresholds, with the p of the maximum."""
    statement = statement_of(statements, CompareStatement)
    if isinstance(numbers, Refused):
        return Thresholds(sections=[_section(Words(text=f"No profile: {numbers.why}."))])
    groups, profile = grouped(cohort, statement), numbers.profile
    stated, p = numbers.stated, numbers.p
    column = cast(NumberColumn, cohort.table.column(groups.column))
    name = WEIGHTS[statement.weight].heading
    table = Table(
        label=TITLE,
        head=["", "threshold", "χ²", "p"],
        keys=["which", "threshold", "chi_squared", "p"],
        rows=[
            [
                words("in the sentence", below=f"its p: {BEFOREHAND}"),
                words(groups.labels[0]),
                number_cell(formatting.statistic(stated.statistic), stated.statistic),
                p_cell(stated.p),
            ],
            [
                words("the largest of all", strong=True),
                number_cell(f"≤ {column.written(profile.best)}", profile.best),
                number_cell(
                    formatting.statistic(profile.largest),
                    profile.largest,
                    workings=WorkingsOf(figure="thresholds"),
                ),
                p_cell(p, strong=True),
            ],
        ],
    )
    cuts = formatting.count(profile.cut.size, "thresholds")
    sentences = quiet(
        f"{name} at each of {cuts} that leave a tenth of the subjects and 5 events on each side. The p of "
        f"the largest: how often {groups.column}, moved among the subjects "
        f"{formatting.grouped(PERMUTATIONS)} times (seed {statement.seed}), reaches it by chance."
        f"{tried_in_words(statement)}"
    )
    return Thresholds(sections=[_section(table, sentences)])


def tried_in_words(statement: CompareStatement) -> str:
    """How many thresholds have been tried, from the second one on, as a sentence of its own."""
    tried = statement.tried_of(statement.by)
    if tried < MIN_MOVED:
        return ""
    return (
        f" {statement.by} has been split at {formatting.count(tried, 'thresholds')} in this study."
    )


def profile_track(
    cohort: Cohort, found: Comparison, profile: ThresholdProfile | None
) -> list[Track]:
    """The statistic at every admissible threshold, with the one in the sentence as a line one can drag."""
    if profile is None:
        return []
    column = cast(NumberColumn, cohort.table.column(found.groups.column))
    there = np.isfinite(profile.statistic)
    cut, statistic = profile.cut[there], profile.statistic[there]
    span = float(cut[-1] - cut[0]) or 1.0
    now = thresholds_of(cohort, found.statement)[0]
    low = min(float(cut[0]), now) - AIR * span
    high = max(float(cut[-1]), now) + AIR * span
    return [
        Track(
            id=TRACK,
            title=TITLE,
            subtitle=f"χ² at each threshold of {column.name}",
            axis=Axis(low=0, high=1.1 * profile.largest or 1.0, form="number"),
            across=Axis(low=low, high=high, form="number", label=f"{column.name} up to"),
            grouped=False,
            marks=[
                Line(label="χ², 1 df", x=cut, y=statistic, end=float(cut[-1])),
                Points(
                    label="the largest",
                    glyph="diamond",
                    x=np.array([profile.best]),
                    y=np.array([profile.largest]),
                ),
            ],
            handles=[
                Handle(
                    label="threshold",
                    at=now,
                    field="thresholds.0",
                    decimals=column.decimals,
                    tried=True,
                )
            ],
            note="Each is a test of its own: the largest of many is not judged by its own p-value, but "
            "by that of the maximum.",
        )
    ]


def _section(*blocks: Table | Words) -> Section:
    return Section(id=SectionId.THRESHOLD, title=TITLE, place="main", blocks=list(blocks))


def threshold_workings(cohort: Cohort, found: Comparison) -> Workings:
    """The statistic at every threshold."""
    profile = profile_of(cohort, found)
    if isinstance(profile, Refused):
        raise NoWorkingsError(profile.why)
    return Workings(
        title=f"All thresholds of {found.groups.column}: largest χ² {formatting.statistic(profile.largest)}",
        formula=(
            "at each threshold c the rows with x ≤ c are set against those with x > c",
            f"the largest is {digits(profile.largest)}, at {digits(profile.best)}",
        ),
        columns=(
            decimal("threshold", "threshold c", profile.cut),
            decimal("statistic", "χ², 1 df", profile.statistic),
        ),
        marked=int(np.flatnonzero(profile.cut == profile.best)[0]),
        note="Its own p-value, on 1 degree of freedom, is too small for the largest of many.",
    )
