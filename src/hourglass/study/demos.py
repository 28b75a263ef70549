"""The demo studies: files and decisions of the ``demo`` folder, loaded like anybody's own."""

import json
from pathlib import Path
from typing import Any
from uuid import UUID

from pydantic import TypeAdapter

from hourglass.cohort.findings.find import find
from hourglass.cohort.findings.finding import steps_for
from hourglass.cohort.reading.packed import PackedReading, packed
from hourglass.cohort.reading.read import read
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.apply import apply_steps
from hourglass.cohort.steps.plan import PlannedStep
from hourglass.cohort.table import Table
from hourglass.study.changing import attach_file, decide, take_step
from hourglass.study.keeping import Bytes, Keeping, NewDecision, NewFile
from hourglass.study.study import PREPARE

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


def load_missing_demos(keeping: Keeping, kept: Bytes) -> list[str]:
    """Load all demos where there has never been any; returns the names loaded."""
    if any(line.demo for line in keeping.studies()):
        return []
    return [load_demo(keeping, kept, key)[1] for key in demos()]


def load_demo(keeping: Keeping, kept: Bytes, key: str) -> tuple[UUID, str]:
    """Create a study from a demo, whole or not at all.

    Raises:
        NoSuchDemoError: when there is no such demo.
    """
    if key not in demos():
        raise NoSuchDemoError(f"There is no demo called “{key}”.")
    demo = demos()[key]
    data = (FOLDER / demo["file"]).read_bytes()
    with keeping.transaction() as inside:
        study = inside.create(demo["name"], key)
        table = keep_file(inside, kept, study, demo["file"], data)
        if "follow_up" in demo:
            inside.put_follow_up(study, FollowUpStatement.model_validate(demo["follow_up"]))
        for decision in demo.get("decisions", []):
            _decide(inside, study, table, decision)
        for planned in demo_steps(demo):
            take_step(inside, study, "taken", planned.step, planned.reason)
        for stage, body in demo.get("statements", {}).items():
            inside.add_analysis(study, stage, "", body)
    return study, demo["name"]


def keep_file(keeping: Keeping, kept: Bytes, study: UUID, name: str, data: bytes) -> Table:
    """Read a file and attach it to a study: the bytes first, then the rows that say they are whole.

    Raises:
        UnreadableFileError: when it cannot be read; nothing is recorded then.
    """
    reading = read(data)
    attach_file(keeping, study, kept_file(kept, name, data, packed(reading)))
    return reading.table


def kept_file(kept: Bytes, name: str, data: bytes, reading: PackedReading) -> NewFile:
    """Keep the bytes of a file that was read, and its table."""
    return NewFile(
        name=name,
        sha256=kept.put(data),
        table_sha256=kept.put(reading.table),
        size=len(data),
        reading=reading,
    )


def _decide(keeping: Keeping, study: UUID, table: Table, decision: dict[str, str]) -> None:
    so_far = keeping.load(study)
    after, _ = apply_steps(table, so_far.active)
    found = find(after, so_far.follow_up)
    finding = next(f for f in found if f.key.startswith(decision["finding"]))
    choice = decision["choice"]
    about = finding.key if choice != "keep" else f"{finding.key}|{finding.rows.size}"
    sentence = f"{finding.title}: {choice}"
    made = NewDecision(PREPARE, about, choice, sentence, decision["reason"])
    decide(keeping, study, made, steps_for(finding, choice))
