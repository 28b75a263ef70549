"""Columns that tables of groups share: who a group is, how many, and its median."""

from hourglass.analysis.compare.result import CompareResult
from hourglass.analysis.shared.cell import number_cell, whole
from hourglass.analysis.shared.cohort_summary import CohortSummary
from hourglass.analysis.shared.curve_readouts import CurveReadout
from hourglass.report.tables import Column


def counted_columns(
    cohort: CohortSummary, compared: CompareResult | None
) -> list[Column[CurveReadout]]:
    """The group under the name of the column that makes it, its subjects and its events."""
    by = "" if compared is None else compared.by or ""
    return [
        Column(key="group", head=by, value=lambda c: c.label),
        Column(
            key="subjects",
            head=cohort.rows_are,
            value=lambda c: c.subjects,
            cell=lambda c: whole(c.subjects),
        ),
        Column(
            key="events", head="events", value=lambda c: c.events, cell=lambda c: whole(c.events)
        ),
    ]


def median_columns(cohort: CohortSummary) -> list[Column[CurveReadout]]:
    """The median with its limits, which are columns of their own in files."""
    return [
        Column(
            key="median",
            head=f"median, {cohort.unit}",
            value=lambda c: c.median.time,
            cell=lambda c: number_cell(c.median.whole(cohort.decimals), c.median.time),
        ),
        Column(key="median_lower", value=lambda c: c.median.lower),
        Column(key="median_upper", value=lambda c: c.median.upper),
    ]
