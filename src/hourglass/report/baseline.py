"""The baseline table for other programs."""

import csv
import io

from hourglass.analysis.describe import DescribeResult
from hourglass.report.tables import harmless


def baseline_csv(found: DescribeResult) -> bytes:
    """A line for each of the table's, with the numbers behind each cell at full precision."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    head = ["column", "what"]
    for group in found.groups:
        head += [
            group.label,
            f"{group.label}: first number",
            f"{group.label}: second",
            f"{group.label}: third",
        ]
    writer.writerow([harmless(cell) for cell in [*head, "standardised difference"]])
    for row in found.rows:
        line: list[str | float | None] = [row.label, row.what]
        for cell in row.cells:
            line += [cell.text, *(cell.values + [None] * 3)[:3]]
        line.append(row.difference)
        writer.writerow(["" if cell is None else harmless(cell) for cell in line])
    return out.getvalue().encode()
