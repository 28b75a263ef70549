"""The baseline table for other programs."""

from hourglass.analysis.prepare.describe import DescribeResult
from hourglass.analysis.shared.cell import Raw
from hourglass.report.tables import csv_of


def baseline_csv(found: DescribeResult) -> bytes:
    """A line for each of the table's, with the numbers behind each cell at full precision."""
    head: list[Raw] = ["column", "what"]
    for group in found.groups:
        head += [
            group.label,
            f"{group.label}: first number",
            f"{group.label}: second",
            f"{group.label}: third",
        ]
    lines = [[*head, "standardised difference"]]
    for row in found.rows:
        line: list[Raw] = [row.label, row.what]
        for cell in row.cells:
            line += [cell.text, *(cell.values + [None] * 3)[:3]]
        lines.append([*line, row.difference])
    return csv_of(lines).encode()
