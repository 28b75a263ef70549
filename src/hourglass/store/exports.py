"""The exports of a study: each an export of its data, read by a recipe."""

from uuid import UUID

from psycopg.types.json import Jsonb

from hourglass.cohort.reading.packed import PackedReading
from hourglass.cohort.reading.recipe import Recipe
from hourglass.store.queries import query
from hourglass.store.rows import Db, Row, one
from hourglass.study.keeping import NewFile
from hourglass.study.study import Export


def exports(db: Db, study: UUID) -> tuple[Export, ...]:
    """All exports of a study, oldest first."""
    return tuple(_export(row) for row in db.execute(query("find_exports"), {"id": study}))


def _export(row: Row) -> Export:
    return Export(
        row["id"],
        row["name"],
        row["sha256"],
        row["table_sha256"],
        row["size"],
        row["row_count"],
        row["how_read"],
        Recipe.model_validate(row["recipe"]),
        row["read_at"],
        row["revision"],
        row["last_revision"],
        row["accepted"],
        bool(row["current"]),
    )


def add_export(db: Db, study: UUID, file: NewFile, accepted: bool) -> int:
    """Record a file that was read; an export not yet accepted takes the place of one that waits."""
    if not accepted:
        db.execute(query("forget_waiting_export"), {"id": study})
    row = one(
        db,
        "add_export",
        id=study,
        name=file.name,
        sha256=file.sha256,
        table_sha256=file.table_sha256,
        size=file.size,
        row_count=file.reading.rows,
        how_read=file.reading.how,
        recipe=Jsonb(file.reading.recipe.model_dump(mode="json")),
        accepted=accepted,
    )
    _add_columns(db, row["id"], file.reading)
    if accepted:
        one(db, "make_current", id=study, export=row["id"])
    return int(row["id"])


def change_reading(db: Db, export: int, table_sha256: str, reading: PackedReading) -> None:
    """Record that an export's bytes are now read by another recipe."""
    with db.transaction():
        one(
            db,
            "change_reading",
            export=export,
            table_sha256=table_sha256,
            row_count=reading.rows,
            how_read=reading.how,
            recipe=Jsonb(reading.recipe.model_dump(mode="json")),
        )
        db.execute(query("forget_columns"), {"export": export})
        _add_columns(db, export, reading)


def accept_export(db: Db, study: UUID, export: int) -> None:
    """Make an export the current one; those before it stay."""
    with db.transaction():
        one(db, "accept_export", id=study, export=export)
        one(db, "make_current", id=study, export=export)


def forget_waiting_export(db: Db, study: UUID) -> None:
    """Let go of the export that waits to be accepted."""
    db.execute(query("forget_waiting_export"), {"id": study})


def _add_columns(db: Db, export: int, reading: PackedReading) -> None:
    with db.cursor() as cursor:
        cursor.executemany(
            query("add_column"),
            [
                {"export": export, "position": k, "name": name, "kind": kind}
                for k, (name, kind) in enumerate(reading.columns)
            ],
        )
