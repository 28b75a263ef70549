"""Parts of Compare that take their time: what is drawn again and again."""

from typing import cast

from hourglass.analysis.compare.groups import Comparison, comparison
from hourglass.analysis.compare.other_tests import WEIGHTS_TITLE, weights_section
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.compare.threshold import TITLE, Thresholds, thresholds_part
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.cell import Cell, WorkingsOf, estimate, limits_shown, words
from hourglass.analysis.shared.curve_form import study_form
from hourglass.analysis.shared.parts import Part
from hourglass.analysis.shared.result import PartResult
from hourglass.analysis.shared.sections import Section, Table, Words, quiet
from hourglass.analysis.shared.stage import Statements
from hourglass.cohort.followup import Cohort
from hourglass.core.curves.median_ratio import SAMPLES, Arm, median_ratio
from hourglass.core.errors import NotEstimableError
from hourglass.core.watch import Watch


class MedianRatios(PartResult):
    """Each group's median over the reference's."""


def median_ratios(cohort: Cohort, asked: Statements, watch: Watch) -> MedianRatios:
    """Ratios of medians, with percentile limits of bootstrap samples within each group."""
    statement = cast(CompareStatement, asked["compare"])
    try:
        found = comparison(cohort, statement, study_form(asked))
        rows = [_ratio(found, k, watch) for k in range(1, len(found.curves))]
    except NotEstimableError as reason:
        return MedianRatios(sections=[_section(Words(text=f"No ratio of medians: {reason}."))])
    table = Table(
        label="Ratio of medians",
        head=[f"against {found.reference}", "ratio", found.form.ci],
        keys=["group", "ratio", "interval"],
        rows=rows,
    )
    return MedianRatios(
        sections=[
            _section(
                table,
                quiet(
                    f"Limits from {wording.grouped(SAMPLES)} samples drawn within each group, seed "
                    f"{statement.seed}: percentiles, for a median has no error of its own."
                ),
            )
        ]
    )


class OtherWeights(PartResult):
    """The test with every weight."""


def other_weights(cohort: Cohort, asked: Statements, watch: Watch) -> OtherWeights:
    """The same comparison with every weight, and by four at once."""
    watch("testing with other weights", 0.2)
    try:
        found = comparison(cohort, cast(CompareStatement, asked["compare"]), study_form(asked))
    except NotEstimableError as reason:
        said = Words(text=f"No other tests: {reason}.")
        blank = Section(id="weights", title=WEIGHTS_TITLE, place="main", blocks=[said])
        return OtherWeights(sections=[blank])
    return OtherWeights(sections=[weights_section(found)])


def _section(*blocks: Table | Words) -> Section:
    return Section(id="medians", title="Ratio of medians", place="main", blocks=list(blocks))


def _ratio(found: Comparison, k: int, watch: Watch) -> list[Cell]:
    reference, own = (Arm(found.curves[g].data, g) for g in (0, k))
    statement = found.statement
    told = median_ratio(reference, own, statement.seed, found.form.confidence, SAMPLES, watch)
    name = words(found.curves[k].label, tone=found.curves[k].tone)
    if told.estimate is None:
        return [name, words(told.blank or wording.BLANK, wordy=True)]
    limits, note = limits_shown(told.blank or wording.BLANK), told.blank or ""
    if told.lower is not None and told.upper is not None:
        ended = told.upper < float("inf")
        high = wording.ratio(told.upper) if ended else wording.NOT_REACHED
        limits = limits_shown(wording.interval(wording.ratio(told.lower), high))
        note = "" if ended else "ratio_upper not reached"
    opens = WorkingsOf(figure="median-ratio", about={"group": k})
    ratio = wording.ratio(told.estimate)
    return [
        name,
        estimate(ratio, told.estimate, told.lower, told.upper, workings=opens, note=note),
        limits,
    ]


PARTS = (
    Part("weights", "Other weights", OtherWeights, other_weights),
    Part("medians", "Ratio of medians", MedianRatios, median_ratios),
    Part("threshold", TITLE, Thresholds, thresholds_part),
)
