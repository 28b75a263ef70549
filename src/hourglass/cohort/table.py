"""An immutable typed table: what a file holds, after reading and after each step."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field, replace
from functools import wraps
from typing import Any, Literal, TypeAlias, TypeVar
from weakref import WeakKeyDictionary

import numpy as np
from numpy.typing import NDArray

from hourglass.core.errors import HourglassError

Kind = Literal["number", "date", "text"]
MAX_NUMBERS_AS_LEVELS = 6
"""A number with more values than this forms no groups."""
LOOK = 5_000
Dates: TypeAlias = NDArray[np.datetime64]
C = TypeVar("C")
V = TypeVar("V")


@dataclass(frozen=True, slots=True)
class AsWritten:
    """The text of the cells in the file, for a column that shows them otherwise.

    ``codes`` (n,) point at ``texts``, an Arrow array of strings; −1 where nothing was written.
    """

    codes: NDArray[np.int32]
    texts: Any

    def take(self, rows: NDArray[np.int64]) -> "AsWritten":
        return AsWritten(self.codes[rows], self.texts)

    def cell(self, row: int) -> str:
        code = self.codes[row]
        return "" if code < 0 else str(self.texts[int(code)].as_py())


@dataclass(frozen=True, slots=True, eq=False, weakref_slot=True, kw_only=True)
class NumberColumn:
    """Numbers, NaN where missing; ``decimals`` is the most that any cell was written with.

    ``reference`` is the value, as written, that others are compared with where numbers form groups;
    the smallest when it is blank.
    """

    name: str
    values: NDArray[np.float64]
    decimals: int = 0
    kind: Literal["number"] = "number"
    label: str = ""
    unit: str = ""
    as_written: AsWritten | None = None
    reference: str = ""

    @property
    def missing(self) -> NDArray[np.bool_]:
        return np.isnan(self.values)

    def take(self, rows: NDArray[np.int64]) -> "NumberColumn":
        written = None if self.as_written is None else self.as_written.take(rows)
        return replace(self, values=self.values[rows], as_written=written)

    def cell(self, row: int) -> str:
        return self.written(float(self.values[row]))

    def written(self, value: float) -> str:
        """A value as the file writes its kind, or with all its digits where that would lose some."""
        if np.isnan(value):
            return ""
        text = f"{value:.{self.decimals}f}"
        return text if float(text) == value else f"{value:.15g}"


DAY = 86_400
"""Seconds in a day."""
MICRO = 1_000_000
"""Microseconds in a second."""


def in_whole_units(instants: Dates) -> Dates:
    """Instants as days where none has a time of day, else as seconds, else as the microseconds they are."""
    known = instants[~np.isnat(instants)].astype("datetime64[us]").astype(np.int64)
    for unit, size in (("D", DAY * MICRO), ("s", MICRO)):
        if (known % size == 0).all():
            return instants.astype(f"datetime64[{unit}]")
    return instants.astype("datetime64[us]")


@dataclass(frozen=True, slots=True, eq=False, weakref_slot=True, kw_only=True)
class DateColumn:
    """Days; seconds or microseconds where the file gives times of day (in UTC); NaT where missing."""

    name: str
    values: Dates
    kind: Literal["date"] = "date"
    label: str = ""
    unit: str = ""
    as_written: AsWritten | None = None

    @property
    def microseconds(self) -> NDArray[np.float64]:
        """Microseconds since 1970, exact; NaN where missing."""
        whole = self.values.astype("datetime64[us]").astype(np.int64).astype(np.float64)
        return np.where(self.missing, np.nan, whole)

    @property
    def days(self) -> NDArray[np.float64]:
        """Days since 1970, parts of a day included; NaN where missing."""
        return self.microseconds / (DAY * MICRO)

    @property
    def missing(self) -> NDArray[np.bool_]:
        return np.isnat(self.values)

    def take(self, rows: NDArray[np.int64]) -> "DateColumn":
        written = None if self.as_written is None else self.as_written.take(rows)
        return replace(self, values=self.values[rows], as_written=written)

    def cell(self, row: int) -> str:
        value = self.values[row]
        if np.isnat(value):
            return ""
        day, _, time = str(value).partition("T")
        # Microseconds that are nothing are not shown.
        return f"{day} {time.rstrip('0').rstrip('.') if '.' in time else time}".rstrip()


@dataclass(frozen=True, slots=True, eq=False, weakref_slot=True, kw_only=True)
class TextColumn:
    """Text, as codes into ``levels``; −1 where missing. Levels keep the file's spelling.

    ``levels`` stand in the order they are shown in; ``reference`` is the one others are compared
    with, the first when it is blank; ``as_written`` has the words that were read as missing.
    """

    name: str
    codes: NDArray[np.int32]
    levels: tuple[str, ...]
    kind: Literal["text"] = "text"
    label: str = ""
    unit: str = ""
    reference: str = ""
    as_written: AsWritten | None = None

    @property
    def missing(self) -> NDArray[np.bool_]:
        return np.asarray(self.codes < 0)

    def take(self, rows: NDArray[np.int64]) -> "TextColumn":
        written = None if self.as_written is None else self.as_written.take(rows)
        return replace(self, codes=self.codes[rows], as_written=written)

    def cell(self, row: int) -> str:
        code = self.codes[row]
        return "" if code < 0 else self.levels[code]

    def counts(self) -> dict[str, int]:
        """How many rows hold each level, the levels that occur only, in order of level."""
        found = np.bincount(self.codes[self.codes >= 0], minlength=len(self.levels))
        return {self.levels[k]: int(found[k]) for k in np.flatnonzero(found)}


Column: TypeAlias = NumberColumn | DateColumn | TextColumn


def once_for_each(of: Callable[[C], V]) -> Callable[[C], V]:
    """Remember what is worked out of a column, or of a table, for as long as it is there."""
    known: WeakKeyDictionary[Any, V] = WeakKeyDictionary()

    @wraps(of)
    def remembered(column: C) -> V:
        found = known.get(column)
        if found is None:
            found = known[column] = of(column)
        return found

    return remembered


class NoSuchColumnError(HourglassError):
    """A statement or step names a column that the table does not have."""

    def __init__(self, name: str) -> None:
        self.name = name
        super().__init__(f"there is no column called “{name}”")


@dataclass(frozen=True, slots=True, eq=False, weakref_slot=True)
class Table:
    """Columns of equal length; ``numbers`` are the rows' numbers in the file, counted from 1.

    ``mended`` is what was mended in reading, known to the table as it was read.
    """

    columns: tuple[Column, ...]
    numbers: NDArray[np.int64]
    mended: tuple[Any, ...] = ()
    _places: dict[str, int] = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        places = {column.name: k for k, column in reversed(list(enumerate(self.columns)))}
        object.__setattr__(self, "_places", places)

    @property
    def size(self) -> int:
        return int(self.numbers.size)

    def column(self, name: str) -> Column:
        """The column of that name.

        Raises:
            NoSuchColumnError: when there is none.
        """
        place = self._places.get(name)
        if place is None:
            raise NoSuchColumnError(name)
        return self.columns[place]

    def has(self, name: str | None) -> bool:
        return name in self._places

    def take(self, rows: NDArray[np.int64]) -> "Table":
        """Some rows, by position, keeping their numbers."""
        return Table(tuple(c.take(rows) for c in self.columns), self.numbers[rows])

    def without(self, numbers: Iterable[int]) -> "Table":
        """The table without the rows of those numbers."""
        gone = np.isin(self.numbers, np.fromiter(numbers, dtype=np.int64))
        return self.take(np.flatnonzero(~gone))

    def with_column(self, changed: Column) -> "Table":
        """The table with a column of the same name replaced, or a new one added at the end."""
        columns = tuple(changed if c.name == changed.name else c for c in self.columns)
        if not self.has(changed.name):
            columns = (*columns, changed)
        return Table(columns, self.numbers)

    def positions(self, numbers: Iterable[int]) -> NDArray[np.int64]:
        """Positions of the rows of those numbers that are still in the table."""
        return np.flatnonzero(np.isin(self.numbers, np.fromiter(numbers, dtype=np.int64)))


def first_difference(a: Column, b: Column) -> int | None:
    """The position of the first cell in which two columns of one kind and length differ; None if in none."""
    if isinstance(a, TextColumn) and isinstance(b, TextColumn):
        place = {level: k for k, level in enumerate(a.levels)}
        of_a = np.array([*(place.get(level, -2) for level in b.levels), -1])
        differ = a.codes != of_a[b.codes]
    elif isinstance(a, NumberColumn) and isinstance(b, NumberColumn):
        differ = ~((a.values == b.values) | (np.isnan(a.values) & np.isnan(b.values)))
    else:
        assert isinstance(a, DateColumn)
        assert isinstance(b, DateColumn)
        differ = (a.missing != b.missing) | (~a.missing & (a.microseconds != b.microseconds))
    return int(differ.argmax()) if differ.any() else None


def decimals_in(values: NDArray[np.float64]) -> int:
    """The fewest decimals, up to 6, that write all known values as they are."""
    known = values[np.isfinite(values)]
    return next((k for k in range(6) if np.array_equal(np.round(known, k), known)), 6)


def few_values(column: NumberColumn) -> NDArray[np.float64]:
    """The distinct values, ascending, of a number with so few that they may form groups; else none."""
    for part in (column.values[:LOOK], column.values):  # a look at the first rows settles most
        distinct = np.unique(part[~np.isnan(part)])
        if distinct.size > MAX_NUMBERS_AS_LEVELS:
            return distinct[:0]
    return distinct


def text_column(name: str, texts: Sequence[str | None]) -> TextColumn:
    """A text column of cells, levels in the order of the alphabet."""
    levels = sorted({t for t in texts if t is not None})
    place = {level: k for k, level in enumerate(levels)}
    codes = np.fromiter((-1 if t is None else place[t] for t in texts), np.int32, len(texts))
    return TextColumn(name=name, codes=codes, levels=tuple(levels))


def is_missing_word(text: str) -> bool:
    """Whether a cell's text means that there is nothing."""
    return text.strip() in MISSING_WORDS


MISSING_WORDS = frozenset({"", "NA", "N/A", "n/a", "NaN", "nan", "NULL", "null", "."})
"""Words that mean "nothing" in whatever file they stand."""


NO_TABLE = Table((), np.zeros(0, dtype=np.int64))
"""The table of a study that has no file."""
