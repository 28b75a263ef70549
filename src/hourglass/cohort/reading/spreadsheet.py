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
from hourglass.cohort.reading.lines_of_names import find_described, find_headings, with_headings
from hourglass.cohort.reading.mended import Mended, mended_names
from hourglass.cohort.reading.merged_cells import Span, SpannedRows
from hourglass.cohort.reading.packed_sheets import column_place, refuse_bombs
from hourglass.cohort.reading.recipe import Cells, Evidence, Limits, Recipe, UnreadableFileError
from hourglass.cohort.words import grouped

BLOCK = 4_000
Bounds = tuple[int, int, int, int]
BROKEN = (
    zipfile.BadZipFile, OSError, EOFError, RuntimeError, NotImplementedError, ValueError, KeyError,
    expat.ExpatError,
)  # fmt: skip
"""What comes of a packed file that is not whole."""


def open_workbook(data: bytes, limits: Limits) -> tuple[CalamineWorkbook, list[str]]:
    """The workbook and the names of its sheets.

    Raises:
        UnreadableFileError: when it is broken, a bomb, or wider or longer than the limits.
    """
    try:
        refuse_bombs(data, limits)
        book = CalamineWorkbook.from_filelike(io.BytesIO(data))
        sheets = [m.name for m in book.sheets_metadata if m.typ == SheetTypeEnum.WorkSheet]
    except UnreadableFileError:
        raise
    except (CalamineError, *BROKEN) as error:
        raise UnreadableFileError(_broken(error)) from None
    if not sheets:
        raise UnreadableFileError("The spreadsheet has no sheet with cells.")
    return book, sheets


def _broken(error: Exception) -> str:
    return (
        f"The spreadsheet cannot be opened ({_reason(error)}). "
        "Open it in the program it comes from, save it again, and upload that."
    )


def _reason(error: Exception) -> str:
    return (str(error).splitlines() or [type(error).__name__])[0][:120]


def find_recipe(data: bytes, limits: Limits) -> tuple[Recipe, list[Evidence], list[str]]:
    """Which sheet and lines of a spreadsheet hold the table."""
    book, sheets = open_workbook(data, limits)
    sheet = max(sheets, key=lambda name: (_size(book, name), -sheets.index(name)))
    recipe = Recipe(format="spreadsheet", sheet=sheet)
    rows = list(_rows(book, recipe))
    if not any(_filled(row) for _, row in rows):
        raise UnreadableFileError("The spreadsheet has no sheet with rows.")
    sample: list[list[str]] = [[] for _ in range(rows[0][0] - 1)]
    sample += [_texts(row) for _, row in rows[:SAMPLE_LINES]]
    header, header_evidence = find_header(sample)
    headings, over = find_headings(sample, header)
    described, under = find_described(sample, header)
    width = len(rows[0][1])
    tail = [row for line, row in rows[-20:] if line > header]
    footer, ends = find_footer([_texts(row) for row in tail], width)
    evidence = [
        Evidence(
            "sheet", sheet, f"the largest of {len(sheets)}" if len(sheets) > 1 else "the only one"
        )
    ]
    return (
        recipe.model_copy(
            update={
                "header": header,
                "headings": headings,
                "described": described,
                "footer": footer,
            }
        ),
        [*evidence, *header_evidence, *over, *under, *ends],
        sheets,
    )


def _size(book: CalamineWorkbook, sheet: str) -> int:
    try:
        found = book.get_sheet_by_name(sheet)
    except (CalamineError, ValueError) as error:
        raise UnreadableFileError(
            f"Sheet {sheet} of the workbook cannot be read ({_reason(error)}), and might be the one with the "
            "table. Open the workbook in the program it comes from, delete the sheet or save it again, "
            "and upload that."
        ) from None
    return int(found.total_height * found.total_width)


def read_cells(data: bytes, recipe: Recipe, limits: Limits) -> Cells:
    """The names and the columns of cells, as Arrow arrays of their own types."""
    book, sheets = open_workbook(data, limits)
    if recipe.sheet not in sheets:
        raise UnreadableFileError(
            f"There is no sheet called “{recipe.sheet}”; there are {', '.join(sheets)}."
        )
    names: list[str] | None = None
    blocks: list[list[Any]] = []
    held: list[list[Any]] = []  # the last lines, of which some may be footers
    spans = SpannedRows(_spans(book, recipe.sheet))
    above: list[str] = []
    described: list[list[str]] = []
    for line, row in _rows(book, recipe, spans):
        if recipe.headings and line == recipe.header - 1:
            above = _texts(row)
        if line == recipe.header:
            names = with_headings(_texts(row), above) if above else _texts(row)
        if line <= recipe.header or not _filled(row):
            continue
        if recipe.header and len(described) < len(recipe.described):
            described.append(_texts(row))
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
    chosen, mended = mended_names([names[k] for k in there], limits)
    if spans.filled:
        mended.append(_filled_spans(spans.filled))
    under = [[line[k] for k in there] for line in described]
    return Cells(chosen, [columns[k] for k in there], mended, under)


def _texts(row: list[Any]) -> list[str]:
    return [_text(cell) or "" for cell in row]


def _filled_spans(cells: int) -> Mended:
    return Mended(
        "merged cells",
        f"{grouped(cells)} {'cell is' if cells == 1 else 'cells are'} covered by merged cells",
        "A cell that spans several rows stands for each of them: what it holds was filled in.",
    )


def _spans(book: CalamineWorkbook, sheet: str) -> list[Span]:
    """The merged cells of a sheet; none where the format does not hold them."""
    try:
        return list(book.get_sheet_by_name(sheet).merged_cell_ranges or ())
    except (CalamineError, ValueError, KeyError):
        return []


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


def _rows(
    book: CalamineWorkbook, recipe: Recipe, spans: SpannedRows | None = None
) -> Iterator[tuple[int, list[Any]]]:
    """Each row with its line, counted from 1 at the top of the sheet, or of the range."""
    try:
        sheet = book.get_sheet_by_name(recipe.sheet)
    except (CalamineError, ValueError, KeyError) as error:
        raise UnreadableFileError(_broken(error)) from None
    bounds = _bounds(recipe.cells)
    top, left = sheet.start or (0, 0)
    filled = SpannedRows(_spans(book, recipe.sheet)) if spans is None else spans
    for place, row in filled.rows(enumerate(sheet.iter_rows(), start=top), left):
        number = place + 1
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
    left, right = column_place(found[1]), column_place(found[3])
    return int(found[2]), int(found[4]), min(left, right), max(left, right)


def _array(cells: list[Any]) -> Any:
    """Cells as one Arrow array: of numbers or of dates if all are, else of text."""
    known = [cell for cell in cells if cell not in ("", None)]
    kinds = {type(cell) for cell in known}
    if not known:
        return pa.nulls(len(cells))
    if kinds <= {int, float}:
        return pa.array([None if cell in ("", None) else float(cell) for cell in cells])
    if kinds <= {date, datetime}:
        return pa.array([_instant(cell) for cell in cells], pa.timestamp("us"))
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
