"""Where in a sheet of cells the table is: delimiter, names, first row, footers."""

import csv
import io
import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from hourglass.cohort.reading.aligned import SPACES, find_alignment, split_aligned
from hourglass.cohort.reading.numbers import PLAIN
from hourglass.cohort.reading.recipe import DELIMITERS, Evidence
from hourglass.cohort.words import share_of_rows

MARKS = tuple(mark for mark in DELIMITERS if mark != SPACES)
SAMPLE_LINES = 300
STEADY_ENOUGH = 0.5
"""A mark that splits fewer lines alike sets no cells apart."""
MAX_FOOTERS = 12
VALUE = re.compile(PLAIN + r"|^\d{1,4}[-/.]\d{1,2}[-/.]\d{1,4}|^[+-]?\d+,\d+$")
FOOTER = re.compile(
    r"^\W*(total|sum|summe|gesamt|somme|mean|end of|source|note|legend|generated|exported|printed|created|"
    r"report|page|data as of|\d+ (rows|records))\b|^\W*(n\s*=|rows?\s*:)",
    re.IGNORECASE,
)

SUMMARY = re.compile(
    r"^\W*((grand|sub)?\s*totals?|sum|means?|averages?|median|count|all|overall|n\s*=.*"
    r"|summe|gesamt|insgesamt|mittelwerte?|somme|moyenne|totaux|suma|media)\W*$",
    re.IGNORECASE,
)
"""A cell that stands for all rows above it."""

Grid = Sequence[Sequence[str]]


@dataclass(frozen=True, slots=True)
class Split:
    """What sets the cells of a line apart: see :class:`hourglass.cohort.reading.recipe.Recipe`."""

    delimiter: str
    quote: str
    places: tuple[int, ...] = ()


def find_delimiter(text: str) -> tuple[Split, list[Evidence]]:
    """The delimiter and quotation mark that split the first lines into the steadiest rows."""
    best, chosen, cells = (-1.0, -1), ",", 1
    quote = _quote(text)
    for delimiter in MARKS:
        widths = Counter(len(row) for row in split(text, Split(delimiter, quote)) if row)
        if not widths:
            continue
        width, rows = max(widths.items(), key=lambda item: (item[1] * (item[0] > 1), item[0]))
        score = (rows / sum(widths.values()) if width > 1 else 0.0, width)
        if score > best:
            best, chosen, cells = score, delimiter, width
    commas_in_numbers = chosen == "," and not re.search(r"(?<!\d),|,(?!\d)", text)
    steady = best[0] >= STEADY_ENOUGH
    aligned = find_alignment(text) if cells <= 1 or commas_in_numbers or not steady else None
    if aligned is not None and steady and aligned[0] <= cells:
        aligned = None
    if aligned is not None:
        where = "by their place in the line" if aligned[1] else "by runs of spaces"
        words = Evidence("delimiter", "spaces", f"{aligned[0]} columns are set apart {where}")
        return Split(SPACES, "", aligned[1]), [words]
    evidence = []
    if cells > 1:
        share = f"{share_of_rows(best[0])} of the first lines have {cells} cells that way"
        evidence.append(Evidence("delimiter", DELIMITERS[chosen], share))
    if quote == "'":
        evidence.append(Evidence("quote", "apostrophe", "cells begin and end with one"))
    return Split(chosen, quote), evidence


def _quote(text: str) -> str:
    doubles = len(re.findall(r'(?:^|[,;\t|])"', text, re.MULTILINE))
    singles = len(re.findall(r"(?:^|[,;\t|])'[^'\n]*'(?=[,;\t|\r\n])", text, re.MULTILINE))
    return "'" if singles >= 3 and singles > doubles else '"'


def split(text: str, by: Split) -> list[list[str]]:
    """Lines as rows of cells, as far as they can be distinguished."""
    if by.delimiter == SPACES:
        return [split_aligned(line, by.places) for line in text.splitlines()[:SAMPLE_LINES]]
    delimiter, quote = by.delimiter, by.quote
    reader = csv.reader(
        io.StringIO(text, newline=""),
        delimiter=delimiter,
        quotechar=quote or None,
        quoting=csv.QUOTE_MINIMAL if quote else csv.QUOTE_NONE,
    )
    rows: list[list[str]] = []
    try:
        for row in reader:
            rows.append(row)
            if len(rows) >= SAMPLE_LINES:
                break
    except csv.Error:
        pass
    return rows


def find_header(rows: Grid) -> tuple[int, list[Evidence]]:
    """The place of the row that holds the names, counted from 1; 0 if there is none."""
    filled = [sum(1 for cell in row if cell.strip()) for row in rows]
    if not any(filled):
        return 1, []
    widths = Counter(len(row) for row in rows if any(cell.strip() for cell in row))
    width = max(widths.items(), key=lambda item: (item[1], item[0]))[0]
    usual = sorted(n for row, n in zip(rows, filled, strict=True) if len(row) == width)
    enough = usual[len(usual) // 2] / 2
    first = next(
        k for k, row in enumerate(rows) if filled[k] and len(row) == width and filled[k] >= enough
    )
    first = _past_titles(rows, filled, first)
    for higher in range(first):
        narrower = all(len(row) == width - 1 for row in rows[higher:first])
        if narrower and _names_all_but_first(rows[higher], rows[first], width):
            first = higher
            break
    # Lines above the widest part count as a preamble only if they are few and narrow.
    if first > 40:
        return 1, []
    names, below = rows[first], rows[first + 1 : first + 60]
    evidence = []
    if first:
        above = " / ".join(
            " ".join(c for c in row if c.strip()) for row in rows[:first] if any(row)
        )
        evidence.append(
            Evidence(
                "header",
                f"line {first + 1}",
                f"the lines above are no rows of the table: {above[:120]}",
            )
        )
    values = sum(1 for cell in names if VALUE.match(cell.strip()))
    if values and _alike(names, below) and values >= max(1, len(names) // 3):
        why = "the first line holds values like those under it, so columns are named by their place"
        return (0, [Evidence("header", "none", why)]) if first == 0 else (first + 1, evidence)
    return first + 1, evidence


def _holds_value(row: Sequence[str]) -> bool:
    return any(VALUE.match(cell.strip()) for cell in row)


def _names_all_but_first(above: Sequence[str], row: Sequence[str], width: int) -> bool:
    """Whether a line names all columns of the rows under it but their first."""
    names = [cell.strip() for cell in above]
    named = len(names) == width - 1 >= 2 and all(names) and len(set(names)) == len(names)
    return (
        named
        and not any(VALUE.match(name) for name in names)
        and any(VALUE.match(cell.strip()) for cell in row)
    )


def _past_titles(rows: Grid, filled: Sequence[int], first: int) -> int:
    """Past lines with gaps that a fuller line of names follows: titles over the table."""
    apart = first + 3 < len(rows) and not filled[first + 1] and filled[first + 2] >= filled[first]
    if apart and not _holds_value(rows[first + 2]) and _holds_value(rows[first + 3]):
        return first + 2
    for k in range(first, min(first + 10, len(rows) - 1)):
        below = rows[k + 1]
        fuller = filled[k + 1] > filled[k] and filled[k + 1] == max(filled)
        if fuller and filled[k] < len(rows[k]) and not any(VALUE.match(c.strip()) for c in below):
            if any(VALUE.match(c.strip()) for row in rows[k + 2 : k + 5] for c in row):
                return k + 1
        elif filled[k]:
            break
    return first


def _alike(names: Sequence[str], below: Grid) -> bool:
    """Whether the first line's numbers and dates stand over numbers and dates."""
    for k, cell in enumerate(names):
        if VALUE.match(cell.strip()):
            under = [row[k].strip() for row in below if k < len(row) and row[k].strip()]
            if under and not all(VALUE.match(cell) for cell in under):
                return False
    return True


def find_footer(rows: Grid, width: int) -> tuple[int, list[Evidence]]:
    """How many of the last lines are no rows of the table: totals, notes, marks of the data extract."""
    count, last = 0, 0
    for place, row in enumerate(reversed(rows[-MAX_FOOTERS:]), start=1):
        held = [cell.strip() for cell in row if cell.strip()]
        if not held:
            last = place
            continue
        narrow = width >= 3 and len(held) <= 2 and len(held) < width / 2
        named = bool(FOOTER.match(held[0])) and len(held) <= max(2, width / 2)
        above = rows[: len(rows) - place]
        named = (named and _unlike(row, above)) or _sums_up(row, above)
        if not ((narrow and (len(row) != width or named)) or named):
            break
        count = last = place
    if count == 0:
        return 0, []
    shown = " / ".join(" ".join(c for c in row if c.strip()) for row in rows[-last:] if any(row))
    why = f"they are no rows of the table: {shown[:120]}"
    return last, [
        Evidence("footer", f"the last {last} lines" if last > 1 else "the last line", why)
    ]


def _unlike(row: Sequence[str], above: Grid) -> bool:
    """Whether no row above holds what the first cell of a row does, in the same column."""
    k = next((k for k, cell in enumerate(row) if cell.strip()), 0)
    held = row[k].strip().casefold()
    return all(other[k].strip().casefold() != held for other in above if k < len(other))


def _sums_up(row: Sequence[str], above: Grid) -> bool:
    """Whether a row of any width begins with a word for all rows above, as none of these does."""
    k = next((k for k, cell in enumerate(row) if cell.strip()), None)
    if k is None or not SUMMARY.match(row[k]):
        return False
    column = [other[k].strip() for other in above if k < len(other) and other[k].strip()]
    alike = {cell.casefold() for cell in column}
    names_rows = len(alike) > 0.9 * len(column) or all(VALUE.match(cell) for cell in column)
    return bool(column) and row[k].strip().casefold() not in alike and names_rows
