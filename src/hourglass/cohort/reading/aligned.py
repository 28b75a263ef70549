"""Tables whose columns are set apart by spaces: by runs of them, or by the place in the line."""

import re
from collections import Counter
from collections.abc import Sequence
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hourglass.cohort.reading.mended import Mended
from hourglass.cohort.words import grouped

SPACES = " "
"""The delimiter of a recipe for such a table."""
STEADY = 0.98
PADDED = 0.8
SKIPPED = 6
SAMPLE = 300


def find_alignment(text: str) -> tuple[int, tuple[int, ...]] | None:
    """How many columns lines of text have, and where each begins; None if they are not aligned.

    No places where runs of spaces set cells apart.
    """
    lines = [line.expandtabs(8).rstrip() for line in text.split("\n")[:SAMPLE]]
    lines = [line for line in lines if line.strip()]
    if len(lines) < 2:
        return None
    starts = range(min(SKIPPED, len(lines) - 1))
    for first in starts:
        rows = [line.split() for line in lines[first:]]
        width, n = Counter(len(row) for row in rows).most_common(1)[0]
        steady = n >= STEADY * len(rows) or (n >= len(rows) - 1 and n > 2)
        named = first == 0 or not any(re.search(r"\d", cell) for cell in rows[0])
        if width > 1 and len(rows[0]) == width and steady and named and _holds_values(rows, width):
            return width, ()
    padded = sum(1 for line in lines if re.search(r"\S {2,}\S", line))
    if padded < PADDED * len(lines):
        return None
    headers = [k for k in starts if len(lines[k].split()) > 1 and not re.search(r"\d", lines[k])]
    tried = [
        _places(lines[begin : len(lines) - last])
        for begin in headers or [0]
        for last in range(min(3, len(lines) - begin - 1))
    ]
    best = max(tried, key=len, default=())
    return (len(best), best) if len(best) > 1 else None


def _holds_values(rows: Sequence[Sequence[str]], width: int) -> bool:
    """Whether some column holds numbers or dates alone: words set apart by spaces are no table."""
    body = [row for row in rows[1:] if len(row) == width]
    return any(all(re.search(r"\d", row[k]) for row in body) for k in range(width) if body)


def _places(lines: Sequence[str]) -> tuple[int, ...]:
    """Where the columns of lines begin: after places at which every line has a space.

    What the first line has no name over belongs to the column before it.
    """
    width = max(len(line) for line in lines)
    held = np.zeros(width + 1, dtype=bool)
    for line in lines:
        held[: len(line)] |= np.frombuffer(line.encode("utf-32-le"), dtype=np.uint32) != ord(" ")
    begins = np.flatnonzero(held & ~np.concatenate([[False], held[:-1]]))
    ends = [*begins[1:], width]
    return tuple(
        int(a) for a, b in zip(begins, ends, strict=True) if a == begins[0] or lines[0][a:b].strip()
    )


def split_aligned(line: str, places: Sequence[int]) -> list[str]:
    """The cells of a line."""
    line = line.expandtabs(8)
    if not places:
        return line.split()
    ends = [*places[1:], len(line)]
    return [line[a:b].strip() for a, b in zip((0, *places[1:]), ends, strict=True)]


def aligned_cells(text: bytes, places: Sequence[int]) -> tuple[list[Any], list[int], list[Mended]]:
    """The columns of cells, of how many cells each line is, and what was mended.

    Lines with nothing in them are passed over.
    """
    lines = pa.array([line.expandtabs(8) for line in text.decode().splitlines() if line.strip()])
    if not places:
        cells = pc.utf8_split_whitespace(pc.utf8_trim_whitespace(lines))
        counts = pc.list_value_length(cells).to_numpy(zero_copy_only=False)
        width = int(counts.max(initial=1))
        columns = [_nth(cells, k) for k in range(width)]
        return columns, [int(n) for n in counts], []
    begins = (0, *places[1:])
    ends: list[int | None] = [*places[1:], None]
    columns = [
        pc.utf8_trim_whitespace(pc.utf8_slice_codeunits(lines, a, b))
        for a, b in zip(begins, ends, strict=True)
    ]
    crossing = np.zeros(len(lines), dtype=bool)
    for place in places[1:]:
        before = pc.utf8_slice_codeunits(lines, place - 1, place)
        crossing |= pc.is_in(before, value_set=pa.array(["", " "])).to_numpy(
            zero_copy_only=False
        ) == np.bool_(False)
    mended = []
    hit = np.flatnonzero(crossing[1:]) + 1
    if hit.size:
        mended.append(
            Mended(
                "aligned",
                f"A cell reaches over the edge of its column in {grouped(hit.size)} lines",
                "The columns are distinguished by their place in the line: such a cell may have been cut "
                "in two. Look at these rows, or set the columns apart by another mark.",
                rows=tuple(int(k) for k in hit[:1000]),
            )
        )
    return columns, [len(places)] * len(lines), mended


def _nth(cells: Any, k: int) -> Any:
    """The k-th cell of each line, blank where it has fewer."""
    padded = pc.list_slice(cells, k, k + 1, return_fixed_size_list=True)
    return pc.fill_null(padded.flatten(), "") if len(padded) else pa.array([], pa.string())
