"""Parts of Compare that take their time: what is drawn again and again."""

from hourglass.analysis.compare import part_numbers
from hourglass.analysis.compare.other_tests import weights_section
from hourglass.analysis.compare.part_numbers import WeightNumbers
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.compare.threshold import TITLE, Thresholds, thresholds_part
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import Cell, WorkingsOf, estimate, limits_shown, words
from hourglass.analysis.shared.curve_form import study_form
from hourglass.analysis.shared.declared import Statements, statement_of
from hourglass.analysis.shared.grouping import grouped
from hourglass.analysis.shared.groups import Groups
from hourglass.analysis.shared.numbers import Refused
from hourglass.analysis.shared.parts import DeferredSection
from hourglass.analysis.shared.result import PartResult
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import Section, Table, Words, quiet
from hourglass.cohort.followup import Cohort
from hourglass.core.contrast import Contrast
from hourglass.core.curves.median_ratio import SAMPLES


class MedianRatios(PartResult):
    """Each group's median over the reference's."""


def median_ratios(
    numbers: tuple[Contrast, ...] | Refused, cohort: Cohort, statements: Statements
) -> MedianRatios:
    """Ratios of medians, with percentile limits of bootstrap samples within each group."""
    if isinstance(numbers, Refused):
        blank = Words(text=f"No ratio of medians: {numbers.why}.")
        return MedianRatios(sections=[_section(blank)])
    statement = statement_of(statements, CompareStatement)
    form = study_form(statements).at_level(statement.confidence)
    groups = grouped(cohort, statement)
    table = Table(
        label="Ratio of medians",
        head=[f"against {groups.labels[0]}", "ratio", form.ci],
        keys=["group", "ratio", "interval"],
        rows=[_ratio(groups, k, one) for k, one in enumerate(numbers, start=1)],
    )
    if all(one.estimate is None for one in numbers):
        return MedianRatios(sections=[_section(table)])
    drawn = quiet(
        f"Limits are percentiles of {formatting.grouped(SAMPLES)} samples drawn within each group (seed "
        f"{statement.seed})."
    )
    return MedianRatios(sections=[_section(table, drawn)])


class OtherWeights(PartResult):
    """The test with every weight."""


def other_weights(
    numbers: WeightNumbers | Refused, cohort: Cohort, statements: Statements
) -> OtherWeights:
    """The same comparison with every weight, and by four at once."""
    planned = statement_of(statements, CompareStatement).weight
    return OtherWeights(sections=[weights_section(numbers, planned)])


def _section(*blocks: Table | Words) -> Section:
    return Section(
        id=SectionId.MEDIANS, title="Ratio of medians", place="main", blocks=list(blocks)
    )


def _ratio(groups: Groups, k: int, ratio: Contrast) -> list[Cell]:
    name = words(groups.labels[k], tone=groups.tone(k))
    if ratio.estimate is None:
        return [name, words(ratio.blank or formatting.BLANK, wordy=True)]
    limits, note = limits_shown(ratio.blank or formatting.BLANK), ratio.blank or ""
    shown, lower, upper = formatting.ratios(ratio.estimate, ratio.lower, ratio.upper)
    if ratio.lower is not None and ratio.upper is not None:
        ended = ratio.upper < float("inf")
        limits = limits_shown(
            formatting.interval(lower, upper if ended else formatting.NOT_REACHED)
        )
        note = "" if ended else "ratio_upper not reached"
    opens = WorkingsOf(figure="median-ratio", about={"group": k})
    return [
        name,
        estimate(shown, ratio.estimate, ratio.lower, ratio.upper, workings=opens, note=note),
        limits,
    ]


PARTS = (
    DeferredSection(
        key="weights",
        title="Other weights",
        result=OtherWeights,
        numbers=part_numbers.WEIGHTED,
        show=other_weights,
    ),
    DeferredSection(
        key="medians",
        title="Ratio of medians",
        result=MedianRatios,
        numbers=part_numbers.MEDIANS,
        show=median_ratios,
    ),
    DeferredSection(
        key="threshold",
        title=TITLE,
        result=Thresholds,
        numbers=part_numbers.THRESHOLDS,
        show=thresholds_part,
    ),
)
