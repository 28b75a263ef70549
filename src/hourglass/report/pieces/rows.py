"""Rows read, set aside and analysed."""

import numpy as np

from hourglass.analysis.prepare.ledger import LedgerReading
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.cell import Cell, words
from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.description import Figure, TextColumn, Track
from hourglass.analysis.shared.figure.marks import Bars, Points
from hourglass.report.findings import Findings
from hourglass.report.ledger_out import TITLE, ledger_lines
from hourglass.report.pieces.piece import Piece, Printed, PrintedFigure
from hourglass.report.tables import Column, ReportTable, table_of


def _rows(found: Findings) -> Printed:
    return Printed(
        tables=(ledger_table(found.prepare.ledger),),
        figure=_figure(found.prepare.ledger),
        note=f"From {found.files[0].name} (SHA-256 {found.files[0].sha256[:16]}…).",
    )


def _figure(ledger: LedgerReading) -> PrintedFigure:
    """The rows that are left after each step, as lengths."""
    lines = ledger_lines(ledger)
    place = np.arange(len(lines), dtype=np.float64)
    left = np.array([n for _, n in lines], dtype=np.float64)
    most = float(left.max(initial=1.0))
    track = Track(
        id="rows",
        title=TITLE,
        subtitle="rows left after each step",
        axis=Axis(
            low=-0.5, high=len(lines) - 0.5, form="category", categories=[said for said, _ in lines]
        ),
        across=Axis(low=0, high=1.02 * most, form="number", label="rows"),
        grouped=False,
        marks=[
            Bars(label="rows left", at=place, low=np.zeros(place.size), high=left, upright=False),
            Points(label="rows left", glyph="dot", x=left, y=place),
        ],
        columns=[
            TextColumn(head="", side="left", cells=[words(said) for said, _ in lines], share=40),
            TextColumn(head="left", cells=[_count(n) for _, n in lines], share=10),
        ],
    )
    across = Axis(low=0, high=most, form="number")
    name = f"{TITLE}: rows left after each step"
    drawn = Figure(name=name, across=across, low=0, high=most, tracks=[track])
    return PrintedFigure(drawn, ("rows",))


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
    return Cell(text=wording.grouped(n), raw=n)


PIECE = Piece(key="rows", title="Rows and follow-up", words="where the rows went", render=_rows)
