"""Cells of a sheet that span several rows: what stands in the first stands for all of them."""

from collections import defaultdict
from collections.abc import Iterator, Sequence
from typing import Any

Span = tuple[tuple[int, int], tuple[int, int]]
"""The first and the last (row, column) of merged cells, counted from 0."""


class SpannedRows:
    """Rows of a sheet with the cells filled that a span covers; ``filled`` counts them."""

    def __init__(self, spans: Sequence[Span]) -> None:
        self._opening: dict[int, list[Span]] = defaultdict(list)
        for span in spans:
            (top, _), (bottom, _) = span
            if bottom > top:
                self._opening[top].append(span)
        self._open: dict[int, tuple[Any, int]] = {}
        self.filled = 0

    def rows(
        self, rows: Iterator[tuple[int, list[Any]]], left: int
    ) -> Iterator[tuple[int, list[Any]]]:
        """Rows with their places (from 0), each row's first cell in column ``left``."""
        for place, cells in rows:
            row = self._with_what_spans(place, cells, left) if self._open else cells
            for (_, first), (bottom, last) in self._opening.get(place, ()):
                held = row[first - left] if 0 <= first - left < len(row) else ""
                for column in range(first, last + 1):
                    self._open[column] = (held, bottom)
            yield place, row

    def _with_what_spans(self, place: int, cells: list[Any], left: int) -> list[Any]:
        row = list(cells)
        for column, (held, bottom) in list(self._open.items()):
            if place > bottom:
                del self._open[column]
            elif 0 <= column - left < len(row) and row[column - left] in ("", None):
                row[column - left] = held
                self.filled += held not in ("", None)
        return row
