"""Reading delimited text into a typed table, or saying exactly why it cannot be read."""

import csv
import io
from collections import Counter
from dataclasses import dataclass
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
from pyarrow import csv as arrow_csv

from hourglass.cohort.table import (
    MISSING_WORDS,
    Column,
    DateColumn,
    NumberColumn,
    Table,
    TextColumn,
)

DELIMITERS = {",": "comma", ";": "semicolon", "\t": "tab", "|": "bar"}
MOST_COLUMNS = 5_000
LONGEST_NAME = 300
ISO_DATE = r"^\d{4}-\d{2}-\d{2}$"
NUMBER = r"^[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d{1,3})?$"
CODE_WITH_LEADING_ZERO = r"^[+-]?0\d"


class UnreadableFileError(ValueError):
    """A file that cannot be read; the message says what is wrong, where, and what to do."""


@dataclass(frozen=True, slots=True)
class Reading:
    """A table and how it was read."""

    table: Table
    encoding: str
    delimiter: str

    @property
    def how(self) -> str:
        """In words: "read as UTF-8, comma"."""
        return f"read as {self.encoding}, {self.delimiter}"


def read_delimited(data: bytes) -> Reading:
    """Read comma-, semicolon-, tab- or bar-delimited text with a header row.

    Args:
        data: the file's bytes.

    Raises:
        UnreadableFileError: with a sentence saying what is wrong and where.
    """
    text, encoding = _decode(data)
    if not text.strip():
        raise UnreadableFileError("The file is empty. Choose a file with a header and rows.")
    delimiter = _delimiter(text)
    names = _header(text, delimiter)
    arrow = _parse(text, delimiter, len(names))
    if arrow.num_rows == 0:
        raise UnreadableFileError(
            f"The file has a header with {len(names)} columns and no rows under it. "
            "Choose a file with at least one row of data."
        )
    columns = tuple(_typed(name, arrow.column(k).combine_chunks()) for k, name in enumerate(names))
    return Reading(
        Table(columns, np.arange(1, arrow.num_rows + 1)), encoding, DELIMITERS[delimiter]
    )


def _decode(data: bytes) -> tuple[bytes, str]:
    """UTF-8 bytes of the text, and the name of the encoding they came in."""
    for mark, codec in ((b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
        if data.startswith(mark):
            try:
                return data.decode(codec).encode(), "UTF-16"
            except UnicodeDecodeError as error:
                raise UnreadableFileError(
                    f"The file starts like UTF-16 text but breaks off at byte {error.start:,}."
                ) from None
    where = data.find(b"\x00")
    if where >= 0:
        raise UnreadableFileError(
            f"This is not a text file: byte {where:,} is a zero byte. "
            "Export the table as comma-separated text (CSV) and choose that file."
        )
    if data.startswith(b"\xef\xbb\xbf"):
        return data[3:], "UTF-8"
    try:
        data.decode("utf-8")
    except UnicodeDecodeError:
        return _from_windows(data), "Windows-1252"
    return data, "UTF-8"


def _from_windows(data: bytes) -> bytes:
    strange = sum(data.count(byte) for byte in range(32) if byte not in (9, 10, 13, 12))
    if strange > len(data) / 100:
        raise UnreadableFileError(
            "This is not a text file: it is full of control characters. "
            "Export the table as comma-separated text (CSV) and choose that file."
        )
    return data.decode("cp1252", errors="replace").encode()


def _delimiter(text: bytes) -> str:
    line = next(line for line in io.BytesIO(text[:1_000_000]) if line.strip()).decode(
        errors="replace"
    )
    outside = "".join(line.split('"')[::2])
    return max(DELIMITERS, key=outside.count)


def _header(text: bytes, delimiter: str) -> list[str]:
    lines = io.TextIOWrapper(io.BytesIO(text[:4_000_000]), encoding="utf-8", errors="replace")
    try:
        row = next(row for row in csv.reader(lines, delimiter=delimiter) if row)
    except csv.Error as error:
        raise UnreadableFileError(f"The header cannot be read: {error}.") from None
    if len(row) > MOST_COLUMNS:
        raise UnreadableFileError(
            f"The header has {len(row):,} columns; at most {MOST_COLUMNS:,} can be read."
        )
    names = [name.strip() for name in row]
    blank = [k for k, name in enumerate(names, start=1) if not name]
    if blank:
        raise UnreadableFileError(
            f"{_columns(blank)} no name in the header. Give every column a name and upload again."
        )
    repeated = [name for name, n in Counter(names).items() if n > 1]
    if repeated:
        places = [k for k, name in enumerate(names, start=1) if name == repeated[0]]
        where = ", ".join(map(str, places[:-1])) + f" and {places[-1]}"
        raise UnreadableFileError(
            f"Columns {where} are all called “{repeated[0]}”. "
            "Rename them so that every column has its own name, and upload again."
        )
    long = [k for k, name in enumerate(names, start=1) if len(name) > LONGEST_NAME]
    if long:
        raise UnreadableFileError(
            f"The name of column {long[0]} is longer than {LONGEST_NAME} characters. Shorten it."
        )
    return names


def _columns(places: list[int]) -> str:
    if len(places) == 1:
        return f"Column {places[0]} has"
    shown = ", ".join(map(str, places[:5])) + (" …" if len(places) > 5 else "")
    return f"Columns {shown} have"


def _parse(text: bytes, delimiter: str, width: int) -> Any:
    """The rows under the header as an Arrow table of strings."""
    odd: list[Any] = []

    def note(row: Any) -> str:
        odd.append(row)
        return "skip"

    def read(threads: bool) -> Any:
        return arrow_csv.read_csv(
            pa.BufferReader(text),
            arrow_csv.ReadOptions(use_threads=threads, autogenerate_column_names=True),
            arrow_csv.ParseOptions(
                delimiter=delimiter, newlines_in_values=True, invalid_row_handler=note
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
            read(threads=False)
    except pa.ArrowInvalid as error:
        raise UnreadableFileError(
            f"The rows cannot be told apart ({error}). Look for a quotation mark without its partner."
        ) from None
    if odd:
        raise UnreadableFileError(_ragged(odd, width))
    if arrow.num_columns != width:
        raise UnreadableFileError(
            f"The header names {width} columns but the rows have {arrow.num_columns}."
        )
    _refuse_open_quotation(text, arrow)
    return arrow.slice(1)


def _refuse_open_quotation(text: bytes, arrow: Any) -> None:
    """A quotation mark that is never closed swallows the rest of the file into one cell."""
    if text.count(b'"') % 2 == 0:
        return
    last = arrow.slice(arrow.num_rows - 1).to_pylist()[0]
    if any("\n" in (cell or "") for cell in last.values()):
        raise UnreadableFileError(
            f"Row {arrow.num_rows - 1} opens a quotation mark that is never closed, so all that "
            "follows would be one cell. Close it and upload again."
        )


def _ragged(odd: list[Any], width: int) -> str:
    first = odd[0]
    # The parser counts the header as row 1.
    where = f"Row {first.number - 1}" if first.number else "A row"
    more = f", and {len(odd) - 1:,} more rows differ too" if len(odd) > 1 else ""
    piece = first.text[:60] + ("…" if len(first.text) > 60 else "")
    return (
        f"{where} has {first.actual_columns} cells where the header has {width}{more}. "
        f"It reads: {piece} — mend the file (a missing quotation mark or delimiter?) and upload again."
    )


def _typed(name: str, cells: Any) -> Column:
    """Give a column of strings its type: dates if all are ISO dates, numbers if all are numbers."""
    encoded = cells.dictionary_encode()
    raw = encoded.dictionary
    trimmed = pc.utf8_trim_whitespace(raw)
    missing = pc.is_in(trimmed, value_set=pa.array(sorted(MISSING_WORDS)))
    known = trimmed.filter(pc.invert(missing))
    codes = encoded.indices.to_numpy(zero_copy_only=False)
    gone = missing.to_numpy(zero_copy_only=False)
    if len(known) and _all_match(known, ISO_DATE):
        days = _days(trimmed, gone)
        if days is not None:
            return DateColumn(name, days[codes])
    if len(known) and _all_match(known, NUMBER) and not _any_match(known, CODE_WITH_LEADING_ZERO):
        values = np.full(len(raw), np.nan)
        values[~gone] = pc.cast(known, pa.float64()).to_numpy(zero_copy_only=False)
        if np.isfinite(values[~gone]).all():
            return NumberColumn(name, values[codes], _decimals(known))
    return _text(name, codes, gone, raw.to_pylist())


def _text(name: str, codes: Any, gone: Any, raw: list[str]) -> TextColumn:
    order = sorted((k for k in range(len(raw)) if not gone[k]), key=lambda k: raw[k])
    new = np.full(len(raw), -1, dtype=np.int32)
    new[order] = np.arange(len(order), dtype=np.int32)
    return TextColumn(name, new[codes], tuple(raw[k] for k in order))


def _days(trimmed: Any, gone: Any) -> np.ndarray | None:
    texts = np.array(trimmed.to_pylist(), dtype=object)
    texts[gone] = "NaT"
    try:
        return texts.astype("datetime64[D]")
    except ValueError:
        return None


def _all_match(cells: Any, pattern: str) -> bool:
    return bool(pc.all(pc.match_substring_regex(cells, pattern)).as_py())


def _any_match(cells: Any, pattern: str) -> bool:
    return bool(pc.any(pc.match_substring_regex(cells, pattern)).as_py())


def _decimals(cells: Any) -> int:
    point = pc.find_substring(cells, ".")
    after = pc.if_else(
        pc.less(point, 0), 0, pc.subtract(pc.subtract(pc.utf8_length(cells), point), 1)
    )
    return min(int(pc.max(after).as_py()), 10)
