"""Results kept with the hashes of what they came from, so that a stale one is never shown."""

import hashlib
import json
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from uuid import UUID

from psycopg.types.json import Jsonb
from pydantic import BaseModel

import hourglass
from hourglass.analysis.statements import Stage
from hourglass.store.queries import query
from hourglass.store.rows import Db
from hourglass.store.studies import Study


def _program() -> str:
    """The program's version with a hash of the code that results come from.

    A result of other code than this, even of the same version, is not current.
    """
    package = Path(hourglass.__file__).parent
    digest = hashlib.sha256()
    for part in ("core", "cohort", "analysis", "report"):
        for file in sorted((package / part).rglob("*")):
            if file.suffix in (".py", ".j2"):
                digest.update(file.read_bytes())
    return f"{hourglass.VERSION}+{digest.hexdigest()[:12]}"


PROGRAM = _program()


@dataclass(frozen=True, slots=True)
class Headline:
    """A stage's last result in a line, with the hashes it was computed from."""

    stage: Stage
    cohort_hash: str
    statement_hash: str
    headline: str
    mark: str
    program: str


def cohort_hash(study: Study) -> str:
    """Hash of everything the cohort follows from: file, steps, follow-up statement."""
    return _hash(
        None if study.file is None else study.file.table_sha256,
        [step.model_dump(mode="json") for step in study.active],
        study.follow_up.model_dump(mode="json"),
    )


def statement_hash(*statements: BaseModel | list[Any]) -> str:
    """Hash of the statements that a result follows from."""
    return _hash(
        *(s.model_dump(mode="json") if isinstance(s, BaseModel) else s for s in statements)
    )


def find_current(db: Db, study: UUID, stage: Stage, cohort: str, statement: str) -> Any | None:
    """The kept result's body, if it came from just these and from this program."""
    row = db.execute(
        query("find_current_result"),
        {
            "id": study,
            "stage": stage,
            "cohort_hash": cohort,
            "statement_hash": statement,
            "program": PROGRAM,
        },
    ).fetchone()
    return None if row is None else row["body"]


def keep(
    db: Db,
    study: UUID,
    stage: Stage,
    cohort: str,
    statement: str,
    headline: str,
    mark: str,
    body: dict[str, Any],
) -> None:
    """Keep the last result of a stage."""
    db.execute(
        query("put_result"),
        {
            "id": study,
            "stage": stage,
            "cohort_hash": cohort,
            "statement_hash": statement,
            "headline": headline,
            "mark": mark,
            "body": Jsonb(body),
            "program": PROGRAM,
        },
    )


def headlines(db: Db, study: UUID) -> dict[Stage, Headline]:
    """The last result of every stage, in a line."""
    rows = db.execute(query("find_headlines"), {"id": study})
    return {row["stage"]: Headline(**row) for row in rows}


def _hash(*parts: object) -> str:
    text = json.dumps(parts, sort_keys=True, separators=(",", ":"), ensure_ascii=False)
    return hashlib.sha256(text.encode()).hexdigest()
