"""The demo studies: files and decisions of the ``demo`` folder, loaded like anybody's own."""

import json
from dataclasses import replace
from datetime import UTC, datetime
from functools import cache
from pathlib import Path
from threading import Lock
from typing import Any
from uuid import UUID

from pydantic import TypeAdapter

from hourglass.analysis.prepare.sentence import follow_up_sentence
from hourglass.analysis.registry import STAGES
from hourglass.analysis.shared.changed_words import changed_slots
from hourglass.analysis.shared.stage import stage_of
from hourglass.cohort.findings.find import find
from hourglass.cohort.findings.finding import steps_for
from hourglass.cohort.reading.packed import PackedReading, packed
from hourglass.cohort.reading.read import read
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.apply import apply_steps
from hourglass.cohort.steps.document import PlannedStep
from hourglass.cohort.table import Table
from hourglass.core.errors import HourglassError
from hourglass.study.changing import decide, follow, take_step
from hourglass.study.duplicating import Copying
from hourglass.study.history import ARRANGED, NewDecision
from hourglass.study.in_memory import BytesInMemory, InMemory
from hourglass.study.keeping import Bytes, Keeping, NewFile
from hourglass.study.plans.applying import attach_as_planned
from hourglass.study.study import PREPARE, Analysis, Study

STEPS = TypeAdapter(tuple[PlannedStep, ...])
FOLDER = Path(__file__).parents[3] / "demo"


_composing = Lock()
"""Held while a demo is composed: many who ask for it at once wait for one that is."""


class NoSuchDemoError(HourglassError):
    """There is no demo of that name."""


def demos() -> dict[str, dict[str, Any]]:
    """Demo definitions by key, in the order they are offered."""
    found = {p.stem: json.loads(p.read_text(encoding="utf-8")) for p in FOLDER.glob("*.json")}
    return dict(sorted(found.items(), key=lambda item: item[1]["order"]))


def demo_steps(demo: dict[str, Any]) -> tuple[PlannedStep, ...]:
    """The steps of a demo that no finding asks for, with their reasons."""
    return STEPS.validate_python(demo.get("steps", []))


def load_missing_demos(keeping: Keeping, kept: Bytes) -> list[str]:
    """Load each demo that was never loaded; returns the names of their studies."""
    loaded = []
    for key in sorted(demos().keys() - keeping.demos_loaded(), key=list(demos()).index):
        loaded.append(load_demo(keeping, kept, key)[1])
        keeping.note_demo(key)
    return loaded


def load_demo(keeping: Keeping, kept: Bytes, key: str) -> tuple[UUID, str]:
    """Create a study from a demo, whole or not at all.

    Raises:
        NoSuchDemoError: when there is no such demo.
    """
    if key not in demos():
        raise NoSuchDemoError(f"There is no demo called “{key}”.")
    with _composing:
        made, held, files = _composed(key)
    for export in made.exports:
        for name in (export.sha256, export.table_sha256):
            kept.put(files.get(name))
    today = tuple(replace(export, read_at=datetime.now(UTC)) for export in made.exports)
    # Composed before the transaction begins: a connection is held for statements only.
    with keeping.transaction() as inside:
        begun = inside.load(inside.create(made.name, key))
        copy = Copying(inside, replace(made, exports=today), begun)
        for decision in made.decisions:
            copy.take(decision, held.decided_at(made.id, decision.id))
    return copy.made.id, copy.made.name


@cache
def _composed(key: str) -> tuple[Study, InMemory, BytesInMemory]:
    """A demo as it is each time: its study, and where it is kept."""
    demo, held, files = demos()[key], InMemory(), BytesInMemory()
    data = (FOLDER / demo["file"]).read_bytes()
    study = held.load(held.create(demo["name"], key))
    study, table = keep_file(held, files, study, demo["file"], data)
    if "follow_up" in demo:
        statement = FollowUpStatement.model_validate(demo["follow_up"])
        words = changed_slots(
            follow_up_sentence(table, study.follow_up), follow_up_sentence(table, statement)
        )
        study = follow(held, study, statement, table, words)
    for decision in demo.get("decisions", []):
        study = _decide(held, study, table, decision)
    for planned in demo_steps(demo):
        study = take_step(held, study, "taken", planned.step, planned.reason)
    if "statements" in demo:
        study = _state(held, study, demo["statements"])
    return study, held, files


def keep_file(
    keeping: Keeping, kept: Bytes, study: Study, name: str, data: bytes
) -> tuple[Study, Table]:
    """Read a file and attach it to a study: the bytes first, then the rows that say they are whole.

    Raises:
        UnreadableFileError: when it cannot be read; nothing is recorded then.
    """
    reading = read(data)
    file = kept_file(kept, name, data, packed(reading))
    return attach_as_planned(keeping, study, file), reading.table


def kept_file(
    kept: Bytes, name: str, data: bytes, reading: PackedReading, sha256: str = ""
) -> NewFile:
    """Keep the bytes of a file that was read, and its table.

    Args:
        sha256: of the bytes, where they are kept already.
    """
    return NewFile(
        name=name,
        sha256=sha256 or kept.put(data),
        table_sha256=kept.put(reading.table),
        size=len(data),
        reading=reading,
    )


def _decide(keeping: Keeping, study: Study, table: Table, decision: dict[str, str]) -> Study:
    after, _ = apply_steps(table, study.active)
    found = find(after, study.follow_up)
    finding = next(f for f in found if f.key.startswith(decision["finding"]))
    choice = decision["choice"]
    about = finding.key if choice != "keep" else f"{finding.key}|{finding.rows.size}"
    sentence = f"{finding.title}: {choice}"
    made = NewDecision(
        stage=PREPARE, about=about, choice=choice, sentence=sentence, reason=decision["reason"]
    )
    return decide(keeping, study, made, steps_for(finding, choice))


def _state(keeping: Keeping, study: Study, statements: dict[str, dict[str, Any]]) -> Study:
    """Write the statements of the stages, as one change."""
    decided = study.decided
    for stage, body in statements.items():
        made = keeping.begin_analysis(study.id, stage, begun=False)
        today = stage_of(STAGES, stage).statement.read(body).model_dump(mode="json")
        decided = decided.with_analysis(Analysis(id=made, stage=stage, body=today))
    entry = NewDecision(
        stage=PREPARE,
        about="statements",
        choice=ARRANGED,
        sentence="Statements as the demo has them",
    )
    return keeping.append(study, entry, decided)
