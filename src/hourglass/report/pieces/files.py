"""The files that the numbers come from."""

from textwrap import wrap

from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import Cell, whole
from hourglass.report.inputs import DataFile, ReportInputs
from hourglass.report.pieces.piece import Piece, Printed
from hourglass.report.tables import Column, table_of

COLUMNS: tuple[Column[DataFile], ...] = (
    Column(key="file", head="", value=lambda one: one.name),
    Column(key="read_on", head="read on", value=lambda one: f"{one.read_at:%-d %B %Y}"),
    Column(key="how", head="how", value=lambda one: one.how_read),
    Column(key="bytes", head="bytes", value=lambda one: one.size, cell=lambda one: whole(one.size)),
    Column(key="rows", head="rows", value=lambda one: one.rows, cell=lambda one: whole(one.rows)),
    Column(
        key="sha256",
        head="SHA-256",
        value=lambda one: one.sha256,
        cell=lambda one: Cell(text=" ".join(wrap(one.sha256, 16)), raw=one.sha256),
    ),
)


def _files(found: ReportInputs) -> Printed:
    others = len(found.files) - 1
    note = (
        f"The first is in use; the {formatting.count(others, 'files')} after it were in use before."
        if others
        else ""
    )
    return Printed(tables=(table_of("files", "Files", found.files, COLUMNS, note),))


PIECE = Piece(
    key="files",
    title="Files",
    words="the files with their hashes",
    shows="the files that were read",
    render=_files,
)
