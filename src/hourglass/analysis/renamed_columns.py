"""Columns of a new data extract that hold what another column held before, under another name."""

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.cohort.profile import profile_of
from hourglass.cohort.table import Column, Table
from hourglass.core.arrays import evenly_placed

MAX_PAIRS, MAX_ROWS, MAX_VALUES = 400, 1_000, 2_000
MIN_ROWS = 5
ALIKE = 0.9


class RenamedColumn(FrozenModel):
    """A column that is gone, the one that seems to be it, and why."""

    was: str
    now: str
    because: str


def renamed_columns(
    old: Table, new: Table, was: NDArray[np.int64], now: NDArray[np.int64]
) -> list[RenamedColumn]:
    """Pairs of a column that is gone and one that is new and holds the same, the most alike first.

    Args:
        was, now: the places of the rows that are in both data extracts, in each of them.
    """
    gone = [c for c in old.columns if not new.has(c.name)]
    fresh = [c for c in new.columns if not old.has(c.name)]
    if len(gone) * len(fresh) > MAX_PAIRS:
        return []
    rated = sorted(_alike(gone, fresh, was, now), key=lambda one: -one[0])
    found: list[RenamedColumn] = []
    taken: set[str] = set()
    for _, before, after, because in rated:
        if before not in taken and after not in taken:
            taken |= {before, after}
            found.append(RenamedColumn(was=before, now=after, because=because))
    return found


def _alike(
    gone: list[Column], fresh: list[Column], was: NDArray[np.int64], now: NDArray[np.int64]
) -> Iterator[tuple[float, str, str, str]]:
    some = evenly_placed(was.size, MAX_ROWS)
    for a in gone:
        for b in fresh:
            if a.kind != b.kind or profile_of(a).distinct < 2:
                continue
            if some.size >= MIN_ROWS:
                same = np.mean([a.cell(int(was[k])) == b.cell(int(now[k])) for k in some])
                if same >= ALIKE:
                    yield (
                        float(same),
                        a.name,
                        b.name,
                        "it holds the same in the rows of both data extracts",
                    )
            else:
                values, others = _values(a), _values(b)
                share = len(values & others) / max(len(values), 1)
                if share >= ALIKE:
                    yield share, a.name, b.name, "it holds the same values"


def _values(column: Column) -> set[str]:
    some = np.flatnonzero(~column.missing)[:MAX_VALUES]
    return {column.cell(int(k)) for k in some}
