"""Findings about times that are written with more than a number."""

from collections.abc import Iterator

import numpy as np

from hourglass.cohort.findings.finding import KEEP, Choice, Finding, FindingContext, count
from hourglass.cohort.proposal.duration import is_timed
from hourglass.cohort.steps.written_times import (
    Fits,
    ReadColons,
    TakeEndsApart,
    TakeMarkApart,
    marked,
    plain_or_marked,
    two_ends,
    with_colon,
)
from hourglass.cohort.table import TextColumn

MIN_SHARE_OF_TIMES = 0.9
MAX_BANDS = 20
"""So few different pairs of numbers, in a column that is not named for a time, are bands."""
HOURS_OF_A_DAY = 24


def written_times(
    context: FindingContext, column: TextColumn, levels: list[str]
) -> Iterator[Finding]:
    """Times with a mark, with a colon, or with two ends in a cell."""
    for of in (_marks, _colons, _ends):
        found = of(context, column, levels)
        if found is not None:
            yield found
            return


def _marks(context: FindingContext, column: TextColumn, levels: list[str]) -> Finding | None:
    some = [level for level in levels if marked(level)]
    if not some or not _mostly(column, levels, plain_or_marked):
        return None
    name, hit = column.name, _rows(column, some)
    steps = [TakeMarkApart(column=name, marked=means) for means in ("censored", "event")]
    return Finding(
        key=f"marks in times: {name}",
        title=f"{name} holds numbers, with a mark in {count(hit)}: {some[0].strip()}",
        why="A plus after a time, or “over” before it, commonly means that it still went on then: "
        "censored. Read "
        "as numbers alone, these rows would be lost, or would count as events.",
        rows=context.numbers(hit),
        columns=(name,),
        choices=(
            Choice(
                name="marked censored",
                label="The mark means censored",
                done="marks taken for censored",
                steps=(steps[0],),
            ),
            Choice(
                name="marked event",
                label="The mark means the event",
                done="marks taken for the event",
                steps=(steps[1],),
            ),
            KEEP,
        ),
    )


def _colons(context: FindingContext, column: TextColumn, levels: list[str]) -> Finding | None:
    if not _mostly(column, levels, with_colon):
        return None
    longest = max(int(level.partition(":")[0]) for level in levels if with_colon(level))
    if longest < HOURS_OF_A_DAY and not is_timed(column.name):
        return None  # times of the day
    name = column.name
    choices = [
        Choice(
            name=f"read {first}",
            label=f"Read as {first} and {rest}",
            done=f"read as {first}",
            steps=(step,),
        )
        for first, rest in (("hours", "minutes"), ("minutes", "seconds"))
        for step in (ReadColons.model_validate({"column": name, "first": first}),)
    ]
    return Finding(
        key=f"colons in times: {name}",
        title=f"{name} holds times with a colon, such as {levels[0].strip()}",
        why="As text they can be no time of follow-up. The file does not say whether hours and minutes or "
        "minutes and seconds stand there.",
        rows=context.numbers(column.codes >= 0),
        columns=(name,),
        choices=(*choices, KEEP),
    )


def _ends(context: FindingContext, column: TextColumn, levels: list[str]) -> Finding | None:
    if not _mostly(column, levels, two_ends):
        return None
    if len(levels) <= MAX_BANDS and not is_timed(column.name):
        return None
    name = column.name
    both, second = (TakeEndsApart(column=name, keep=keep) for keep in ("both", "second"))
    return Finding(
        key=f"two ends in cells: {name}",
        title=f"{name} holds two numbers in a cell, such as {levels[0].strip()}",
        why="They may be when a row enters and when it leaves. If instead the event lies somewhere between "
        "them, its time is not known, and no method here can use it; the second number is then too late.",
        rows=context.numbers(column.codes >= 0),
        columns=(name,),
        choices=(
            Choice(
                name="take apart",
                label="A row enters at the first and leaves at the second",
                done="taken apart",
                steps=(both,),
            ),
            Choice(
                name="take second",
                label="Take the second as the time",
                done="the second number taken",
                steps=(second,),
            ),
            KEEP,
        ),
    )


def _mostly(column: TextColumn, levels: list[str], fits: Fits) -> bool:
    counts = column.counts()
    held = sum(counts[level] for level in levels)
    return sum(counts[level] for level in levels if fits(level)) >= MIN_SHARE_OF_TIMES * held


def _rows(column: TextColumn, levels: list[str]) -> np.ndarray:
    some = set(levels)
    return np.array([*(level in some for level in column.levels), False])[column.codes]
