"""Where in a sheet of cells the table is: delimiter, names, first row, footers."""

import csv
import io
import re
from collections import Counter
from collections.abc import Sequence

from hourglass.cohort.reading.numbers import PLAIN
from hourglass.cohort.reading.recipe import DELIMITERS, Evidence

SAMPLE_LINES = 300
MOST_FOOTERS = 12
VALUE = re.compile(PLAIN + r"|^\d{1,4}[-/.]\d{1,2}[-/.]\d{1,4}|^[+-]?\d+,\d+$")
FOOTER = re.compile(
    r"^\W*(total|sum|mean|end of|source|note|legend|generated|exported|printed|created|"
    r"report|page|data as of|\d+ (rows|records))\b|^\W*(n\s*=|rows?\s*:)",
    re.IGNORECASE,
)

Grid = Sequence[Sequence[str]]


def find_delimiter(text: str) -> tuple[str, str, list[Evidence]]:
    """The delimiter and quotation mark that split the first lines into the steadiest rows."""
    best, chosen, cells = (-1.0, -1), ",", 1
    quote = _quote(text)
    for delimiter in DELIMITERS:
        widths = Counter(len(row) for row in split(text, delimiter, quote) if row)
        if not widths:
            continue
        width, rows = max(widths.items(), key=lambda item: (item[1] * (item[0] > 1), item[0]))
        score = (rows / sum(widths.values()) if width > 1 else 0.0, width)
        if score > best:
            best, chosen, cells = score, delimiter, width
    evidence = []
    if cells > 1:
        share = f"{100 * best[0]:.0f} % of the first lines have {cells} cells that way"
        evidence.append(Evidence("delimiter", DELIMITERS[chosen], share))
    if quote == "'":
        evidence.append(Evidence("quote", "apostrophe", "cells begin and end with one"))
    return chosen, quote, evidence


def _quote(text: str) -> str:
    doubles = len(re.findall(r'(?:^|[,;\t|])"', text, re.MULTILINE))
    singles = len(re.findall(r"(?:^|[,;\t|])'[^'\n]*'(?=[,;\t|\r\n])", text, re.MULTILINE))
    return "'" if singles >= 3 and singles > doubles else '"'


def split(text: str, delimiter: str, quote: str) -> list[list[str]]:
    """Lines as rows of cells, as far as they can be told apart."""
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


def _past_titles(rows: Grid, filled: Sequence[int], first: int) -> int:
    """Past lines with gaps that a fuller line of names follows: titles over the table."""
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
    """How many of the last lines are no rows of the table: totals, notes, marks of the export."""
    count, last = 0, 0
    for place, row in enumerate(reversed(rows[-MOST_FOOTERS:]), start=1):
        held = [cell.strip() for cell in row if cell.strip()]
        if not held:
            last = place
            continue
        narrow = width >= 3 and len(held) <= 2 and len(held) < width / 2
        named = bool(FOOTER.match(held[0])) and len(held) <= max(2, width / 2)
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
