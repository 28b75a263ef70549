"""Slots of a sentence that state which groups there are."""

from dataclasses import dataclass
from typing import cast

import numpy as np

from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.grouping import GroupedStatement, grouped, is_split, splits_of
from hourglass.analysis.shared.groups import Groups, categories, group_by, level_counts, numbers
from hourglass.analysis.shared.sentence import Entry, Option, Slot, Spread
from hourglass.cohort.bins import bin_edges
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import NumberColumn
from hourglass.core.errors import NotEstimableError

FORGOTTEN = {"reference": None, "crossed": None, "thresholds": ()}
"""What is requested of one column has no meaning for another."""


@dataclass(frozen=True, slots=True)
class GroupSlots:
    """What makes the groups, in words and slots, and what may be added to it after the sentence."""

    parts: list[str | Slot]
    optional: tuple[Slot, ...] = ()


def group_slots(cohort: Cohort, statement: GroupedStatement, by: Slot) -> GroupSlots:
    """The choice of what makes the groups, with what belongs to it."""
    parts: list[str | Slot] = [by]
    if statement.by is None or not cohort.table.has(statement.by):
        return GroupSlots(parts)
    if is_split(cohort, statement):
        parts += [" at ", threshold_slot(cohort, statement)]
    crossed = crossed_slot(cohort, statement)
    if crossed.state == "filled":
        parts += [", each parted by ", crossed]
    return GroupSlots(parts, (crossed,))


def by_options(cohort: Cohort, statement: GroupedStatement) -> list[Option]:
    """The categories with the counts of their levels, and the numbers that can be split."""
    other = statement.model_copy(update=FORGOTTEN)
    named = categories(cohort)
    notes = {
        name: " · ".join(
            f"{v} {formatting.grouped(n)}" for v, n in level_counts(cohort, name).items()
        )
        for name in named
    }
    notes |= {name: "a number, at thresholds" for name in numbers(cohort) if name not in notes}
    return [
        Option(
            label=name,
            note=note,
            field="",
            value=other.model_copy(update={"by": name}).model_dump(mode="json"),
            chosen=name == statement.by,
        )
        for name, note in notes.items()
    ]


def threshold_slot(cohort: Cohort, statement: GroupedStatement) -> Slot:
    """Where a number is split; its median until somebody states otherwise."""
    name = statement.by or ""
    column = cast(NumberColumn, cohort.table.column(name))
    splits = splits_of(cohort, name)
    at = statement.thresholds or (splits[0][1] if splits else ())
    written = [column.written(e) for e in at]
    listed = formatting.listed(written)
    return Slot(
        id="thresholds",
        label=listed if statement.thresholds or not splits else f"its median, {listed}",
        title=f"Thresholds of {name}",
        entry=Entry(
            kind="numbers",
            field="thresholds",
            label=f"Thresholds, up to and with each{f' ({column.unit})' if column.unit else ''}",
            value=", ".join(written),
        ),
        spread=_spread(cohort, column, at),
        options=[
            Option(
                label=title,
                note=formatting.listed([column.written(e) for e in edges]),
                field="thresholds",
                value=list(edges),
                chosen=edges == at,
            )
            for title, edges in splits
        ],
    )


BARS = 40
"""Bars of the picture of a number in its slot."""


def _spread(cohort: Cohort, column: NumberColumn, at: tuple[float, ...]) -> Spread | None:
    """The picture of a number, each row as often as it is counted."""
    known = np.isfinite(column.values)
    if not known.any():
        return None
    edges = bin_edges(column.values[known], BARS, column.decimals)
    if edges is None:
        return None
    weights = cohort.follow_up.count[known]
    heights, _ = np.histogram(column.values[known], edges, weights=weights)
    return Spread(
        field="thresholds",
        edges=edges,
        heights=heights.astype(np.float64),
        at=list(at),
        decimals=column.decimals,
    )


def crossed_slot(cohort: Cohort, statement: GroupedStatement) -> Slot:
    """A second category, whose levels part those of the first."""
    options = [
        Option(label="nothing else", field="crossed", value=None, chosen=statement.crossed is None)
    ]
    for name in categories(cohort):
        if name == statement.by:
            continue
        try:
            made = grouped(cohort, statement.model_copy(update={"crossed": name}))
        except NotEstimableError:
            continue
        options.append(
            Option(
                label=name,
                note=formatting.count(len(made.labels), "groups"),
                field="crossed",
                value=name,
                chosen=name == statement.crossed,
            )
        )
    return Slot(
        id="crossed",
        label=statement.crossed or "Add a second category",
        title="Groups parted by a second category",
        state="filled" if statement.crossed else "add",
        options=options,
    )


def reference_slot(cohort: Cohort, statement: GroupedStatement, groups: Groups) -> Slot:
    """The level that the others are set against."""
    first = groups.labels[0]
    levels = group_by(cohort.table, statement.by or "", statement.reference).labels
    counts = level_counts(cohort, statement.by or "")
    return Slot(
        id="reference",
        label=first,
        title="Reference group",
        options=[
            Option(
                label=level,
                note=formatting.count(counts.get(level, 0), cohort.rows_are),
                field="reference",
                value=level,
                chosen=level == first,
            )
            for level in sorted(levels, key=list(counts).index)
        ],
    )
