"""The log of a study, with what was decided at each of its entries."""

from dataclasses import replace
from datetime import datetime
from uuid import UUID

from psycopg.types.json import Jsonb

from hourglass.cohort.steps.document import PlacedStep
from hourglass.core.errors import HourglassError
from hourglass.store.queries import query
from hourglass.store.rows import Db, Reads, Row, one
from hourglass.study.actions.union import ACTIONS
from hourglass.study.history import Decision, NewDecision
from hourglass.study.recent import Recent
from hourglass.study.snapshot_json import from_json, step_ids, to_json
from hourglass.study.study import NoSuchStudyError, StudySnapshot

_logs: Recent[tuple[Decision, ...]] = Recent("logs")


def decisions(db: Db, study: UUID, until: int, *, settled: bool) -> tuple[Decision, ...]:
    """The log up to a revision, oldest first: a later entry belongs to another state of the study.

    An entry never changes, so that only those since the last look are read, however long the log.
    """
    name = f"{db.info.host}:{db.info.port}/{db.info.dbname} {study}"  # another copy has a log of its own
    known = _logs.peek(name) or ()
    since = known[-1].id if known else 0
    rows = db.execute(query("find_decisions"), {"id": study, "since": since, "until": until})
    new = tuple(
        Decision(
            **{
                **row,
                "withdraws": tuple(row["withdraws"]),
                "action": ACTIONS.validate_python(row["action"]),
            }
        )
        for row in rows
    )
    if new and settled:
        _logs.put(name, known + new)
    if since > until:  # an older snapshot than the last
        return tuple(entry for entry in known if entry.id <= until)
    return known + new


class RevisionGoneError(HourglassError):
    """The study has another revision by now."""


def log(
    db: Db,
    study: UUID,
    entry: NewDecision,
    snapshot: StudySnapshot,
    seen: int,
    at: datetime | None = None,
) -> None:
    """Add an entry.

    Args:
        at: when it was decided; now where that is not known.

    Raises:
        RevisionGoneError: when the study has been changed since the revision ``seen``.
    """
    with db.transaction():
        made = int(one(db, "add_decision", id=study, made_at=at, **_fields(entry))["id"])
        placed = tuple(
            step if step.id else _with_body(db, study, step) for step in snapshot.steps_of(made)
        )
        kept = replace(snapshot, steps=placed)
        db.execute(query("keep_decided"), {"decision": made, "state": Jsonb(to_json(kept))})
        given = {"id": study, "revision": made, "seen": seen}
        given |= {"name": snapshot.name, "export": snapshot.extract}
        if db.execute(query("go_to_revision"), given).fetchone() is None:
            raise RevisionGoneError
        if snapshot.extract is not None:
            one(db, "accept_extract", id=study, extract=snapshot.extract)


def snapshot_at(db: Db, study: UUID, decision: int) -> StudySnapshot:
    """All that was decided after an entry."""
    return read_snapshot(db, one(db, "find_decided", id=study, decision=decision))


def last_with_extract(db: Db, study: UUID, extract: int) -> StudySnapshot | None:
    """What was decided when a data extract was last in use."""
    given = {"id": study, "export": str(extract)}
    row = db.execute(query("find_last_with_extract"), given).fetchone()
    return None if row is None else read_snapshot(db, row)


def read_snapshot(db: Reads, row: Row) -> StudySnapshot:
    """What was decided after an entry, as its row has it.

    Raises:
        NoSuchStudyError: when it is not kept whole.
    """
    if row["state"] is None:
        raise NoSuchStudyError("What was decided then is not kept whole.")
    wanted = step_ids(row["state"])
    found = db.execute(query("find_steps"), {"steps": wanted}) if wanted else ()
    steps = {
        r["id"]: PlacedStep.model_validate(
            {"id": r["id"], "step": r["body"], "decision": r["decision_id"]}
        )
        for r in found
    }
    return from_json(row["state"], steps)


def _with_body(db: Db, study: UUID, placed: PlacedStep) -> PlacedStep:
    body = Jsonb(placed.step.model_dump(mode="json"))
    made = one(db, "add_step_body", id=study, decision=placed.decision, body=body)
    return placed.model_copy(update={"id": int(made["id"])})


def _fields(entry: NewDecision) -> dict[str, object]:
    return {
        "action": Jsonb(entry.action.model_dump(mode="json")),
        "reason": entry.reason,
        "actor": entry.actor,
        "undoes": entry.undoes,
        "redoes": entry.redoes,
        "withdraws": list(entry.withdraws),
    }
