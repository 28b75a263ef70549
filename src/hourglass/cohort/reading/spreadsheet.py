"""Reading OOXML and OpenDocument spreadsheets, bombs refused before anything is unpacked whole."""

import io
import re
import zipfile
from collections.abc import Iterator
from datetime import date, datetime, time, timedelta
from typing import Any
from xml.parsers import expat

import pyarrow as pa
from python_calamine import CalamineError, CalamineWorkbook, SheetTypeEnum

from hourglass.cohort.reading.layout_of_lines import SAMPLE_LINES, find_footer, find_header
from hourglass.cohort.reading.names import checked_names
from hourglass.cohort.reading.recipe import Evidence, Limits, Recipe, UnreadableFileError

BLOCK = 4_000
MOST_SHRUNK = 400
"""No honest sheet packs more than this many bytes into one."""
PIECE = 1 << 20
MOST_EMPTY, FULL_ENOUGH = 5_000_000, 30
"""A sheet may reach over so many cells, or over so many times those that hold something."""
OOXML_CELL = re.compile(rb"""\sr=["']([A-Z]{1,7})(\d{1,9})["']""")
Bounds = tuple[int, int, int, int]


def open_workbook(data: bytes, limits: Limits) -> tuple[CalamineWorkbook, list[str]]:
    """The workbook and the names of its sheets.

    Raises:
        UnreadableFileError: when it is broken, a bomb, or wider or longer than the limits.
    """
    _refuse_bombs(data, limits)
    try:
        book = CalamineWorkbook.from_filelike(io.BytesIO(data))
        sheets = [m.name for m in book.sheets_metadata if m.typ == SheetTypeEnum.WorkSheet]
    except (CalamineError, OSError, ValueError, KeyError) as error:
        raise UnreadableFileError(_broken(error)) from None
    if not sheets:
        raise UnreadableFileError("The spreadsheet has no sheet with cells.")
    return book, sheets


def _broken(error: Exception) -> str:
    return (
        f"The spreadsheet cannot be opened ({str(error)[:120]}). "
        "Open it in the program it comes from, save it again, and upload that."
    )


def find_recipe(data: bytes, limits: Limits) -> tuple[Recipe, list[Evidence], list[str]]:
    """Which sheet and lines of a spreadsheet hold the table."""
    book, sheets = open_workbook(data, limits)
    sheet = max(sheets, key=lambda name: (_size(book, name), -sheets.index(name)))
    recipe = Recipe(format="spreadsheet", sheet=sheet)
    rows = list(_rows(book, recipe))
    if not any(_filled(row) for _, row in rows):
        raise UnreadableFileError("The spreadsheet has no sheet with rows.")
    sample: list[list[str]] = [[] for _ in range(rows[0][0] - 1)]
    sample += [[_text(cell) or "" for cell in row] for _, row in rows[:SAMPLE_LINES]]
    header, said = find_header(sample)
    width = len(rows[0][1])
    tail = [row for line, row in rows[-20:] if line > header]
    footer, ends = find_footer([[_text(cell) or "" for cell in row] for row in tail], width)
    evidence = [
        Evidence(
            "sheet", sheet, f"the largest of {len(sheets)}" if len(sheets) > 1 else "the only one"
        )
    ]
    return (
        recipe.model_copy(update={"header": header, "footer": footer}),
        [*evidence, *said, *ends],
        sheets,
    )


def _size(book: CalamineWorkbook, sheet: str) -> int:
    try:
        found = book.get_sheet_by_name(sheet)
    except (CalamineError, ValueError):
        return 0
    return int(found.total_height * found.total_width)


def read_cells(data: bytes, recipe: Recipe, limits: Limits) -> tuple[list[str], list[Any]]:
    """The names and the columns of cells, as Arrow arrays of their own types."""
    book, sheets = open_workbook(data, limits)
    if recipe.sheet not in sheets:
        raise UnreadableFileError(
            f"There is no sheet called “{recipe.sheet}”; there are {', '.join(sheets)}."
        )
    names: list[str] | None = None
    blocks: list[list[Any]] = []
    held: list[list[Any]] = []  # the last lines, of which some may be footers
    for line, row in _rows(book, recipe):
        if line == recipe.header:
            names = [_text(cell) or "" for cell in row]
        if line <= recipe.header or not _filled(row):
            continue
        held.append(row)
        if len(held) >= BLOCK + recipe.footer:
            blocks.append(_packed(held[:BLOCK]))
            held = held[BLOCK:]
    held = held[: max(len(held) - recipe.footer, 0)]
    if held:
        blocks.append(_packed(held))
    if blocks and names is None:
        names = [f"column {k + 1}" for k in range(len(blocks[0]))]
    if names is None or not blocks:
        raise UnreadableFileError(f"Sheet {recipe.sheet} has no rows under its header.")
    columns = [_joined([block[k] for block in blocks]) for k in range(len(names))]
    there = [k for k, name in enumerate(names) if name or columns[k].null_count < len(columns[k])]
    return checked_names([names[k] for k in there], limits), [columns[k] for k in there]


def _filled(cells: list[Any]) -> bool:
    return any(cell not in ("", None) for cell in cells)


def _packed(rows: list[list[Any]]) -> list[Any]:
    """Rows as columns, each an Arrow array: far smaller than the cells as objects."""
    return [_array(list(column)) for column in zip(*rows, strict=True)]


def _joined(chunks: list[Any]) -> Any:
    """Chunks of one column as one, of text unless all that hold anything are of one kind."""
    kinds = {chunk.type for chunk in chunks if chunk.null_count < len(chunk)}
    if len(kinds) <= 1:
        kind = kinds.pop() if kinds else pa.string()
        return pa.chunked_array([chunk.cast(kind) for chunk in chunks], kind)
    return pa.chunked_array(
        [pa.array([_text(c) for c in chunk.to_pylist()], pa.string()) for chunk in chunks]
    )


def _rows(book: CalamineWorkbook, recipe: Recipe) -> Iterator[tuple[int, list[Any]]]:
    """Each row with its line, counted from 1 at the top of the sheet, or of the range."""
    try:
        sheet = book.get_sheet_by_name(recipe.sheet)
    except (CalamineError, ValueError, KeyError) as error:
        raise UnreadableFileError(_broken(error)) from None
    bounds = _bounds(recipe.cells)
    top, left = sheet.start or (0, 0)
    for number, row in enumerate(sheet.iter_rows(), start=top + 1):
        if bounds is None:
            yield number, row
        elif bounds[0] <= number <= bounds[1]:
            line = [""] * left + row + [""] * bounds[3]
            yield number - bounds[0] + 1, line[bounds[2] - 1 : bounds[3]]


def _bounds(cells: str) -> Bounds | None:
    """First and last row, first and last column, counted from 1."""
    if not cells:
        return None
    found = re.fullmatch(r"([A-Z]+)(\d+):([A-Z]+)(\d+)", cells.upper())
    assert found is not None
    left, right = _column(found[1]), _column(found[3])
    return int(found[2]), int(found[4]), min(left, right), max(left, right)


def _column(letters: str) -> int:
    place = 0
    for letter in letters:
        place = place * 26 + ord(letter) - 64
    return place


def _array(cells: list[Any]) -> Any:
    """Cells as one Arrow array: of numbers or of dates if all are, else of text."""
    known = [cell for cell in cells if cell not in ("", None)]
    kinds = {type(cell) for cell in known}
    if not known:
        return pa.nulls(len(cells))
    if kinds <= {int, float}:
        return pa.array([None if cell in ("", None) else float(cell) for cell in cells])
    if kinds <= {date, datetime}:
        return pa.array([_instant(cell) for cell in cells], pa.timestamp("s"))
    return pa.array([_text(cell) for cell in cells], pa.string())


def _instant(cell: Any) -> datetime | None:
    if cell in ("", None):
        return None
    return cell if isinstance(cell, datetime) else datetime(cell.year, cell.month, cell.day)


def _text(cell: Any) -> str | None:
    if cell in ("", None):
        return None
    if isinstance(cell, bool):
        return "true" if cell else "false"
    if isinstance(cell, float):
        return f"{cell:.15g}"
    if isinstance(cell, datetime):
        return cell.isoformat(" ") if cell.time() != time() else cell.date().isoformat()
    if isinstance(cell, date | time | timedelta):
        return str(cell)
    return str(cell)


def _refuse_bombs(data: bytes, limits: Limits) -> None:
    """Look through the packed sheets piece by piece: how large are they, how wide, how long?"""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            total = 0
            for member in packed.infolist():
                total += _unpacked(packed, member, limits, total)
    except (zipfile.BadZipFile, OSError, EOFError, RuntimeError, NotImplementedError) as error:
        raise UnreadableFileError(_broken(error)) from None
    except (expat.ExpatError, ValueError) as error:
        if isinstance(error, UnreadableFileError):
            raise
        raise UnreadableFileError(_broken(error)) from None


def _unpacked(packed: zipfile.ZipFile, member: zipfile.ZipInfo, limits: Limits, before: int) -> int:
    """Bytes that a member unpacks to; its sheet's extent is checked on the way."""
    size, last, width, height, cells = 0, b"", 0, 0, 0
    sheet = member.filename.startswith("xl/worksheets/") and member.filename.endswith(".xml")
    extent = _OpenDocumentExtent(limits) if member.filename == "content.xml" else None
    with packed.open(member) as stream:
        while piece := stream.read(PIECE):
            size += len(piece)
            if before + size > limits.most_unpacked or size > PIECE + MOST_SHRUNK * max(
                member.compress_size, 1
            ):
                raise UnreadableFileError(
                    f"The spreadsheet unpacks to more than {(before + size) / 2**20:,.0f} MB, far more "
                    "than an honest one of its size. It was not opened."
                )
            if sheet:
                whole = last + piece
                cut = whole.rfind(b"<")
                seen, last = OOXML_CELL.findall(whole[:cut]), whole[cut:]
                cells += len(seen)
                if seen:
                    width = max(
                        width, *(_column(letters.decode()) for letters in {s[0] for s in seen})
                    )
                    height = max(height, int(seen[-1][1]))
                    _refuse_extent(width, height, cells, limits)
            if extent is not None:
                extent.feed(piece)
    return size


def _refuse_extent(width: int, height: int, cells: int, limits: Limits) -> None:
    if width > limits.most_columns:
        raise UnreadableFileError(
            f"A sheet reaches to column {width:,}; at most {limits.most_columns:,} can be read. "
            "Delete what lies far to the right and upload again."
        )
    most = min(limits.most_cells, max(MOST_EMPTY, FULL_ENOUGH * cells))
    if width * height > most:
        raise UnreadableFileError(
            f"A sheet reaches over {height:,} rows of {width:,} columns, with {cells:,} cells filled so "
            f"far; at most {most:,} can be read of such a sheet. Delete what lies far away and upload again."
        )


class _OpenDocumentExtent:
    """How far the filled cells of an OpenDocument sheet reach, repetitions counted."""

    def __init__(self, limits: Limits) -> None:
        self._limits = limits
        self._across = self._filled = self._down = self._rows = self._width = self._cells = 0
        self._parser = expat.ParserCreate()
        self._parser.StartElementHandler = self._start
        self._parser.EndElementHandler = self._end

    def feed(self, piece: bytes) -> None:
        self._parser.Parse(piece, False)

    def _start(self, name: str, attributes: dict[str, str]) -> None:
        match name.rpartition(":")[2]:
            case "table":
                self._rows = self._width = 0
            case "table-row":
                self._down = int(attributes.get("table:number-rows-repeated", 1))
                self._across = self._filled = 0
            case "table-cell" | "covered-table-cell":
                self._across += int(attributes.get("table:number-columns-repeated", 1))
                if any(key.endswith("value-type") or key.endswith("formula") for key in attributes):
                    self._filled = self._across
                self._cells += 1

    def _end(self, name: str) -> None:
        if name.rpartition(":")[2] != "table-row":
            return
        self._rows += self._down
        self._width = max(self._width, self._filled)
        if self._filled:
            _refuse_extent(self._width, self._rows, self._cells, self._limits)
