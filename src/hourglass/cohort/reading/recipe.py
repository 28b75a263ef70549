"""How a file is read: everything about it that was found, and can be changed."""

from dataclasses import dataclass, field
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from hourglass.cohort.table import Table
from hourglass.core.errors import HourglassError

Format = Literal["delimited", "spreadsheet", "parquet", "json records", "dataset json"]
Encoding = Literal["UTF-8", "UTF-16", "Windows-1252"]
Delimiter = Literal[",", ";", "\t", "|", " "]


class Recipe(BaseModel):
    """Everything that decides how bytes become a table.

    Attributes:
        delimiter: what sets cells apart; a space for columns aligned by spaces, ``places`` being where
            each begins (none where any run of spaces sets cells apart).
        header: the line (or row of the sheet) that holds the names, counted from 1; 0 for none.
        headings: lines above the names that go before them, each heading over the columns up to the next.
        described: what the lines under the names hold, which are no rows of the table.
        footer: lines at the end that are not rows of the table.
        decimal, thousands: the marks in written numbers.
        points: whether a point such as that of 1.087 is a decimal mark, or may set thousands apart.
        missing: words that mean "nothing", besides an empty cell.
        sheet, cells: the sheet and the range ("B3:H200") of a spreadsheet.
        century_from: a two-digit year is the first such year from here on.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")
    version: Literal[1] = 1
    format: Format = "delimited"
    encoding: Encoding = "UTF-8"
    delimiter: Delimiter = ","
    places: tuple[Annotated[int, Field(ge=0, le=100_000)], ...] = Field(
        default=(), max_length=5_000
    )
    quote: Literal['"', "'", ""] = '"'
    header: int = Field(default=1, ge=0, le=1000)
    headings: int = Field(default=0, ge=0, le=1)
    described: tuple[Literal["units", "labels"], ...] = Field(default=(), max_length=3)
    footer: int = Field(default=0, ge=0, le=1000)
    decimal: Literal[".", ","] = "."
    thousands: Literal["", ",", ".", " ", "'"] = ""
    points: Literal["decimal", "in doubt"] = "decimal"
    missing: tuple[str, ...] = Field(default=(), max_length=50)
    sheet: str = Field(default="", max_length=300)
    cells: str = Field(
        default="", max_length=30, pattern=r"^([A-Za-z]{1,3}\d{1,7}:[A-Za-z]{1,3}\d{1,7})?$"
    )
    century_from: int = Field(default=1931, ge=1800, le=2100)

    @property
    def lines_of_names(self) -> int:
        """How many lines from the names on come before the first row."""
        return 1 + len(self.described) if self.header else 0


@dataclass(frozen=True, slots=True)
class Evidence:
    """One thing that was found about a file: ``about`` names the recipe's field or a column."""

    about: str
    found: str
    because: str


@dataclass(frozen=True, slots=True)
class Cells:
    """What a file holds before its columns have types.

    Attributes:
        names: of the columns; ``columns``: Arrow arrays of equal length.
        mended: see :mod:`hourglass.cohort.reading.mended`.
        described: the lines under the names, a cell for each column: see ``Recipe.described``.
    """

    names: list[str]
    columns: list[Any]
    mended: list[Any] = field(default_factory=list)
    described: list[list[str]] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class Limits:
    """How much may be read.

    ``most_unpacked`` is that of packed files, ``most_text`` that of the text of all cells, each
    counted as often as it stands in a cell; both in bytes.
    """

    most_columns: int = 5_000
    most_cells: int = 150_000_000
    most_unpacked: int = 2 * 2**30
    most_text: int = 2**30


@dataclass(frozen=True, slots=True)
class Reading:
    """A table, the recipe it was read by, and what speaks for it."""

    table: Table
    recipe: Recipe
    evidence: tuple[Evidence, ...] = ()
    sheets: tuple[str, ...] = field(default=())

    @property
    def how(self) -> str:
        """In words: "read as UTF-8, comma"."""
        recipe = self.recipe
        match recipe.format:
            case "delimited":
                parts = [recipe.encoding, DELIMITERS[recipe.delimiter]]
            case "spreadsheet":
                parts = ["a spreadsheet", f"sheet {recipe.sheet}"]
            case _:
                parts = [FORMATS[recipe.format]]
        if recipe.decimal == ",":
            parts.append("decimal comma")
        return f"read as {', '.join(parts)}"


DELIMITERS = {",": "comma", ";": "semicolon", "\t": "tab", "|": "bar", " ": "aligned by spaces"}
"""The words for each delimiter."""
FORMATS: dict[Format, str] = {
    "delimited": "delimited text",
    "spreadsheet": "a spreadsheet",
    "parquet": "Parquet",
    "json records": "JSON records",
    "dataset json": "Dataset-JSON",
}


class UnreadableFileError(HourglassError):
    """A file that cannot be read; the message states what is wrong, where, and what to do."""
