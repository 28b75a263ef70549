"""The cuts of a study: each an export of its data, read by a recipe."""

from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from psycopg.types.json import Jsonb

from hourglass.cohort.reading.packed import PackedReading
from hourglass.cohort.reading.recipe import Recipe
from hourglass.store.queries import query
from hourglass.store.rows import Db, Row, one


class FileAlreadyReadError(ValueError):
    """The study has its file already."""


@dataclass(frozen=True, slots=True)
class NewFile:
    """A file that has been read and whose bytes are kept."""

    name: str
    sha256: str
    table_sha256: str
    size: int
    reading: PackedReading


@dataclass(frozen=True, slots=True)
class Cut:
    """A cut, as kept. ``revision`` of ``last_revision`` says how far its steps are undone."""

    id: int
    name: str
    sha256: str
    table_sha256: str
    size: int
    rows: int
    how_read: str
    recipe: Recipe
    read_at: datetime
    revision: int
    last_revision: int
    accepted: bool
    current: bool


def cuts(db: Db, study: UUID) -> tuple[Cut, ...]:
    """All cuts of a study, oldest first."""
    return tuple(_cut(row) for row in db.execute(query("find_cuts"), {"id": study}))


def _cut(row: Row) -> Cut:
    return Cut(
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


def add_cut(db: Db, study: UUID, file: NewFile, accepted: bool) -> int:
    """Record a file that was read; a cut not yet accepted takes the place of one that waits."""
    if not accepted:
        db.execute(query("forget_waiting_cut"), {"id": study})
    row = one(
        db,
        "add_cut",
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
        one(db, "make_current", id=study, cut=row["id"])
    return int(row["id"])


def change_reading(db: Db, cut: int, table_sha256: str, reading: PackedReading) -> None:
    """Record that a cut's bytes are now read by another recipe."""
    with db.transaction():
        one(
            db,
            "change_reading",
            cut=cut,
            table_sha256=table_sha256,
            row_count=reading.rows,
            how_read=reading.how,
            recipe=Jsonb(reading.recipe.model_dump(mode="json")),
        )
        db.execute(query("forget_columns"), {"cut": cut})
        _add_columns(db, cut, reading)


def accept_cut(db: Db, study: UUID, cut: int) -> None:
    """Make a cut the current one; those before it stay."""
    with db.transaction():
        one(db, "accept_cut", id=study, cut=cut)
        one(db, "make_current", id=study, cut=cut)


def forget_waiting_cut(db: Db, study: UUID) -> None:
    """Let go of the cut that waits to be accepted."""
    db.execute(query("forget_waiting_cut"), {"id": study})


def _add_columns(db: Db, cut: int, reading: PackedReading) -> None:
    with db.cursor() as cursor:
        cursor.executemany(
            query("add_column"),
            [
                {"cut": cut, "position": k, "name": name, "kind": kind}
                for k, (name, kind) in enumerate(reading.columns)
            ],
        )
