"""A file's reading as it is kept and handed over: its table packed, with all that is shown of it."""

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

from hourglass.cohort.parquet import to_parquet
from hourglass.cohort.proposal.propose import propose
from hourglass.cohort.reading.recipe import Evidence, Reading, Recipe
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.table import Kind


@dataclass(frozen=True, slots=True, kw_only=True)
class PackedReading:
    """A table as Parquet, its size and columns, how it was read and why, and what is proposed for it."""

    table: bytes
    rows: int
    columns: tuple[tuple[str, Kind], ...]
    recipe: Recipe
    how: str
    proposal: FollowUpStatement
    evidence: tuple[Evidence, ...] = ()
    sheets: tuple[str, ...] = ()


def packed(reading: Reading) -> PackedReading:
    """Pack a reading."""
    table = reading.table
    with ThreadPoolExecutor(2) as threads:
        proposal = threads.submit(propose, table)
        written = to_parquet(table)
    return PackedReading(
        table=written,
        rows=table.size,
        columns=tuple((c.name, c.kind) for c in table.columns),
        recipe=reading.recipe,
        how=reading.how,
        proposal=proposal.result(),
        evidence=reading.evidence,
        sheets=reading.sheets,
    )
