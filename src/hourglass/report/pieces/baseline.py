"""Who is in the groups."""

from hourglass.analysis.shared import wording
from hourglass.analysis.shared.cell import Cell, Raw, figure, words
from hourglass.report.pieces.piece import Findings, Piece, Printed
from hourglass.report.tables import ReportRow, ReportTable

NTH = ("first number", "second", "third")
"""The numbers of a cell, in the order in which the table's second column names them."""


def _baseline(found: Findings) -> Printed:
    described = found.described
    if described is None or not described.rows:
        return Printed()
    apart = any(row.difference is not None for row in described.rows)
    head = ["", "", *(group.label for group in described.groups)]
    numbers = max(len(cell.values) for row in described.rows for cell in row.cells)
    keys = ["column", "what"]
    for group in described.groups:
        keys += [f"{group.label}: {nth}" for nth in NTH[:numbers]]
    rows = []
    for row in described.rows:
        cells: list[Cell] = [words(row.label), words(row.what), *(words(c.text) for c in row.cells)]
        raw: list[Raw] = [row.label, row.what]
        for c in row.cells:
            raw += [*c.values, *[None] * (numbers - len(c.values))]
        if apart:
            told = "" if row.difference is None else wording.rounded(row.difference, 2)
            cells.append(figure(told, row.difference))
            raw.append(row.difference)
        rows.append(ReportRow(tuple(cells), tuple(raw)))
    if apart:
        head.append("standardised difference")
        keys.append("standardised_difference")
    table = ReportTable(
        key="baseline",
        title="Who was followed",
        head=tuple(head),
        keys=tuple(keys),
        rows=tuple(rows),
        note=described.note,
    )
    return Printed(tables=(table,))


PIECE = Piece(
    key="baseline",
    title="Who was followed",
    words="the baseline table",
    render=_baseline,
    describes=True,
)
