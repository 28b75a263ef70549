"""Giving a column of cells its type: date, number or text."""

from collections.abc import Collection
from contextlib import suppress
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
from numpy.typing import NDArray

from hourglass.cohort.reading.dates import date_cells, doubt_of, order_of
from hourglass.cohort.reading.mended import INVISIBLE, Mended
from hourglass.cohort.reading.numbers import all_match, are_numbers, either_way, to_numbers
from hourglass.cohort.reading.recipe import Evidence, Recipe
from hourglass.cohort.table import (
    MISSING_WORDS,
    AsWritten,
    Column,
    DateColumn,
    NumberColumn,
    TextColumn,
    in_whole_units,
)
from hourglass.cohort.words import grouped

UNSEEN_ONLY = f"[{INVISIBLE}]"
UNSEEN_OR_HARD = f"[{INVISIBLE}\u00a0]"
"""And hard spaces, which look like others."""
STARTS_LIKE_A_DATE = r"^\d{1,4}[-/. ]|^[A-Za-z]{3,9}\.? \d|^\d{1,2}[A-Za-zäéûç]{3}"

LARGEST_WHOLE = 2**53
"""Whole numbers up to here are floats of their own."""
IN_MICRO = {"days": 86_400e6, "hours": 3_600e6, "minutes": 60e6}
"""Microseconds of the units that durations are read in, the longest first."""
PLAIN_NUMBER = r"^-?\d+(\.\d+)?$"
PLAIN_DATE = r"^\d{4}-\d{2}-\d{2}$"
"""What is shown as it was written."""

MAX_SORTED = 10_000
"""More levels than this are names of rows, not levels: they stay in the order of the file."""


@dataclass(frozen=True, slots=True)
class TypedColumn:
    """A column with its type, what speaks for the type, and what was mended in its cells."""

    column: Column
    evidence: list[Evidence] = field(default_factory=list)
    mended: list[Mended] = field(default_factory=list)


def typed_column(name: str, cells: Any, recipe: Recipe) -> TypedColumn:
    """Type an Arrow array: of strings by their content, of anything else by its own type."""
    if isinstance(cells, pa.ChunkedArray):
        cells = cells.combine_chunks()
    kind = cells.type
    if pa.types.is_null(kind):
        cells = cells.cast(pa.string())
    elif pa.types.is_boolean(kind):
        words = pc.if_else(cells, "true", "false")
        return _typed_text(name, words.dictionary_encode(), recipe)
    elif pa.types.is_dictionary(kind) and pa.types.is_string(kind.value_type):
        return _typed_text(name, cells, recipe)
    elif pa.types.is_integer(kind) and _beyond_floats(cells):
        return TypedColumn(_names_of_rows(name, cells))
    elif pa.types.is_duration(kind):
        return TypedColumn(_native_duration(name, cells))
    elif pa.types.is_integer(kind) or pa.types.is_floating(kind) or pa.types.is_decimal(kind):
        return TypedColumn(_native_number(name, cells.cast(pa.float64(), safe=False)))
    elif pa.types.is_date(kind) or pa.types.is_timestamp(kind):
        return TypedColumn(_native_date(name, cells))
    elif not pa.types.is_string(kind):
        cells = cells.cast(pa.string())
    return _typed_text(name, cells.dictionary_encode(), recipe)


def _typed_text(name: str, encoded: Any, recipe: Recipe) -> TypedColumn:
    """Type a dictionary-encoded array of strings, without what nobody sees in them."""
    encoded, mended = _seen(name, encoded)
    column, evidence = _by_content(name, encoded, recipe)
    return TypedColumn(column, evidence, mended)


def _is_ascii(texts: Any) -> bool:
    """Whether no text of an Arrow array has another character than those of ASCII, which are all seen."""
    data = texts.buffers()[2]
    return data is None or bool((np.frombuffer(data, np.uint8) < 128).all())


def _seen(name: str, encoded: Any) -> tuple[Any, list[Mended]]:
    texts = encoded.dictionary.cast(pa.string()).fill_null("")
    if _is_ascii(texts):
        return encoded, []
    hidden = pc.match_substring_regex(texts, UNSEEN_OR_HARD).to_numpy(zero_copy_only=False)
    if not hidden.any():
        return encoded, []
    clean = pc.replace_substring_regex(texts, UNSEEN_OR_HARD, "")
    clean = pc.if_else(pc.match_substring(texts, "\u00a0"), pc.replace_substring(
        pc.replace_substring_regex(texts, UNSEEN_ONLY, ""), "\u00a0", " "), clean)  # fmt: skip
    again = clean.dictionary_encode()
    codes = encoded.indices.fill_null(-1).to_numpy(zero_copy_only=False)
    hit = np.append(hidden, False)[codes]
    moved = np.append(again.indices.to_numpy(zero_copy_only=False), -1)[codes]
    kept = pa.array(moved.astype(np.int32), mask=moved < 0)
    invisible = pc.match_substring_regex(texts, UNSEEN_ONLY).to_numpy(zero_copy_only=False)
    made = pa.DictionaryArray.from_arrays(kept, again.dictionary)
    if not invisible.any():  # a hard space needs no note
        return made, []
    hit = np.append(invisible, False)[codes]
    rows = np.flatnonzero(hit) + 1
    return made, [
        Mended(
            f"invisible: {name}",
            f"Invisible characters were taken out of {grouped(rows.size)} "
            f"{'cell' if rows.size == 1 else 'cells'} of {name}",
            "A soft hyphen or a mark of direction makes one code look like two.",
            rows=tuple(int(k) for k in rows[:1000]),
            columns=(name,),
        )
    ]


def _by_content(name: str, encoded: Any, recipe: Recipe) -> tuple[Column, list[Evidence]]:
    raw = encoded.dictionary.cast(pa.string()).fill_null("")
    trimmed = (pc.ascii_trim_whitespace if _is_ascii(raw) else pc.utf8_trim_whitespace)(raw)
    codes = encoded.indices.fill_null(-1).to_numpy(zero_copy_only=False)
    everywhere = _is_word(trimmed, MISSING_WORDS)
    gone = everywhere | _is_word(trimmed, {w.strip() for w in recipe.missing})
    known = trimmed.filter(pa.array(~gone))
    if len(known):
        doubtful = recipe.points == "in doubt" and either_way(known)
        if not doubtful and are_numbers(known, recipe.decimal, recipe.thousands):
            values, decimals = to_numbers(known, recipe.decimal, recipe.thousands)
            if np.isfinite(values).all():
                spread = _spread(values, gone, codes, np.nan)
                written = _as_written(raw, codes, PLAIN_NUMBER, gone)
                return NumberColumn(
                    name=name, values=spread, decimals=decimals, as_written=written
                ), []
        if all_match(known, STARTS_LIKE_A_DATE):
            return _dates(name, encoded, raw, gone, codes, known, recipe)
    column = text_of(name, codes, everywhere, raw.to_pylist())
    return replace(column, as_written=_words_for_missing(raw, codes, everywhere)), []


def _is_word(cells: Any, words: Collection[str]) -> NDArray[np.bool_]:
    """Which cells are among some words."""
    found = pc.is_in(cells, value_set=pa.array(sorted(words), pa.string()))
    return np.asarray(found.to_numpy(zero_copy_only=False))


def _words_for_missing(
    raw: Any, codes: NDArray[np.int32], gone: NDArray[np.bool_]
) -> AsWritten | None:
    """The words that were read as missing, where they stand; None where there are none."""
    if not gone.any():
        return None
    blank = pc.equal(pc.utf8_trim_whitespace(raw), "").to_numpy(zero_copy_only=False)
    words = gone & ~blank
    if not words.any():
        return None
    kept = np.append(np.where(words, np.cumsum(words) - 1, -1), -1)
    return AsWritten(kept[codes].astype(np.int32), raw.filter(pa.array(words)))


def _dates(
    name: str,
    encoded: Any,
    raw: Any,
    gone: np.ndarray,
    codes: np.ndarray,
    known: Any,
    recipe: Recipe,
) -> tuple[Column, list[Evidence]]:
    found = date_cells(known, century_from=recipe.century_from)
    if found.year_first == "only":  # the first reading took the day first
        found = date_cells(known, "year first", recipe.century_from)
    doubt = doubt_of(found)
    if doubt is not None:
        column = text_of(name, codes, gone, raw.to_pylist())
        if doubt == "not all dates":
            return column, []
        why = {
            "either order": "no cell decides whether the day, the month or the year comes first: see the "
            "finding",
            "both orders": "some cells have the day first and others the month: see the finding",
            "some zones": "some cells name a time zone and others do not: see the finding",
        }[doubt]
        return column, [Evidence(name, "text, not yet dates", why)]
    evidence = []
    order = order_of(found)
    if found.numbered.any():
        if order == "month first":  # the first reading took the day first
            found = date_cells(known, order, recipe.century_from)
        decides = {
            "day first": found.day_first,
            "month first": found.month_first,
            "year first": found.numbered & ~found.day_first & ~found.month_first,
        }[order]
        shown = ", ".join(known.filter(pa.array(decides)).slice(0, 3).to_pylist())
        evidence.append(
            Evidence(
                name,
                f"dates, {order}",
                f"{grouped(int(decides.sum()))} distinct cells can only be so: {shown}",
            )
        )
    if found.short_years:
        until = recipe.century_from + 99
        evidence.append(
            Evidence(name, f"years {recipe.century_from}–{until}", "its years have two digits")
        )
    if found.zoned.any():
        evidence.append(Evidence(name, "times in UTC", "all its cells name a time zone"))
    dates = _spread(found.values(), gone, codes, np.datetime64("NaT"))
    written = _as_written(raw, codes, PLAIN_DATE, gone)
    return DateColumn(name=name, values=dates, as_written=written), evidence


def _as_written(
    raw: Any, codes: np.ndarray, plain: str, gone: NDArray[np.bool_]
) -> AsWritten | None:
    """The text of the cells in the file, where they are not shown just so; None where all are."""
    nothing = pc.equal(raw, "").to_numpy(zero_copy_only=False)  # a word for "missing" is something
    shown = pc.match_substring_regex(raw, plain).to_numpy(zero_copy_only=False) & ~gone
    same = shown | nothing
    if same.all():
        return None
    kept = np.append(np.where(same, -1, np.cumsum(~same) - 1), -1)
    return AsWritten(kept[codes].astype(np.int32), raw.filter(pa.array(~same)))


def _spread(values: Any, gone: np.ndarray, codes: np.ndarray, nothing: Any) -> Any:
    """From the values of the known distinct cells to those of the rows."""
    every = np.full(gone.size + 1, nothing, dtype=values.dtype)
    every[:-1][~gone] = values
    return every[codes]


def text_of(name: str, codes: np.ndarray, gone: np.ndarray, raw: list[str]) -> TextColumn:
    """A text column of distinct cells ``raw`` that ``codes`` point at, those ``gone`` missing."""
    if len(raw) > MAX_SORTED and not gone.any():
        return TextColumn(name=name, codes=codes.astype(np.int32), levels=tuple(raw))
    order = list(map(int, np.flatnonzero(~gone)))
    if len(order) <= MAX_SORTED:
        order.sort(key=raw.__getitem__)
    new = np.full(len(raw) + 1, -1, dtype=np.int32)
    new[order] = np.arange(len(order), dtype=np.int32)
    return TextColumn(name=name, codes=new[codes], levels=tuple(raw[k] for k in order))


def _native_number(name: str, cells: Any) -> NumberColumn:
    values = cells.fill_null(np.nan).to_numpy(zero_copy_only=False).astype(np.float64)
    values[~np.isfinite(values)] = np.nan
    sample = values[np.isfinite(values)][:100_000]
    decimals = next((k for k in range(10) if np.array_equal(np.round(sample, k), sample)), 10)
    return NumberColumn(name=name, values=values, decimals=decimals)


def _beyond_floats(cells: Any) -> bool:
    """Whether whole numbers are larger than a float can distinguish: names of rows, not measurements."""
    ends = pc.min_max(cells)
    return any(abs(int(ends[end].as_py() or 0)) > LARGEST_WHOLE for end in ("min", "max"))


def _names_of_rows(name: str, cells: Any) -> TextColumn:
    encoded = cells.cast(pa.string()).dictionary_encode()
    codes = encoded.indices.fill_null(-1).to_numpy(zero_copy_only=False)
    levels = encoded.dictionary.to_pylist()
    return text_of(name, codes, np.zeros(len(levels), dtype=bool), levels)


def _native_duration(name: str, cells: Any) -> NumberColumn:
    """Durations in days where all are whole days, else in hours or minutes."""
    steps = cells.cast(pa.duration("us"), safe=False).to_numpy(zero_copy_only=False)
    micro = steps.astype("timedelta64[us]").astype(np.float64)
    micro[np.isnat(steps)] = np.nan
    known = micro[np.isfinite(micro)]
    unit = next((u for u, size in IN_MICRO.items() if (known % size == 0).all()), "minutes")
    values = micro / IN_MICRO[unit]
    whole = bool((values[np.isfinite(values)] % 1 == 0).all())
    return NumberColumn(name=name, values=values, decimals=0 if whole else 6, unit=unit)


def _native_date(name: str, cells: Any) -> DateColumn:
    if pa.types.is_timestamp(cells.type) and cells.type.tz is not None:
        # Days are those of the zone that the file declares, not those of another one's midnights.
        with suppress(pa.ArrowInvalid):
            cells = pc.local_timestamp(cells)
    instants = cells.cast(pa.timestamp("us"), safe=False).to_numpy(zero_copy_only=False)
    return DateColumn(name=name, values=in_whole_units(instants.astype("datetime64[us]")))
