"""Findings about single values."""

from collections.abc import Iterator

from hourglass.cohort.findings.finding import Finding, FindingContext
from hourglass.cohort.findings.number_cells import codes_for_missing, extremes, impossible
from hourglass.cohort.findings.text_cells import text_findings
from hourglass.cohort.findings.written_dates import hidden_dates
from hourglass.cohort.table import NumberColumn, TextColumn


def cell_findings(context: FindingContext) -> Iterator[Finding]:
    """What is odd about the values of columns."""
    for column in context.columns:
        if isinstance(column, TextColumn):
            yield from text_findings(context, column)
        elif isinstance(column, NumberColumn):
            yield from impossible(context, column)
            yield from codes_for_missing(context, column)
            yield from extremes(context, column)
            yield from hidden_dates(context, column)
