"""Rows read, set aside and analysed."""

from dataclasses import replace

from hourglass.analysis.prepare.ledger import LedgerView
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import Cell
from hourglass.report.inputs import ReportInputs
from hourglass.report.ledger_out import TITLE
from hourglass.report.pieces.cited import paragraph
from hourglass.report.pieces.piece import Piece, Printed
from hourglass.report.sentences import worded
from hourglass.report.tables import Column, ReportTable, table_of


def _rows(found: ReportInputs) -> Printed:
    ledger = found.prepare.ledger
    aside = sum(loss.rows for loss in ledger.lost if loss.becomes is None)
    text = worded(
        "rows",
        "rows set aside" if aside else "rows read",
        rows=formatting.count(ledger.read, "rows"),
        were=formatting.were(ledger.read),
        name=found.files[0].name,
        aside=formatting.grouped(aside),
        were_aside=formatting.were(aside),
        analysed=formatting.grouped(ledger.analysed or 0),
        were_analysed=formatting.were(ledger.analysed or 0),
    )
    table = replace(ledger_table(ledger), in_words=not ledger.lost)
    return Printed(paragraphs=(paragraph(text),), tables=(table,))


def ledger_table(ledger: LedgerView) -> ReportTable:
    """From the rows read to the rows analysed."""
    lines: list[tuple[str, int]] = [("read", ledger.read)]
    lines += [
        (f"set aside: {loss.why}", -loss.rows)
        if loss.becomes is None
        else (f"{loss.why}, rows", loss.becomes)
        for loss in ledger.lost
    ]
    lines += [("analysed", ledger.analysed or 0)]
    return table_of(
        "rows",
        TITLE,
        lines,
        (
            Column(key="step", head="", value=lambda line: line[0]),
            Column(
                key="rows",
                head="rows",
                value=lambda line: line[1],
                cell=lambda line: _count(line[1]),
            ),
        ),
    )


def _count(n: int) -> Cell:
    return Cell(text=formatting.grouped(n), raw=n)


PIECE = Piece(
    key="rows",
    title=TITLE,
    words="rows read, set aside and analysed",
    shows="the rows that each step set aside",
    shortest="journal",
    render=_rows,
)
