"""Reading and writing studies: each function is one transaction's worth of work."""

import json
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.types.json import Jsonb
from pydantic import TypeAdapter

from hourglass.analysis.statements import Stage, Statement
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps import Step
from hourglass.cohort.table import Table
from hourglass.store.queries import query

Row = dict[str, Any]
Db = Connection[Row]
STATEMENT: TypeAdapter[Statement] = TypeAdapter(Statement)
STEP: TypeAdapter[Step] = TypeAdapter(Step)


class NoSuchStudyError(LookupError):
    """There is no study of that id (it may have been deleted)."""


class FileAlreadyReadError(ValueError):
    """The study has its file already."""


@dataclass(frozen=True, slots=True)
class StudyLine:
    """A study in the list of studies."""

    id: UUID
    name: str
    demo: str | None
    created_at: datetime
    file_name: str | None
    rows: int | None


@dataclass(frozen=True, slots=True)
class StudyFile:
    """The file of a study, as kept."""

    name: str
    sha256: str
    table_sha256: str
    size: int
    rows: int
    how_read: str


@dataclass(frozen=True, slots=True)
class Decision:
    """What somebody decided, and why."""

    id: int
    stage: Stage
    about: str
    choice: str
    sentence: str
    reason: str
    made_at: datetime
    withdrawn_at: datetime | None


@dataclass(frozen=True, slots=True)
class Study:
    """All that is kept of a study besides its bytes and results."""

    id: UUID
    name: str
    demo: str | None
    file: StudyFile | None
    follow_up: FollowUpStatement
    statements: dict[Stage, Statement]
    steps: tuple[Step, ...]
    decisions: tuple[Decision, ...]

    @property
    def standing(self) -> tuple[Decision, ...]:
        """Decisions that have not been withdrawn."""
        return tuple(d for d in self.decisions if d.withdrawn_at is None)


def create_study(db: Db, name: str, demo: str | None = None) -> UUID:
    """Begin a study without a file."""
    return UUID(str(_one(db, "create_study", name=name, demo=demo)["id"]))


def list_studies(db: Db) -> list[StudyLine]:
    """All studies, oldest first."""
    return [
        StudyLine(r["id"], r["name"], r["demo"], r["created_at"], r["file_name"], r["row_count"])
        for r in db.execute(query("list_studies"))
    ]


def known_demos(db: Db) -> set[str]:
    """Keys of the demos that have ever been loaded and are still there."""
    return {r["demo"] for r in db.execute(query("known_demos"))}


def rename_study(db: Db, study: UUID, name: str) -> None:
    """Give a study another name."""
    _one(db, "rename_study", id=study, name=name)


def delete_study(db: Db, study: UUID) -> None:
    """Delete a study with everything that belongs to it."""
    _one(db, "delete_study", id=study)


def load_study(db: Db, study: UUID) -> Study:
    """Read a study.

    Raises:
        NoSuchStudyError: when there is none.
    """
    with db.transaction():
        head = _one(db, "find_study", id=study)
        kept = db.execute(query("find_file"), {"id": study}).fetchone()
        bodies = {
            r["stage"]: r["body"] for r in db.execute(query("find_statements"), {"id": study})
        }
        steps = [
            STEP.validate_python(r["body"]) for r in db.execute(query("find_steps"), {"id": study})
        ]
        decisions = [Decision(**r) for r in db.execute(query("find_decisions"), {"id": study})]
    file = None if kept is None else _file(kept)
    follow_up = FollowUpStatement.model_validate(bodies.pop("prepare", {}))
    statements = {
        stage: STATEMENT.validate_json(json.dumps(body)) for stage, body in bodies.items()
    }
    return Study(
        head["id"],
        head["name"],
        head["demo"],
        file,
        follow_up,
        statements,
        tuple(steps),
        tuple(decisions),
    )


def attach_file(
    db: Db, study: UUID, file: StudyFile, table: Table, follow_up: FollowUpStatement
) -> None:
    """Record a study's file, columns and proposed follow-up statement: all of it, or nothing.

    Raises:
        NoSuchStudyError, FileAlreadyReadError.
    """
    with db.transaction():
        _one(db, "lock_study", id=study)
        if db.execute(query("find_file"), {"id": study}).fetchone() is not None:
            raise FileAlreadyReadError("This study has its file already. Start a new study.")
        db.execute(
            query("add_file"),
            {
                "id": study,
                "name": file.name,
                "sha256": file.sha256,
                "table_sha256": file.table_sha256,
                "size": file.size,
                "row_count": file.rows,
                "how_read": file.how_read,
            },
        )
        with db.cursor() as cursor:
            cursor.executemany(
                query("add_column"),
                [
                    {"id": study, "position": k, "name": c.name, "kind": c.kind}
                    for k, c in enumerate(table.columns)
                ],
            )
        put_statement(db, study, "prepare", follow_up)


def put_statement(
    db: Db, study: UUID, stage: Stage, statement: FollowUpStatement | Statement
) -> None:
    """Replace the statement of a stage."""
    body = Jsonb(statement.model_dump(mode="json"))
    db.execute(query("put_statement"), {"id": study, "stage": stage, "body": body})


def decide(
    db: Db,
    study: UUID,
    stage: Stage,
    about: str,
    choice: str,
    sentence: str,
    reason: str,
    steps: Sequence[Step] = (),
) -> int:
    """Log a decision together with the steps that carry it out."""
    with db.transaction():
        _one(db, "lock_study", id=study)
        row = _one(
            db,
            "add_decision",
            id=study,
            stage=stage,
            about=about,
            choice=choice,
            sentence=sentence,
            reason=reason,
        )
        for step in steps:
            body = Jsonb(step.model_dump(mode="json"))
            db.execute(query("add_step"), {"id": study, "decision": row["id"], "body": body})
    return int(row["id"])


def withdraw(db: Db, study: UUID, decision: int) -> None:
    """Take a decision back, with its steps; the log keeps it, marked as withdrawn.

    Raises:
        NoSuchStudyError: when there is no such standing decision in the study.
    """
    with db.transaction():
        _one(db, "withdraw_decision", id=study, decision=decision)
        db.execute(query("remove_steps"), {"decision": decision})


def _file(row: Row) -> StudyFile:
    return StudyFile(
        row["name"],
        row["sha256"],
        row["table_sha256"],
        row["size"],
        row["row_count"],
        row["how_read"],
    )


def _one(db: Db, named: str, /, **values: object) -> Row:
    row = db.execute(query(named), values).fetchone()
    if row is None:
        raise NoSuchStudyError("There is no such study, or it has changed: reload the page.")
    return row
