"""The demo studies: files and decisions of the ``demo`` folder, loaded like anybody's own."""

import json
from dataclasses import replace
from datetime import UTC, datetime
from functools import cache
from threading import Lock
from typing import Any
from uuid import UUID

from pydantic import TypeAdapter

from hourglass.analysis.registry import STAGES
from hourglass.analysis.shared.stage import stage_of
from hourglass.cohort.reading.packed import packed
from hourglass.cohort.reading.read import read
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.document import PlannedStep
from hourglass.cohort.table import Table
from hourglass.core.errors import HourglassError
from hourglass.study.actions.statements import StatementsGiven
from hourglass.study.commands.files import kept_file
from hourglass.study.commands.follow_up import Choice, decide_finding, follow
from hourglass.study.commands.steps import put_step
from hourglass.study.duplicating import Copying
from hourglass.study.findings import findings_of
from hourglass.study.history import NewDecision
from hourglass.study.in_memory import BlobsInMemory, InMemory
from hourglass.study.place import DEMO
from hourglass.study.plans.applying import attach_as_planned
from hourglass.study.plans.document import applied_plan
from hourglass.study.plans.steps import steps_for_file
from hourglass.study.repository import BlobStore, StudyRepository
from hourglass.study.source import Source, source_of
from hourglass.study.study import Analysis, Study

STEPS = TypeAdapter(tuple[PlannedStep, ...])


_composing = Lock()
"""Held while a demo is composed: many who ask for it at once wait for one that is."""


class NoSuchDemoError(HourglassError):
    """There is no demo of that name."""


def demos() -> dict[str, dict[str, Any]]:
    """Demo definitions by key, in the order they are offered."""
    found = {p.stem: json.loads(p.read_text(encoding="utf-8")) for p in DEMO.glob("*.json")}
    return dict(sorted(found.items(), key=lambda item: item[1]["order"]))


def demo_steps(demo: dict[str, Any]) -> tuple[PlannedStep, ...]:
    """The steps of a demo that no finding requests, with their reasons."""
    return STEPS.validate_python(demo.get("steps", []))


def load_missing_demos(repository: StudyRepository, blobs: BlobStore) -> list[str]:
    """Load each demo that was never loaded; returns the names of their studies."""
    loaded = []
    for key in sorted(demos().keys() - repository.demos_loaded(), key=list(demos()).index):
        loaded.append(load_demo(repository, blobs, key)[1])
        repository.note_demo(key)
    return loaded


def load_demo(repository: StudyRepository, blobs: BlobStore, key: str) -> tuple[UUID, str]:
    """Create a study from a demo, whole or not at all.

    Raises:
        NoSuchDemoError: when there is no such demo.
    """
    if key not in demos():
        raise NoSuchDemoError(f"There is no demo called “{key}”.")
    with _composing:
        made, held, files = _composed(key)
    for extract in made.extracts:
        for name in (extract.sha256, extract.table_sha256):
            blobs.put(files.get(name))
    today = tuple(replace(extract, read_at=datetime.now(UTC)) for extract in made.extracts)
    # Composed before the transaction begins: a connection is held for statements only.
    with repository.transaction() as inside:
        begun = inside.load(inside.create(made.name, key))
        copy = Copying(inside, replace(made, extracts=today), begun)
        for decision in made.decisions:
            copy.take(decision, held.snapshot_at(made.id, decision.id))
    return copy.made.id, copy.made.name


@cache
def _composed(key: str) -> tuple[Study, InMemory, BlobsInMemory]:
    """A demo as it is each time: its study, and where it is kept."""
    demo, held, files = demos()[key], InMemory(), BlobsInMemory()
    data = (DEMO / demo["file"]).read_bytes()
    study = held.load(held.create(demo["name"], key))
    study, table = keep_file(held, files, study, demo["file"], data)
    if "follow_up" in demo:
        statement = FollowUpStatement.model_validate(demo["follow_up"])
        study = follow(held, study, statement, table)
    for decision in demo.get("decisions", []):
        study = _decide(held, study, source_of(study, files), decision)
    for planned in demo_steps(demo):
        study = put_step(held, study, planned.step, planned.reason)
    if "statements" in demo:
        study = _state(held, study, demo["statements"])
    return study, held, files


def keep_file(
    repository: StudyRepository, blobs: BlobStore, study: Study, name: str, data: bytes
) -> tuple[Study, Table]:
    """Read a file and attach it to a study: the bytes first, then the rows that list them.

    Raises:
        UnreadableFileError: when it cannot be read; nothing is recorded then.
    """
    reading = read(data)
    file = kept_file(blobs, name, data, packed(reading))
    plan = applied_plan(study)
    steps = None if plan is None else steps_for_file(plan, file.sha256, reading.table)
    return attach_as_planned(repository, study, file, steps), reading.table


def _decide(
    repository: StudyRepository, study: Study, source: Source, decision: dict[str, str]
) -> Study:
    """Decide about the first finding whose key begins as the demo has it."""
    assert study.file is not None
    found = findings_of(source, study.file.read_at.date())
    finding = next(f for f in found if f.key.startswith(decision["finding"]))
    chosen = Choice(finding.key, decision["choice"], decision["reason"])
    return decide_finding(repository, study, source, chosen)


def _state(
    repository: StudyRepository, study: Study, statements: dict[str, dict[str, Any]]
) -> Study:
    """Write the statements of the stages, as one change."""
    snapshot = study.snapshot
    for stage, body in statements.items():
        made = repository.begin_analysis(study.id, stage, begun=False)
        today = stage_of(STAGES, stage).statement.read(body).model_dump(mode="json")
        snapshot = snapshot.with_analysis(Analysis(id=made, stage=stage, body=today))
    given = {a.stage: dict(a.body or {}) for a in snapshot.analyses if a.stage in statements}
    entry = NewDecision(action=StatementsGiven(after=given))
    return repository.append(study, entry, snapshot)
