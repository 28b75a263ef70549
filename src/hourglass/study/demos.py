"""The demo studies: files and decisions of the ``demo`` folder, loaded like anybody's own."""

import json
from pathlib import Path
from typing import Any
from uuid import UUID

from pydantic import TypeAdapter

from hourglass.analysis.statements import STAGES
from hourglass.cohort.findings.find import find
from hourglass.cohort.findings.finding import steps_for
from hourglass.cohort.reading.packed import PackedReading, packed
from hourglass.cohort.reading.read import read
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.apply import apply_steps
from hourglass.cohort.steps.plan import PlannedStep
from hourglass.cohort.table import Table
from hourglass.store.blobs import Blobs
from hourglass.store.cuts import NewFile
from hourglass.store.rows import Db
from hourglass.store.studies import (
    STATEMENT,
    attach_file,
    create_study,
    decide,
    known_demos,
    load_study,
    put_statement,
)

STEPS = TypeAdapter(tuple[PlannedStep, ...])
FOLDER = Path(__file__).parents[3] / "demo"


class NoSuchDemoError(LookupError):
    """There is no demo of that name."""


def demos() -> dict[str, dict[str, Any]]:
    """Demo definitions by key, in the order they are offered."""
    found = {p.stem: json.loads(p.read_text(encoding="utf-8")) for p in FOLDER.glob("*.json")}
    return dict(sorted(found.items(), key=lambda item: item[1]["order"]))


def demo_steps(demo: dict[str, Any]) -> tuple[PlannedStep, ...]:
    """The steps of a demo that no finding asks for, with their reasons."""
    return STEPS.validate_python(demo.get("steps", []))


def load_missing_demos(db: Db, blobs: Blobs) -> list[str]:
    """Load all demos into a database that has never had any; returns the names loaded."""
    if known_demos(db):
        return []
    return [load_demo(db, blobs, key)[1] for key in demos()]


def load_demo(db: Db, blobs: Blobs, key: str) -> tuple[UUID, str]:
    """Create a study from a demo, whole or not at all.

    Raises:
        NoSuchDemoError: when there is no such demo.
    """
    if key not in demos():
        raise NoSuchDemoError(f"There is no demo called “{key}”.")
    demo = demos()[key]
    data = (FOLDER / demo["file"]).read_bytes()
    with db.transaction():
        study = create_study(db, demo["name"], key)
        table = keep_file(db, blobs, study, demo["file"], data)
        if "follow_up" in demo:
            follow_up = FollowUpStatement.model_validate(demo["follow_up"])
            put_statement(db, study, "prepare", follow_up)
        for decision in demo.get("decisions", []):
            _decide(db, study, table, decision)
        for planned in demo_steps(demo):
            step = planned.step
            decide(db, study, "prepare", "step", "taken", step.named(), planned.reason, [step])
        for stage in STAGES:
            if stage in demo.get("statements", {}):
                put_statement(
                    db, study, stage, STATEMENT.validate_python(demo["statements"][stage])
                )
    return study, demo["name"]


def keep_file(db: Db, blobs: Blobs, study: UUID, name: str, data: bytes) -> Table:
    """Read a file and attach it to a study: the bytes first, then the rows that say they are whole.

    Raises:
        UnreadableFileError: when it cannot be read; nothing is recorded then.
    """
    reading = read(data)
    attach_file(db, study, kept_file(blobs, name, data, packed(reading)))
    return reading.table


def kept_file(blobs: Blobs, name: str, data: bytes, reading: PackedReading) -> NewFile:
    """Keep the bytes of a file that was read, and its table."""
    return NewFile(
        name=name,
        sha256=blobs.put(data),
        table_sha256=blobs.put(reading.table),
        size=len(data),
        reading=reading,
    )


def _decide(db: Db, study: UUID, table: Table, decision: dict[str, str]) -> None:
    so_far = load_study(db, study)
    after, _ = apply_steps(table, so_far.active)
    found = find(after, so_far.follow_up)
    finding = next(f for f in found if f.key.startswith(decision["finding"]))
    choice = decision["choice"]
    decide(
        db,
        study,
        "prepare",
        finding.key if choice != "keep" else f"{finding.key}|{finding.rows.size}",
        choice,
        f"{finding.title}: {choice}",
        decision["reason"],
        steps_for(finding, choice),
    )
