"""Reading delimited text."""

import csv
import io
import re
from dataclasses import replace
from typing import Any

import pyarrow as pa
import pyarrow.compute as pc
from pyarrow import csv as arrow_csv

from hourglass.cohort.reading.aligned import SPACES, aligned_cells
from hourglass.cohort.reading.encoding import find_encoding, to_utf8
from hourglass.cohort.reading.layout_of_lines import (
    Split,
    find_delimiter,
    find_footer,
    find_header,
    split,
)
from hourglass.cohort.reading.lines_of_names import find_described, find_headings, with_headings
from hourglass.cohort.reading.mended import Mended, mended_names
from hourglass.cohort.reading.numbers import find_marks, points_in_doubt
from hourglass.cohort.reading.parted_numbers import ROW_NAME, parted_numbers
from hourglass.cohort.reading.ragged import ragged, with_odd_rows
from hourglass.cohort.reading.recipe import Cells, Evidence, Limits, Recipe, UnreadableFileError
from hourglass.cohort.reading.text_mending import mended_text
from hourglass.cohort.words import grouped

SAMPLE = 400_000
TAIL = 8_000
WORDS_FOR_MISSING = (
    "na",
    "null",
    "not done",
    "-",
    "--",
    "?",
    "#N/A",
    "missing",
    "unknown",
    "none",
    "not known",
    "n.a.",
    "k.A.",
)
SOMETHING = re.compile(rb"\S")
VALUE_LIKE = re.compile(r"^[+-]?[\d.,]+$|^\d{1,4}[-/.]\d{1,2}[-/.]\d{1,4}")


def find_recipe(data: bytes) -> tuple[Recipe, list[Evidence]]:
    """How a delimited text seems to be written.

    Raises:
        UnreadableFileError: when it is no text, or empty.
    """
    encoding, why = find_encoding(data)
    text, _ = _one_way(to_utf8(data, encoding))
    if SOMETHING.search(text) is None:
        raise UnreadableFileError("The file is empty. Choose a file with a header and rows.")
    head = text[:SAMPLE].decode(errors="replace")
    if len(text) > SAMPLE:
        head = head[: head.rfind("\n") + 1] or head
    by, found = find_delimiter(head)
    rows = split(head, by)
    if not rows:
        raise UnreadableFileError(
            f"The first line does not end within {grouped(SAMPLE)} characters, so that no names of columns "
            "can be found. Look for a quotation mark without its twin in it, or save the file as CSV again."
        )
    header, header_evidence = find_header(rows)
    headings, over = find_headings(rows, header)
    described, under = find_described(rows, header)
    width = max((len(row) for row in rows[max(header - 1, 0) : header + 1]), default=1)
    below = rows[header + len(described) :]
    tail = text[-TAIL:].decode(errors="replace")
    last = split(
        tail[tail.find("\n") + 1 :] if len(text) > TAIL else "\n".join(tail.split("\n")[header:]),
        by,
    )
    footer, ends = find_footer(last, width)
    names = rows[header - 1] if header else [f"column {k + 1}" for k in range(width)]
    columns = [
        (name, [row[k].strip() for row in below if k < len(row)]) for k, name in enumerate(names)
    ]
    decimal, thousands, marks = find_marks(columns)
    missing, words = find_missing_words(columns)
    recipe = Recipe.model_validate(
        {
            "encoding": encoding, "delimiter": by.delimiter, "places": by.places, "quote": by.quote,
            "header": header, "headings": headings, "described": described, "footer": footer,
            "decimal": decimal, "thousands": thousands, "missing": missing,
            "points": "in doubt" if points_in_doubt(columns, decimal) else "decimal",
        }
    )  # fmt: skip
    return recipe, [why, *found, *header_evidence, *over, *under, *ends, *marks, *words]


def _one_way(text: bytes, delimiter: str = "") -> tuple[bytes, list[Mended]]:
    """The text with its lines ended in one way; the delimiter is found where it is not known."""
    if b"\x00" not in text and text.count(b"\r") == text.count(b"\r\n"):
        return text, []
    if not delimiter:
        head = text[:SAMPLE].replace(b"\x00", b"").replace(b"\r\n", b"\n").replace(b"\r", b"\n")
        delimiter = find_delimiter(head.decode(errors="replace"))[0].delimiter
    return mended_text(text, delimiter.encode())


def find_missing_words(columns: list[tuple[str, list[str]]]) -> tuple[list[str], list[Evidence]]:
    """Words that stand among numbers or dates where a value should."""
    found: dict[str, list[str]] = {}
    for name, cells in columns:
        held = [cell for cell in cells if cell]
        odd = [cell for cell in held if not VALUE_LIKE.match(cell)]
        if not odd or len(odd) * 2 > len(held):
            continue
        for word in {
            cell for cell in odd if cell.lower() in WORDS_FOR_MISSING or cell in WORDS_FOR_MISSING
        }:
            found.setdefault(word, []).append(f"{odd.count(word)} in {name}")
    evidence = [
        Evidence(
            "missing", f"“{word}”", f"it stands among numbers or dates: {', '.join(where[:3])}"
        )
        for word, where in found.items()
    ]
    return sorted(found), evidence


def read_cells(data: bytes, recipe: Recipe, limits: Limits, most_rows: int | None = None) -> Cells:
    """The names and the columns of cells, as Arrow arrays of strings.

    Raises:
        UnreadableFileError: with a sentence stating what is wrong and where.
    """
    text, mended = _one_way(to_utf8(data, recipe.encoding), recipe.delimiter)
    if SOMETHING.search(text) is None:
        raise UnreadableFileError("The file is empty. Choose a file with a header and rows.")
    whole = len(text)
    if most_rows is not None:
        text = _first_lines(text, recipe.header + len(recipe.described) + most_rows + 20)
    if recipe.footer and len(text) == whole:
        text = _without_last_lines(text, recipe.footer)
    above = _line(text, recipe.header - 1, recipe) if recipe.headings and recipe.header > 1 else []
    if recipe.header > 1:
        text = _from_line(text, recipe.header)
    parse = _aligned if recipe.delimiter == SPACES else _parsed
    found = parse(text, recipe, limits)
    if above:
        found = replace(found, names=with_headings(found.names, above))
    columns = found.columns
    if not columns or len(columns[0]) == 0:
        raise UnreadableFileError(
            f"The file has a header with {len(found.names)} columns and no rows under it. "
            "Choose a file with at least one row of data."
        )
    there = [k for k, name in enumerate(found.names) if name.strip() or not _blank(columns[k])]
    names, renamed = mended_names([found.names[k] for k in there], limits)
    described = [[line[k] for k in there] for line in found.described]
    return Cells(names, [columns[k] for k in there], [*mended, *found.mended, *renamed], described)


def _line(text: bytes, line: int, recipe: Recipe) -> list[str]:
    """The cells of one line, counted from 1."""
    whole = _first_lines(_from_line(text, line), 1).decode(errors="replace")
    return next(iter(split(whole, Split(recipe.delimiter, recipe.quote, recipe.places))), [])


def _under(columns: list[Any], recipe: Recipe) -> list[list[str]]:
    """The lines under the names, of columns that begin with the names."""
    lines = range(1, recipe.lines_of_names)
    return [
        [str(column[k].as_py() or "") for column in columns] for k in lines if k < len(columns[0])
    ]


def _aligned(text: bytes, recipe: Recipe, limits: Limits) -> Cells:
    columns, counts, mended = aligned_cells(text, recipe.places)
    names = [str(column[0].as_py()) for column in columns] if columns and len(columns[0]) else []
    if not recipe.header:
        return Cells([f"column {k + 1}" for k in range(len(columns))], columns, mended)
    odd = [k for k, n in enumerate(counts) if k and n != counts[0]]
    if odd:
        mended.append(ragged(odd, [counts[k] for k in odd], counts[0]))
    head = recipe.lines_of_names
    return Cells(names, [column[head:] for column in columns], mended, _under(columns, recipe))


def _parsed(text: bytes, recipe: Recipe, limits: Limits) -> Cells:
    names = _names(text, recipe, limits)
    arrow, mended = _parse(text, recipe, len(names), limits)
    if arrow.num_columns > len(names):
        names = _names_for_more(names, arrow, recipe, mended)
    columns = [arrow.column(k) for k in range(arrow.num_columns)]
    head = recipe.lines_of_names
    return Cells(names, [column[head:] for column in columns], mended, _under(columns, recipe))


def _names_for_more(
    names: list[str], arrow: Any, recipe: Recipe, mended: list[Mended]
) -> list[str]:
    """The names of a table whose rows hold more cells than the header names.

    Rows that all hold one more begin with a name of their own, which the header leaves out.
    """
    more = arrow.num_columns - len(names)
    body = arrow.slice(recipe.lines_of_names)
    last = body.column(body.num_columns - 1)
    parted = None
    if more == 1 and recipe.delimiter == "," and not _blank(last):
        parted = parted_numbers(body, names)
    if parted is not None:
        mended.append(parted)
    if more == 1 and last.null_count == 0 and not _blank(last):
        filled = pc.all(pc.greater(pc.utf8_length(pc.utf8_trim_whitespace(last)), 0)).as_py()
        distinct = pc.count_distinct(body.column(0)).as_py() == body.num_rows
        if filled and distinct:
            mended[:] = [one for one in mended if one.about != "ragged"]
            if parted is None:
                mended.append(NAMED_ROWS)
            return [ROW_NAME, *names]
    return [*names, *("" for _ in range(more))]


NAMED_ROWS = Mended(
    "names",
    "The header has one name fewer than the rows have cells: the first column, whose cells are all "
    f"different, is called “{ROW_NAME}”",
    "Without this every name would stand over the column before its own.",
    columns=(ROW_NAME,),
)


def _blank(cells: Any) -> bool:
    """Whether a column holds nothing: what a delimiter at the end of every line leaves."""
    return not pc.any(pc.greater(pc.utf8_length(pc.utf8_trim_whitespace(cells)), 0)).as_py()


def _first_lines(text: bytes, count: int) -> bytes:
    end = 0
    for _ in range(count):
        end = text.find(b"\n", end) + 1
        if end == 0:
            return text
    return text[:end]


def _from_line(text: bytes, line: int) -> bytes:
    start = 0
    for _ in range(line - 1):
        found = text.find(b"\n", start) + 1
        if found == 0:
            raise UnreadableFileError(f"The file has no line {line} to take the names from.")
        start = found
    return text[start:]


def _without_last_lines(text: bytes, count: int) -> bytes:
    end = len(text)
    while end and text[end - 1] in b"\r\n":
        end -= 1
    for _ in range(count):
        end = text.rfind(b"\n", 0, end)
        if end < 0:
            raise UnreadableFileError("The lines left out at the end are all there is.")
    return text[: end + 1]


def _names(text: bytes, recipe: Recipe, limits: Limits) -> list[str]:
    lines = io.TextIOWrapper(io.BytesIO(text[:4_000_000]), encoding="utf-8", errors="replace")
    quote = recipe.quote or None
    reader = csv.reader(
        lines,
        delimiter=recipe.delimiter,
        quotechar=quote,
        quoting=csv.QUOTE_MINIMAL if quote else csv.QUOTE_NONE,
    )
    try:
        row = next(row for row in reader if row)
    except csv.Error as error:
        raise UnreadableFileError(f"The header cannot be read: {error}.") from None
    except StopIteration:
        raise UnreadableFileError("The file has no rows left to read.") from None
    if not recipe.header:
        row = [f"column {k + 1}" for k in range(len(row))]
    if len(row) > limits.most_columns:
        mended_names(row, limits)
    return row


def _parse(text: bytes, recipe: Recipe, width: int, limits: Limits) -> tuple[Any, list[Mended]]:
    """The rows, the header among them, as an Arrow table of strings; ragged ones filled up."""
    odd: list[Any] = []

    def note(row: Any) -> str:
        odd.append(row)
        return "skip"

    def read(threads: bool) -> Any:
        return arrow_csv.read_csv(
            pa.BufferReader(text),
            arrow_csv.ReadOptions(use_threads=threads, autogenerate_column_names=True),
            arrow_csv.ParseOptions(
                delimiter=recipe.delimiter,
                quote_char=recipe.quote or False,
                newlines_in_values=True,
                invalid_row_handler=note,
            ),
            arrow_csv.ConvertOptions(
                column_types={f"f{k}": pa.string() for k in range(width)},
                strings_can_be_null=False,
                check_utf8=False,
            ),
        )

    try:
        arrow = read(threads=True)
        if odd:  # the parser numbers rows only when it reads them in order
            odd.clear()
            arrow = read(threads=False)
    except pa.ArrowInvalid:
        raise UnreadableFileError(
            "Where each row ends cannot be seen: one is longer than a million characters. Look for a "
            "quotation mark without its partner, or for a cell that holds a whole document."
        ) from None
    if recipe.quote:
        _refuse_open_quotation(text, arrow, recipe.quote)
    mended: list[Mended] = []
    if odd:
        arrow, noted = with_odd_rows(arrow, odd, recipe, width)
        mended += noted
    if arrow.num_columns < width:
        raise UnreadableFileError(
            f"The header names {width} columns but the rows have {arrow.num_columns}."
        )
    if arrow.num_rows * width > limits.most_cells:
        raise UnreadableFileError(
            f"The table has {grouped(arrow.num_rows)} rows of {grouped(width)} columns; "
            f"at most {grouped(limits.most_cells)} cells can be read. Leave out columns you do not need."
        )
    return arrow, mended


def _refuse_open_quotation(text: bytes, arrow: Any, quote: str) -> None:
    """A quotation mark that is never closed swallows the rest of the file into one cell."""
    if arrow.num_rows == 0:
        return
    last = arrow.slice(arrow.num_rows - 1).to_pylist()[0]
    swallowed = any("\n" in (cell or "") for cell in last.values())
    if swallowed and text.count(quote.encode()) % 2:
        raise UnreadableFileError(
            f"Row {arrow.num_rows - 1} opens a quotation mark that is never closed, so all that "
            "follows would be one cell. Close it and upload again."
        )
