"""The data extracts of a study: each read by a recipe."""

from dataclasses import asdict
from uuid import UUID

from psycopg.types.json import Jsonb

from hourglass.cohort.reading.packed import PackedReading
from hourglass.cohort.reading.recipe import Evidence, Recipe
from hourglass.store.queries import query
from hourglass.store.rows import Db, Reads, Row, one
from hourglass.study.repository import NewFile
from hourglass.study.study import Extract


def extracts(db: Reads, study: UUID) -> tuple[Extract, ...]:
    """All data extracts of a study, oldest first."""
    return tuple(_extract(row) for row in db.execute(query("find_extracts"), {"id": study}))


def _extract(row: Row) -> Extract:
    return Extract(
        id=row["id"],
        name=row["name"],
        sha256=row["sha256"],
        table_sha256=row["table_sha256"],
        size=row["size"],
        rows=row["row_count"],
        how_read=row["how_read"],
        recipe=Recipe.model_validate(row["recipe"]),
        evidence=tuple(Evidence(**one) for one in row["evidence"]),
        sheets=tuple(row["sheets"]),
        read_at=row["read_at"],
        accepted=row["accepted"],
        table=row.get("table_name", ""),
    )


def add_extract(db: Db, study: UUID, file: NewFile, waiting: bool) -> int:
    """Record a file that was read; one that waits takes the place of one that waited."""
    if waiting:
        db.execute(query("forget_waiting_extract"), {"id": study})
    row = one(
        db,
        "add_extract",
        id=study,
        name=file.name,
        sha256=file.sha256,
        table_sha256=file.table_sha256,
        size=file.size,
        row_count=file.reading.rows,
        how_read=file.reading.how,
        recipe=Jsonb(file.reading.recipe.model_dump(mode="json")),
        evidence=Jsonb([asdict(one) for one in file.reading.evidence]),
        sheets=Jsonb(list(file.reading.sheets)),
        read_at=file.read_at,
        waiting=waiting,
        table=file.table,
    )
    _add_columns(db, row["id"], file.reading)
    return int(row["id"])


def forget_waiting_export(db: Db, study: UUID) -> None:
    """Let go of the data extract that waits to be accepted."""
    db.execute(query("forget_waiting_extract"), {"id": study})


def _add_columns(db: Db, extract: int, reading: PackedReading) -> None:
    names, kinds = [name for name, _ in reading.columns], [kind for _, kind in reading.columns]
    db.execute(query("add_columns"), {"extract": extract, "names": names, "kinds": kinds})
