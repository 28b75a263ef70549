"""Where the curves cross: how far apart they are on either side, and what answers then."""

from hourglass.analysis.compare.groups import Comparison
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cautions import Crossed
from hourglass.analysis.shared.cell import Cell, number_cell
from hourglass.analysis.shared.cohort_summary import CohortSummary
from hourglass.analysis.shared.contrast_cells import difference_cells
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import Action, Section, Table, quiet
from hourglass.core.curves.difference import crossing

THEN = (
    "What answers then: the difference at times that matter, chosen before these data were seen; the means "
    "up to a limit, which add up what one group gains early and loses late; and the test by several weights "
    "at once, which finds early and late differences alike. One hazard ratio does not: in Model, let it "
    "change over time."
)


def crossed_curves(found: Comparison) -> Crossed | None:
    """Whether the contrasted group lies above the reference at one time and below it at another."""
    a, b = found.curves[0], found.curves[found.contrast]
    crossed = crossing(a.data, b.data, a.estimate, b.estimate)
    if crossed is None:
        return None
    return Crossed(a.label, b.label, crossed.above, crossed.below)


def crossing_section(
    cohort: CohortSummary, found: Comparison, crossed: Crossed | None, stated: EstimateStatement
) -> Section | None:
    """The differences on either side of the crossing, and the way to what answers; None where none cross."""
    if crossed is None:
        return None
    sides = sorted((crossed.above, crossed.below))
    title = "Where the curves cross"
    table = Table(
        label=title,
        head=[cohort.unit, f"{crossed.b} less {crossed.a}, points", found.form.ci, "p"],
        keys=["time", "difference", "interval", "p"],
        rows=[_side(cohort, found, t) for t in sides],
    )
    times = tuple(sorted({*stated.times, *sides}))
    at = formatting.listed(formatting.times_apart(sides, cohort.decimals))
    action = Action(
        sentence=f"Read all curves at {at} {cohort.unit} too.",
        label="Add these times in Estimate",
        do="state",
        stage="estimate",
        statement=stated.model_copy(update={"times": times}).model_dump(mode="json"),
    )
    blocks = [table, quiet(THEN), *([action] if times != stated.times else [])]
    return Section(id=SectionId.CROSSING, title=title, place="main", blocks=blocks)


def _side(cohort: CohortSummary, found: Comparison, t: float) -> list[Cell]:
    a, b = found.curves[0], found.curves[found.contrast]
    return [number_cell(formatting.time(t, cohort.decimals), t), *difference_cells(a, b, t)]
