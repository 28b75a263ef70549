"""Where the rows went."""

from hourglass.analysis.prepare.ledger import LedgerReading
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.cell import Cell, words
from hourglass.report.pieces.piece import Findings, Piece, Printed
from hourglass.report.tables import ReportRow, ReportTable


def _rows(found: Findings) -> Printed:
    return Printed(
        method=found.prepare.sentence.text,
        tables=(ledger_table(found.prepare.ledger),),
        note=f"From {found.files[0].name} (SHA-256 {found.files[0].sha256[:16]}…).",
    )


def ledger_table(ledger: LedgerReading) -> ReportTable:
    """From the rows read to the rows analysed."""
    lines: list[tuple[str, int]] = [("read", ledger.read)]
    lines += [
        (f"set aside: {loss.why}", -loss.rows)
        if loss.becomes is None
        else (f"{loss.why}, rows", loss.becomes)
        for loss in ledger.lost
    ]
    lines += [("analysed", ledger.analysed or 0)]
    rows = tuple(
        ReportRow((words(label), Cell(text=wording.grouped(n), raw=n)), (label, n))
        for label, n in lines
    )
    return ReportTable("rows", "Where the rows went", ("", "rows"), ("step", "rows"), rows)


PIECE = Piece("rows", "Rows and follow-up", "where the rows went", _rows)
