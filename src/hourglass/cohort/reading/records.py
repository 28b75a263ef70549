"""Reading JSON: records by name, or the data sets that clinical trials are exchanged in."""

import io
import re
from collections.abc import Iterator
from typing import Any

import ijson
import pyarrow as pa

from hourglass.cohort.reading.declared_dates import as_date, counted_as
from hourglass.cohort.reading.mended import lists_left_out, mended_names
from hourglass.cohort.reading.recipe import Cells, Evidence, Limits, Recipe, UnreadableFileError
from hourglass.cohort.words import grouped

BLOCK = 5_000
AT_ONCE = 4 * 2**20
"""Bytes that are parsed at once: the parser begins a text anew that does not end within them."""
DEEPEST = 12
MAX_NUMBER_CHARACTERS = 1_000
"""The library that parses JSON breaks on numbers of some thousand digits."""
LONG_NUMBER = re.compile(rb"[0-9.eE+-]{%d,}" % (MAX_NUMBER_CHARACTERS + 1))
TEXT_OR_LONG_NUMBER = re.compile(
    rb'"(?:[^"\\]++|\\.)*+"|([0-9.eE+-]{%d,})' % (MAX_NUMBER_CHARACTERS + 1), re.DOTALL
)


def find_recipe(data: bytes, limits: Limits) -> tuple[Recipe, list[Evidence]]:
    """Which kind of JSON it is."""
    refuse_long_numbers(data)
    refuse_deep(data)
    keys = _top_keys(data)
    if "datasetJSONVersion" in keys or {"columns", "rows"} <= keys or "clinicalData" in keys:
        why = "it names its columns apart from its rows, as Dataset-JSON does"
        return Recipe(format="dataset json"), [Evidence("format", "Dataset-JSON", why)]
    why = (
        "a list of records that name their values"
        if not keys
        else "a list of records inside an object"
    )
    return Recipe(format="json records"), [Evidence("format", "JSON records", why)]


def read_cells(data: bytes, recipe: Recipe, limits: Limits) -> Cells:
    """The names and the columns of cells.

    Raises:
        UnreadableFileError: when it is broken, or no table.
    """
    refuse_long_numbers(data)
    refuse_deep(data)
    try:
        if recipe.format == "dataset json":
            return _dataset(data, limits)
        return _records(data, limits)
    except ijson.JSONError as error:
        raise UnreadableFileError(
            f"The JSON breaks off or is not well formed ({str(error).splitlines()[0][:120]})."
        ) from None
    except (UnicodeDecodeError, OverflowError) as error:
        raise UnreadableFileError(f"The JSON cannot be read ({error}).") from None


def refuse_long_numbers(data: bytes) -> None:
    """Refuse a number of so many digits that it can only be a mistake, or meant to break the reader.

    Raises:
        UnreadableFileError
    """
    if LONG_NUMBER.search(data) is None:
        return
    for found in TEXT_OR_LONG_NUMBER.finditer(data):
        if found[1]:
            line = data.count(b"\n", 0, found.start()) + 1
            raise UnreadableFileError(
                f"Line {grouped(line)} of the JSON holds a number of {grouped(len(found[1]))} "
                "characters; at most "
                f"{grouped(MAX_NUMBER_CHARACTERS)} can be read. Write it in "
                "quotation marks if it is an identifier."
            )


def refuse_deep(data: bytes) -> None:
    """Refuse JSON nested so deeply that no table can be in it.

    Raises:
        UnreadableFileError
    """
    depth = 0
    try:
        for event, _ in ijson.basic_parse(io.BytesIO(data), multiple_values=True, buf_size=AT_ONCE):
            if event in ("start_map", "start_array"):
                depth += 1
                if depth > DEEPEST:
                    raise UnreadableFileError(
                        f"The JSON is nested more than {DEEPEST} deep. Flatten it to a list of records."
                    )
            elif event in ("end_map", "end_array"):
                depth -= 1
    except (ijson.JSONError, UnicodeDecodeError) as error:
        raise UnreadableFileError(
            f"The JSON breaks off or is not well formed ({str(error).splitlines()[0][:120]})."
        ) from None


def _top_keys(data: bytes) -> set[str]:
    keys = set()
    try:
        for prefix, event, value in ijson.parse(
            io.BytesIO(data), multiple_values=True, buf_size=AT_ONCE
        ):
            if prefix == "" and event == "map_key":
                keys.add(value)
            if (prefix == "" and event in ("start_array", "end_map")) or len(keys) > 200:
                break
    except (ijson.JSONError, UnicodeDecodeError) as error:
        raise UnreadableFileError(
            f"The file looks like JSON but is not ({str(error).splitlines()[0][:120]})."
        ) from None
    return keys


class _Blocks:
    """Columns of cells that are gathered row by row and packed in blocks, so that few are loose."""

    def __init__(self, limits: Limits) -> None:
        self._limits = limits
        self._loose: dict[str, dict[int, str | None]] = {}
        self._packed: dict[str, list[Any]] = {}
        self._lists: dict[str, None] = {}
        self.rows = 0

    def add(self, record: dict[str, Any]) -> None:
        self._lists |= {k: None for k, v in record.items() if isinstance(v, dict | list)}
        place = self.rows % BLOCK
        for name, value in record.items():
            if name not in self._loose:
                if len(self._loose) >= self._limits.most_columns:
                    raise UnreadableFileError(
                        f"The records have more than {grouped(self._limits.most_columns)} columns."
                    )
                self._loose[name] = {}
                self._packed[name] = [pa.nulls(BLOCK, pa.string())] * (self.rows // BLOCK)
            self._loose[name][place] = _cell(value)  # what a record leaves out takes no room
        self.rows += 1
        if self.rows * len(self._loose) > self._limits.most_cells:
            raise UnreadableFileError(
                f"The records have more than {grouped(self._limits.most_cells)} cells, the most "
                "that can be read."
            )
        if self.rows % BLOCK == 0:
            self._pack()

    def _pack(self) -> None:
        for name, cells in self._loose.items():
            whole = [cells.get(place) for place in range((self.rows - 1) % BLOCK + 1)]
            self._packed[name].append(pa.array(whole, pa.string()))
            cells.clear()

    def columns(self, names: list[str] | None = None) -> Cells:
        if self.rows % BLOCK:
            self._pack()
        if not self.rows or not self._loose:
            raise UnreadableFileError(
                "The JSON holds no records. Choose a file with at least one row."
            )
        kept = [name for name in names or self._loose if name not in self._lists]
        if not kept:
            raise UnreadableFileError(
                "All values of the records are lists or records themselves. Flatten them, so that every "
                "cell is one value."
            )
        chosen, mended = mended_names(kept, self._limits)
        mended += lists_left_out(list(self._lists))
        columns = [pa.chunked_array(self._packed[name], pa.string()) for name in kept]
        return Cells(chosen, columns, mended)


def _cell(value: Any) -> str | None:
    if value is None:
        return None
    if isinstance(value, bool):
        return "true" if value else "false"
    return None if isinstance(value, dict | list) else str(value)


def _records(data: bytes, limits: Limits) -> Cells:
    blocks = _Blocks(limits)
    prefix = _where(data)
    for record in ijson.items(
        io.BytesIO(data), prefix, multiple_values=True, use_float=False, buf_size=AT_ONCE
    ):
        if not isinstance(record, dict):
            raise UnreadableFileError("The JSON is not a list of records with named values.")
        blocks.add(record)
    return blocks.columns()


def _where(data: bytes) -> str:
    """The place of the records: a list at the top, a list inside an object, or one on each line."""
    first = data.lstrip(b"\xef\xbb\xbf \t\r\n")[:1]
    if first == b"[":
        return "item"
    for prefix, event, _ in ijson.parse(io.BytesIO(data), multiple_values=True, buf_size=AT_ONCE):
        if event == "start_array" and prefix and "." not in prefix:
            return f"{prefix}.item"
        if event == "end_map" and prefix == "":
            return ""
    return ""


def _dataset(data: bytes, limits: Limits) -> Cells:
    listed = ijson.items(io.BytesIO(data), "columns.item", multiple_values=True, buf_size=AT_ONCE)
    declared = [c for c in listed if isinstance(c, dict) and "name" in c]
    rows: Iterator[Any] = ijson.items(io.BytesIO(data), "rows.item", buf_size=AT_ONCE)
    if not declared:
        prefix = _old_prefix(data)
        declared = list(ijson.items(io.BytesIO(data), f"{prefix}.items.item", buf_size=AT_ONCE))
        rows = ijson.items(io.BytesIO(data), f"{prefix}.itemData.item", buf_size=AT_ONCE)
    names = [str(c["name"]) for c in declared]
    if not names:
        raise UnreadableFileError("The data set names no columns.")
    dated = {k: counted for k, c in enumerate(declared) if (counted := counted_as(c)) is not None}
    mended_names(names, limits)  # refuses too many before the rows are read
    names = [_apart(name, names[:k]) for k, name in enumerate(names)]
    if _by_line(data):
        rows = (
            row
            for row in ijson.items(io.BytesIO(data), "", multiple_values=True, buf_size=AT_ONCE)
            if isinstance(row, list)
        )
    blocks = _Blocks(limits)
    for place, row in enumerate(rows, start=1):
        if not isinstance(row, list) or len(row) != len(names):
            held = len(row) if isinstance(row, list) else "no list of"
            raise UnreadableFileError(
                f"Row {place} has {held} cells where {len(names)} columns are named."
            )
        for k, counted in dated.items():
            row[k] = as_date(row[k], counted)
        blocks.add(dict(zip(names, row, strict=True)))
    return blocks.columns(names)


def _apart(name: str, before: list[str]) -> str:
    """A key of its own for a column that is called like one before it."""
    return f"{name} ({before.count(name) + 1})" if name in before else name


def _by_line(data: bytes) -> bool:
    """Whether the columns stand on the first line and each row on one of its own."""
    head, _, rest = data.lstrip(b"\xef\xbb\xbf \t\r\n").partition(b"\n")
    return head.rstrip().endswith(b"}") and rest.lstrip()[:1] == b"["


def _old_prefix(data: bytes) -> str:
    """The path to the one data set of a document in the first version of the standard."""
    for prefix, event, value in ijson.parse(io.BytesIO(data), buf_size=AT_ONCE):
        if event == "map_key" and prefix.endswith("itemGroupData"):
            return f"{prefix}.{value}"
    raise UnreadableFileError("The data set has neither columns and rows nor an item group.")
