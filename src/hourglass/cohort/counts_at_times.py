"""Recognising counts at each time, and the column that shows how many are at risk."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np

from hourglass.cohort.profile import all_whole
from hourglass.cohort.steps.spread_counts import SpreadCounts, remaining, sequences
from hourglass.cohort.steps.step import keys_of
from hourglass.cohort.table import Column, NumberColumn, Table, TextColumn

EVENT_COUNT = ("died", "dead", "death", "event", "fail", "failed", "relapse", "broke")
LOST_COUNT = ("withdr", "censor", "lost", "removed", "suspend")
AT_RISK = (
    "risk", "enter", "expos", "alive", "still", "remain", "left", "running", "survivors", "n_start",
    "number_at",
)  # fmt: skip

BEFORE_ENDS = ("risk", "enter", "expos", "n_start")
"""Words for those at risk before anybody ends; the others are for those still there after it."""


@dataclass(frozen=True, slots=True)
class CountsAtTimes:
    """The step that spreads the counts, and what speaks for how it counts those at risk."""

    step: SpreadCounts
    reason: str


def counts_at_times(table: Table, time: str) -> CountsAtTimes | None:
    """The counts at times of a table, if it holds any."""
    numbers = [c for c in table.columns if isinstance(c, NumberColumn) and c.name != time]
    died = [c for c in numbers if _is(c, EVENT_COUNT)]
    lost = [c for c in numbers if _is(c, LOST_COUNT) and c not in died]
    if len(died) != 1 or len(lost) > 1:
        return None
    ended = [*died, *lost]
    if not all(whole_numbers(c) for c in ended) or max(c.values.max() for c in ended) <= 1:
        return None
    ends = {died[0].name: "event", **{c.name: "censored" for c in lost}}
    within = _within(table, time)
    if within is None:
        return None
    step = SpreadCounts(counts=ends, time=time, within=within)
    apart = f" {', '.join(within)} sets counts apart." if within else ""
    for c in numbers:
        if c not in ended and whole_numbers(c):
            last = _only_last(table, step, c)
            if last is not None:
                return CountsAtTimes(
                    step.model_copy(update={"at_risk": c.name, "counted": last}),
                    f"{c.name} is filled in at the last time alone and holds how many are at risk {last} "
                    f"they ended then: those left get a row of their own.{apart}",
                )
            counted = _counted(table, step, c)
            if counted is not None:
                return CountsAtTimes(
                    step.model_copy(update={"at_risk": c.name, "counted": counted}),
                    f"{c.name} holds how many are at risk {counted} they ended: those left after the last "
                    f"time get a row of their own.{apart}",
                )
    if not lost:
        return None
    return CountsAtTimes(
        step,
        "No column holds how many are at risk, so you are asked how many still were after the last "
        f"time.{apart}",
    )


def whole_numbers(column: Column) -> bool:
    """Whether a column holds nothing but whole numbers from 0 up."""
    if not isinstance(column, NumberColumn) or not all_whole(column):
        return False
    known = column.values[~column.missing]
    return bool(known.size and (known >= 0).all())


def _is(column: NumberColumn, words: tuple[str, ...]) -> bool:
    name = column.name.lower()
    return any(word in name for word in words) and not any(word in name for word in AT_RISK)


def _within(table: Table, time: str) -> tuple[str, ...] | None:
    """The fewest columns of text within which no time stands twice; None if there are none."""
    texts = [c.name for c in table.columns if isinstance(c, TextColumn)]
    for names in ((), *((name,) for name in texts), tuple(texts)):
        key = keys_of(table, (*names, time))
        if np.unique(key).size == key.size:
            return names
    return None


def _only_last(
    table: Table, step: SpreadCounts, column: NumberColumn
) -> Literal["before", "after"] | None:
    """How a column counts that holds a number at risk at the last time alone; None if it does not."""
    if not any(word in column.name.lower() for word in AT_RISK):
        return None
    last = [rows[-1] for rows in sequences(table, step.time, step.within)]
    known = np.flatnonzero(~column.missing)
    if table.size <= len(last) or known.tolist() != sorted(last):
        return None
    ended = np.nansum([_values(table, name)[last] for name in step.counts], axis=0)
    names_start = any(word in column.name.lower() for word in BEFORE_ENDS)
    return "before" if names_start and (column.values[last] >= ended).all() else "after"


def _counted(
    table: Table, step: SpreadCounts, column: NumberColumn
) -> Literal["before", "after"] | None:
    """Whether a column counts those at risk before or after the ends; None if it does neither."""
    if column.missing.any():
        return None
    ended = np.nansum([_values(table, name) for name in step.counts], axis=0)
    fits = dict(_fits(table, step, column, ended))
    if not fits:
        return None
    best = min(fits, key=lambda counted: fits[counted])
    named = any(word in column.name.lower() for word in AT_RISK)
    exact = fits[best] == 0 and table.size - _sequences(table, step) >= 3
    return best if named or exact else None


def _fits(
    table: Table, step: SpreadCounts, column: NumberColumn, ended: np.ndarray
) -> Iterator[tuple[Literal["before", "after"], float]]:
    """For each way of counting in which nobody ends who is not at risk: how many it leaves unstated."""
    ways: tuple[Literal["before", "after"], ...] = ("before", "after")
    for counted in ways:
        tried = step.model_copy(update={"at_risk": column.name, "counted": counted})
        rest = remaining(tried, table, ended)
        if rest.beyond == 0 and rest.more == 0 and rest.left.sum() + ended.sum() > 0:
            yield counted, float(rest.unstated.sum())


def _sequences(table: Table, step: SpreadCounts) -> int:
    key = keys_of(table, step.within) if step.within else np.zeros(table.size, dtype=np.int64)
    return int(np.unique(key).size)


def _values(table: Table, name: str) -> np.ndarray:
    column = table.column(name)
    assert isinstance(column, NumberColumn)
    return column.values
