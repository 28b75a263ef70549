"""Who is in the groups."""

from hourglass.analysis.prepare.describe import DescribedRow
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import Cell, number_cell, words
from hourglass.report.inputs import ReportInputs
from hourglass.report.pieces.piece import Piece, Printed
from hourglass.report.tables import Column, table_of

NTH = ("first number", "second", "third")
"""The numbers of a cell, in the order in which the table's second column names them."""


def _baseline(found: ReportInputs) -> Printed:
    described = found.described
    if described is None or not described.rows:
        return Printed()
    numbers = max(len(cell.values) for row in described.rows for cell in row.cells)
    columns: list[Column[DescribedRow]] = [
        Column(key="column", head="", value=lambda row: row.label),
        Column(key="what", head="", value=lambda row: row.what),
    ]
    for k, group in enumerate(described.groups):
        columns += _of_group(k, group.label, numbers)
    if any(row.difference is not None for row in described.rows):
        columns.append(
            Column(
                key="standardised_difference",
                head="standardised difference",
                value=lambda row: row.difference,
                cell=_difference,
            )
        )
    title = "Baseline characteristics"
    return Printed(tables=(table_of("baseline", title, described.rows, columns, described.note),))


def _of_group(k: int, label: str, numbers: int) -> list[Column[DescribedRow]]:
    """The k-th group: in words where it is read, its numbers in files."""
    read: Column[DescribedRow] = Column(
        head=label, value=lambda row: row.cells[k].text, cell=lambda row: words(row.cells[k].text)
    )
    return [read, *(_nth(k, f"{label}: {NTH[n]}", n) for n in range(numbers))]


def _nth(k: int, key: str, n: int) -> Column[DescribedRow]:
    return Column(key=key, value=lambda row: next(iter(row.cells[k].values[n : n + 1]), None))


def _difference(row: DescribedRow) -> Cell:
    shown = "" if row.difference is None else formatting.rounded(row.difference, 2)
    return number_cell(shown, row.difference)


PIECE = Piece(
    key="baseline",
    title="Baseline characteristics",
    words="the baseline table",
    shows="the baseline characteristics",
    shortest="journal",
    render=_baseline,
    describes=True,
)
