"""The values that the covariates of further tables had during a row's follow-up, and the records they
come from."""

from collections.abc import Iterator

import numpy as np

from hourglass.analysis.prepare.row_follow_up import WorkedLine, in_words
from hourglass.cohort.records.joined import JoinedCohort, JoinedRecords
from hourglass.cohort.words import listed

MISSING = "missing"
NO_RECORD, ENDED = "no record yet", "a period or a limit ended, or a band was passed"


def row_pieces(joined: JoinedCohort, number: int) -> list[WorkedLine]:
    """A line for each piece of a row's follow-up in which the covariates have one value.

    Args:
        number: the row's number in the file of follow-up.
    """
    cohort = joined.cohort
    data, table = cohort.follow_up, cohort.table
    if not joined.made or data.subject is None:
        return []
    pieces = np.flatnonzero(table.numbers == number)
    entry = np.full(data.exit.size, -np.inf) if data.entry is None else data.entry
    lines = []
    for nth, k in enumerate(pieces[np.argsort(data.exit[pieces])].tolist()):
        start, end = max(float(entry[k]), 0.0), float(data.exit[k])
        values = [f"{name} {table.column(name).cell(k) or MISSING}" for name in joined.made]
        used = [
            words
            for records in joined.records
            for words in _records(records, int(data.subject[k]), start, first=nth == 0)
        ]
        lines.append(
            WorkedLine(
                what=f"after {in_words(start)} up to {in_words(end)} {cohort.statement.unit}",
                value=", ".join(values),
                rule=f"from {listed(used)}" if used else NO_RECORD if nth == 0 else ENDED,
            )
        )
    return lines


def _records(records: JoinedRecords, subject: int, start: float, *, first: bool) -> Iterator[str]:
    """The records of a subject at the start of a piece; of the first, all up to it."""
    own = records.subject == subject
    there = own & (records.time <= start if first else records.time == start)
    for number in records.numbers[there].tolist():
        yield f"row {number} of {records.name}"
