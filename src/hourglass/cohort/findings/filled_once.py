"""Findings about columns that are filled in the first row of each block only."""

from collections.abc import Iterator

import numpy as np

from hourglass.cohort.findings.finding import KEEP, Choice, Finding, FindingContext, count
from hourglass.cohort.steps.filling import FillDown
from hourglass.cohort.table import DateColumn
from hourglass.cohort.words import grouped

MIN_BLANK_SHARE = 0.3
MIN_BLANK = 4


def filled_once(context: FindingContext) -> Iterator[Finding]:
    """Columns at the left that name the block of rows below, once for each block."""
    for column in context.columns:
        gone = column.missing
        blank = int(gone.sum())
        if (
            isinstance(column, DateColumn)
            or gone[0]
            or blank < max(MIN_BLANK, MIN_BLANK_SHARE * gone.size)
        ):
            return
        held = [column.cell(int(k)) for k in np.flatnonzero(~gone)]
        if len(set(held)) < len(held):
            return  # a value that comes again names no block
        yield Finding(
            key=f"filled once: {column.name}",
            title=f"{column.name} is filled in {grouped(len(held))} rows and blank in {count(gone)} below "
            "them",
            why="A table made to be read names a block of rows in its first row only. The other rows "
            "belong to "
            "no group until what stands above is filled in.",
            rows=context.numbers(gone),
            columns=(column.name,),
            choices=(
                Choice(
                    name="fill down",
                    label="Fill in what stands above",
                    done="filled in from the row above",
                    steps=(FillDown(column=column.name),),
                ),
                KEEP,
            ),
        )
