"""Rows between the rows of a table that are none: the header again, totals, footnotes."""

import re
from collections.abc import Iterable, Sequence
from dataclasses import replace
from typing import Any, Literal

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
from numpy.typing import NDArray

from hourglass.cohort.reading.layout_of_lines import FOOTER, SUMMARY
from hourglass.cohort.reading.mended import Mended
from hourglass.cohort.table import AsWritten, Column, Table
from hourglass.cohort.words import grouped, listed

APART = "no rows"
"""What :class:`Mended` is about for these rows."""
Kind = Literal["the header again", "totals", "notes"]
MIN_COLUMNS = 3
MAX_SHARE_APART = 0.2
"""With a larger share of such rows they are what the table is made of."""
BEGINS_A_NOTE = re.compile(
    r"^\s*([*†‡§¶#]|\(?[a-z1-9]\)\s|note\b|source\b|legend\b)", re.IGNORECASE
)
WORDS_OF_A_NOTE = 3
HALF, AGAIN = 0.5, 0.8
LOOK, MAX_LOOKED_AT = 1_000, 10_000
NO_ROWS = np.empty(0, dtype=np.int64)


def rows_apart(names: list[str], columns: list[Any]) -> tuple[NDArray[np.int64], list[Mended]]:
    """The places of rows that are no rows of the table, and the sentence about them.

    Args:
        names: of the columns; ``columns``: Arrow arrays. Where the first is of text its cells are looked
            at, and the whole of those rows alone that begin like a name, a total or a note.
    """
    size = len(columns[0])
    encoded = _encoded(columns[0])
    if len(names) < MIN_COLUMNS or encoded is None or size < 2:
        return NO_ROWS, []
    codes, texts = encoded
    usual = _usual_words(texts)
    begins = _hit(pc.match_substring_regex(texts, _begins(names[0], usual)))
    places = np.flatnonzero(begins if codes is None else np.append(begins, False)[codes])
    if not 0 < places.size <= min(MAX_SHARE_APART * size, MAX_LOOKED_AT):
        return NO_ROWS, []
    cells = [texts_of(column, places) for column in columns]
    full = _nearly_always_filled(columns)
    kinds: dict[int, Kind] = {}
    narrow: dict[int, str] = {}
    held: set[str] = set()
    for at, k in enumerate(map(int, places)):
        row = [column[at] for column in cells]
        same = sum(
            cell.casefold() == name.casefold() for cell, name in zip(row, names, strict=True)
        )
        if same >= max(2, AGAIN * len(names)):
            kinds[k] = "the header again"
        elif sum(not row[c] for c in full) >= max(1, HALF * len(full)):
            narrow[k] = row[0]
        else:
            held.add(row[0].casefold())
    for k, cell in narrow.items():
        kind = _kind(cell, usual)
        if kind is not None and cell.casefold() not in held:
            kinds[k] = kind
    rows = np.array(sorted(kinds), dtype=np.int64)
    if rows.size == 0:
        return NO_ROWS, []
    counts = {kind: sum(k == kind for k in kinds.values()) for kind in kinds.values()}
    parts = listed([f"{kind} ({grouped(n)})" for kind, n in counts.items()])
    shown = " / ".join(
        " ".join(c[k] for c in cells if c[k]) for k in np.searchsorted(places, rows[:3]).tolist()
    )
    one = rows.size == 1
    return rows, [
        Mended(
            APART,
            f"{grouped(rows.size)} {'row is' if one else 'rows are'} no {'row' if one else 'rows'} of the "
            f"table: {parts}",
            f"Such as: {shown[:160]}. Taken for a subject each would be counted, and its words keep columns "
            "from being numbers or dates: these rows were left aside when the columns were read.",
            rows=tuple(int(k) + 1 for k in rows),
        )
    ]


def without_cells(column: Any, rows: NDArray[np.int64]) -> Any:
    """A column with nothing in some rows."""
    if rows.size == 0:
        return column
    whole = _whole(column)
    kept = np.ones(len(whole), dtype=bool)
    kept[rows] = False
    return pc.if_else(pa.array(kept), whole, pa.scalar(None, whole.type))


def texts_of(column: Any, rows: NDArray[np.int64]) -> list[str]:
    """What the cells of some rows hold, as text; one that repeats is kept once."""
    whole = _whole(column)
    if pa.types.is_dictionary(whole.type):
        codes = whole.indices.take(pa.array(rows)).to_pylist()
        held = {code: _plain(whole.dictionary[code].as_py()) for code in set(codes) - {None}}
        return [held.get(code, "") for code in codes]
    return [_plain(cell) for cell in whole.take(pa.array(rows)).to_pylist()]


def _whole(column: Any) -> Any:
    """A column as one array."""
    return column.combine_chunks() if isinstance(column, pa.ChunkedArray) else column


def _plain(cell: Any) -> str:
    return "" if cell is None else str(cell).strip()


def with_what_was_written(column: Column, rows: NDArray[np.int64], texts: Sequence[str]) -> Column:
    """A column that keeps what the file holds in rows whose cells were left aside."""
    codes = np.full(column.missing.size, -1, dtype=np.int32)
    known = pa.array([], pa.string())
    if column.as_written is not None:
        codes, known = column.as_written.codes.copy(), column.as_written.texts.cast(pa.string())
    there = [k for k, text in enumerate(texts) if text]
    codes[rows[there]] = len(known) + np.arange(len(there), dtype=np.int32)
    more = pa.array([texts[k] for k in there], pa.string())
    return replace(column, as_written=AsWritten(codes, pa.concat_arrays([known, more])))


def still_apart(table: Table, mended: Iterable[Mended]) -> NDArray[np.int64]:
    """The numbers of rows that are no rows of a table, as far as they are still in it."""
    rows = np.array([k for one in mended if one.about == APART for k in one.rows], dtype=np.int64)
    there = table.positions(rows)
    if there.size == 0 or not table.columns:
        return rows[:0]
    # In another layout the numbers are those of other rows, in which the first column holds something.
    return table.numbers[there][table.columns[0].missing[there]]


def _encoded(column: Any) -> tuple[NDArray[np.int64] | None, Any] | None:
    """The trimmed texts of a column, and the codes that point at them where they are kept once; None
    for a column of another type."""
    whole = _whole(column)
    if pa.types.is_dictionary(whole.type) and pa.types.is_string(whole.type.value_type):
        codes = whole.indices.fill_null(-1).to_numpy(zero_copy_only=False).astype(np.int64)
        return codes, pc.utf8_trim_whitespace(whole.dictionary)
    return (None, pc.utf8_trim_whitespace(whole)) if pa.types.is_string(whole.type) else None


def _usual_words(texts: Any) -> int:
    """How many words a usual cell of the first column has."""
    held = sorted(len(str(cell).split()) for cell in texts.slice(0, LOOK).to_pylist() if cell)
    return held[len(held) // 2] if held else 1


def _begins(name: str, usual: int) -> str:
    """The regular expression of a first cell that may begin a row which is none."""
    prose = rf"^\S+(\s+\S+){{{usual + WORDS_OF_A_NOTE - 1},}}"
    return f"(?i)(^{re.escape(name)}$|{SUMMARY.pattern}|{BEGINS_A_NOTE.pattern}|{FOOTER.pattern}|{prose})"


def _nearly_always_filled(columns: list[Any]) -> list[int]:
    """The places of columns, but the first, that hold something in most rows."""
    found = []
    for k, column in enumerate(columns[1:], start=1):
        some = texts_of(column, np.arange(min(LOOK, len(column))))
        if some.count("") < MAX_SHARE_APART * len(some):
            found.append(k)
    return found


def _kind(cell: str, usual: int) -> Kind | None:
    """What a row is that holds little more than this cell; None for a row of the table."""
    if SUMMARY.match(cell):
        return "totals"
    prose = len(cell.split()) >= WORDS_OF_A_NOTE + usual
    return "notes" if prose or BEGINS_A_NOTE.match(cell) or FOOTER.match(cell) else None


def _hit(found: Any) -> NDArray[np.bool_]:
    return np.asarray(pc.fill_null(found, False).to_numpy(zero_copy_only=False))
