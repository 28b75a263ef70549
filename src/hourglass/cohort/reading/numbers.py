"""Numbers as they are written: their decimal and thousands marks, and their values."""

import re
from collections.abc import Iterable
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
from numpy.typing import NDArray

from hourglass.cohort.reading.recipe import Evidence

PLAIN = r"^[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d{1,3})?$"
CODE_WITH_LEADING_ZERO = r"^[+-]?0\d"
TOO_LONG = r"^[+-]?\d{16,}$"
"""Longer whole numbers than a float can distinguish: names of rows, not measurements."""
SPACES = "\u00a0\u2009\u202f"
EITHER_POINT = re.compile(r"^[+-]?[1-9]\d{0,2}\.\d{3}$")
"""A point that may be the decimal mark or set thousands apart, as in 1.087."""
EITHER_WAY = r"^[+-]?[1-9]\d{0,2}(\.\d{3})?$|^0$"
MIN_EITHER, LOOK = 3, 1_000
COMMA = re.compile(r"^[+-]?(\d{4,}|0),\d+$|^[+-]?\d+,(\d{1,2}|\d{4,})$")
POINT = re.compile(r"^[+-]?\d+\.\d+$")
# What a cell's marks mean. Three digits after a single mark decide nothing: 1,234 may be either.
SHOWS_MARKS = [
    (re.compile(r"^[+-]?\d{1,3}(\.\d{3})+,\d+$"), (",", ".")),
    (re.compile(r"^[+-]?\d{1,3}(,\d{3})+\.\d+$"), (".", ",")),
    (re.compile(r"^[+-]?\d{1,3}(\.\d{3}){2,}$"), (",", ".")),
    (re.compile(r"^[+-]?\d{1,3}(,\d{3}){2,}$"), (".", ",")),
    (re.compile(rf"^[+-]?\d{{1,3}}([ {SPACES}]\d{{3}})+(,\d+)$"), (",", " ")),
    (re.compile(rf"^[+-]?\d{{1,3}}([ {SPACES}]\d{{3}})+(\.\d+)?$"), (".", " ")),
    (re.compile(r"^[+-]?\d{1,3}('\d{3})+(\.\d+)?$"), (".", "'")),
    (COMMA, (",", "")),
    (POINT, (".", "")),
]


def pattern(decimal: str, thousands: str) -> str:
    """The regular expression of a number written with these marks."""
    point = re.escape(decimal)
    tail = rf"({point}\d*)?([eE][+-]?\d{{1,3}})?$"
    plain = rf"(\d+{tail[:-1]}|{point}\d+)$"
    if not thousands:
        return rf"^[+−-]?{plain}"
    mark = f"[ {SPACES}]" if thousands == " " else re.escape(thousands)
    return rf"^[+−-]?(\d{{1,3}}({mark}\d{{3}})+({point}\d*)?|\d+({point}\d*)?|{point}\d+)$"


def find_marks(columns: Iterable[tuple[str, list[str]]]) -> tuple[str, str, list[Evidence]]:
    """The decimal and thousands marks that a sample of cells speaks for.

    Args:
        columns: (name, cells) for columns of the sample.
    """
    votes: dict[tuple[str, str], list[tuple[str, str]]] = {}
    for name, cells in columns:
        marked = [(marks, cell) for cell in cells for marks in _marks_of(cell)]
        known = sum(1 for cell in cells if any(ch.isdigit() for ch in cell))
        if len({cell for _, cell in marked}) * 5 < known:
            continue  # a few odd cells among other text
        for pair, cell in marked:
            votes.setdefault(pair, []).append((name, cell))
    if not votes:
        return ".", "", []
    commas = {m for m in votes if m[0] == ","}
    points = {m for m in votes if m[0] == "."} - {(".", " "), (".", "'")}
    if (
        commas and points
    ):  # two ways in one file: no guess, the columns that differ become a question
        return ".", "", []
    decimal = "," if commas else "."
    marks = [m[1] for m in votes if m[1]]
    thousands = marks[0] if marks else ""
    evidence = []
    for field, mark, shown in (
        (
            "decimal",
            decimal if decimal == "," else "",
            [v for m, v in votes.items() if m[0] == ","],
        ),
        ("thousands", thousands, [v for m, v in votes.items() if m[1]]),
    ):
        if mark and shown:
            examples = [f"{cell} in {name}" for name, cell in shown[0][:3]]
            evidence.append(
                Evidence(
                    field,
                    {" ": "space", "'": "apostrophe", ",": "comma", ".": "point"}[mark],
                    "cells such as " + ", ".join(examples),
                )
            )
    return decimal, thousands, evidence


def _marks_of(cell: str) -> list[tuple[str, str]]:
    """The decimal and thousands marks that a cell can be written with; none where it has no mark."""
    if cell.isdigit() or EITHER_POINT.match(cell):
        return []
    if POINT.match(cell):  # the plain case first: no other rule has a single point and nothing else
        return [(".", "")]
    return [marks for rule, marks in SHOWS_MARKS if rule.match(cell)]


def points_in_doubt(columns: Iterable[tuple[str, list[str]]], decimal: str) -> bool:
    """Whether points such as that of 1.087 may set thousands apart: no cell of the sample has a point that
    can only be a decimal mark, or some have a comma that can only be one."""
    cells = [cell for _, column in columns for cell in column]
    if decimal != "." or not any(EITHER_POINT.match(cell) for cell in cells):
        return False
    sure = any(POINT.match(cell) and not EITHER_POINT.match(cell) for cell in cells)
    return not sure or any(COMMA.match(cell) for cell in cells)


def all_match(cells: Any, regex: str) -> bool:
    """Whether all cells of an Arrow array match; the first few settle it where they do not."""
    some = (cells.slice(0, LOOK), cells) if len(cells) > LOOK else (cells,)
    return all(pc.all(pc.match_substring_regex(part, regex)).as_py() for part in some)


def either_way(cells: Any) -> bool:
    """Whether all cells could be numbers with points for thousands as well as with decimal points."""
    if not all_match(cells, EITHER_WAY):
        return False
    return bool(pc.sum(pc.match_substring(cells, ".")).as_py() >= MIN_EITHER)


def are_numbers(cells: Any, decimal: str, thousands: str) -> bool:
    """Whether all cells (an Arrow array of trimmed strings) are numbers and none is a code."""
    if not all_match(cells, pattern(decimal, thousands)):
        return False
    return not any(
        pc.any(pc.match_substring_regex(cells, coded)).as_py()
        for coded in (CODE_WITH_LEADING_ZERO, TOO_LONG)
    )


def to_numbers(cells: Any, decimal: str, thousands: str) -> tuple[NDArray[np.float64], int]:
    """Values of cells that :func:`are_numbers`, NaN elsewhere, and the most decimals written."""
    fits = pc.match_substring_regex(cells, pattern(decimal, thousands))
    plain = pc.if_else(fits, cells, pa.scalar(None, pa.string()))
    if thousands:
        marks = f"[ {SPACES}]" if thousands == " " else re.escape(thousands)
        plain = pc.replace_substring_regex(plain, marks, "")
    if decimal == ",":
        plain = pc.replace_substring(plain, ",", ".")
    plain = pc.replace_substring(plain, "−", "-")
    values = pc.cast(pc.replace_substring_regex(plain, r"^\+", ""), pa.float64())
    return values.fill_null(np.nan).to_numpy(zero_copy_only=False), _decimals(plain)


def _decimals(cells: Any) -> int:
    point = pc.find_substring(cells, ".")
    after = pc.if_else(
        pc.less(point, 0), 0, pc.subtract(pc.subtract(pc.utf8_length(cells), point), 1)
    )
    most = pc.max(after).as_py()
    return 0 if most is None else min(int(most), 10)
