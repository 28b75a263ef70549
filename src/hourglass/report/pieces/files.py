"""The files that the numbers come from."""

from hourglass.analysis.shared import wording
from hourglass.analysis.shared.cell import Cell, whole, words
from hourglass.report.pieces.piece import DataFile, Findings, Piece, Printed
from hourglass.report.tables import ReportRow, ReportTable

HEAD = ("", "read on", "how", "bytes", "rows", "SHA-256")
KEYS = ("file", "read_on", "how", "bytes", "rows", "sha256")


def _files(found: Findings) -> Printed:
    others = len(found.files) - 1
    note = (
        f"The first is in use; the {wording.count(others, 'files')} after it were in use before."
        if others
        else ""
    )
    table = ReportTable(
        key="files",
        title="Files",
        head=HEAD,
        keys=KEYS,
        rows=tuple(map(_row, found.files)),
        note=note,
    )
    return Printed(tables=(table,))


def _row(file: DataFile) -> ReportRow:
    read_on = f"{file.read_at:%-d %B %Y}"
    cells: tuple[Cell, ...] = (
        words(file.name),
        words(read_on),
        words(file.how_read),
        whole(file.size),
        whole(file.rows),
        Cell(text=f"{file.sha256[:32]} {file.sha256[32:]}", raw=file.sha256),
    )
    return ReportRow(cells, tuple(cell.raw for cell in cells))


PIECE = Piece(key="files", title="Files", words="the files with their hashes", render=_files)
