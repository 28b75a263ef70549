"""Reading and writing studies: each function is one transaction's worth of work."""

import json
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from psycopg.types.json import Jsonb
from pydantic import TypeAdapter

from hourglass.analysis.statements import Stage, Statement
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.apply import Step
from hourglass.cohort.steps.plan import PlacedStep
from hourglass.store.cuts import Cut, FileAlreadyReadError, NewFile, add_cut, cuts
from hourglass.store.queries import query
from hourglass.store.rows import Db, one
from hourglass.store.steps import placed_steps, revise

STATEMENT: TypeAdapter[Statement] = TypeAdapter(Statement)


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
    """All that is kept of a study besides its bytes and results.

    ``file`` is the current cut, ``steps`` are those of it, switched off ones included.
    """

    id: UUID
    name: str
    demo: str | None
    file: Cut | None
    cuts: tuple[Cut, ...]
    follow_up: FollowUpStatement
    statements: dict[Stage, Statement]
    steps: tuple[PlacedStep, ...]
    decisions: tuple[Decision, ...]
    opened: frozenset[Stage]

    @property
    def asked(self) -> frozenset[Stage]:
        """Stages that somebody opened, or whose statement somebody wrote; a check asks for its model."""
        own = self.opened | set(self.statements)
        return own | {"model"} if "check" in own else frozenset(own)

    @property
    def standing(self) -> tuple[Decision, ...]:
        """Decisions that have not been withdrawn."""
        return tuple(d for d in self.decisions if d.withdrawn_at is None)

    @property
    def active(self) -> tuple[Step, ...]:
        """The steps that are switched on."""
        return tuple(placed.step for placed in self.steps if placed.active)

    @property
    def waiting(self) -> Cut | None:
        """The new cut that waits to be accepted."""
        return next((cut for cut in self.cuts if not cut.accepted), None)


def create_study(db: Db, name: str, demo: str | None = None) -> UUID:
    """Begin a study without a file."""
    return UUID(str(one(db, "create_study", name=name, demo=demo)["id"]))


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
    one(db, "rename_study", id=study, name=name)


def delete_study(db: Db, study: UUID) -> None:
    """Delete a study with everything that belongs to it."""
    one(db, "delete_study", id=study)


def load_study(db: Db, study: UUID) -> Study:
    """Read a study.

    Raises:
        NoSuchStudyError: when there is none.
    """
    with db.transaction():
        head = one(db, "find_study", id=study)
        every = cuts(db, study)
        file = next((cut for cut in every if cut.current), None)
        bodies = {
            r["stage"]: r["body"] for r in db.execute(query("find_statements"), {"id": study})
        }
        steps = () if file is None else placed_steps(db, file.id)
        decisions = [Decision(**r) for r in db.execute(query("find_decisions"), {"id": study})]
        opened = frozenset(r["stage"] for r in db.execute(query("find_opened"), {"id": study}))
    follow_up = FollowUpStatement.model_validate(bodies.pop("prepare", {}))
    statements = {
        stage: STATEMENT.validate_json(json.dumps(body)) for stage, body in bodies.items()
    }
    return Study(
        head["id"],
        head["name"],
        head["demo"],
        file,
        every,
        follow_up,
        statements,
        steps,
        tuple(decisions),
        opened,
    )


def attach_file(db: Db, study: UUID, file: NewFile) -> None:
    """Record a study's first file, its columns and proposed statement: all of it, or nothing.

    Raises:
        NoSuchStudyError, FileAlreadyReadError.
    """
    with db.transaction():
        one(db, "lock_study", id=study)
        if any(cut.accepted for cut in cuts(db, study)):
            raise FileAlreadyReadError("This study has its file already. Start a new study.")
        add_cut(db, study, file, accepted=True)
        put_statement(db, study, "prepare", file.reading.proposal)


def put_statement(
    db: Db, study: UUID, stage: Stage, statement: FollowUpStatement | Statement
) -> None:
    """Replace the statement of a stage."""
    body = Jsonb(statement.model_dump(mode="json"))
    db.execute(query("put_statement"), {"id": study, "stage": stage, "body": body})


def open_stage(db: Db, study: UUID, stage: Stage) -> None:
    """Keep that somebody has opened a stage."""
    db.execute(query("open_stage"), {"id": study, "stage": stage})


def decide(
    db: Db,
    study: UUID,
    stage: Stage,
    about: str,
    choice: str,
    sentence: str,
    reason: str,
    steps: Sequence[Step] = (),
    instead_of: int | None = None,
) -> int:
    """Log a decision together with the steps that carry it out.

    Args:
        instead_of: the id of a step that the (one) new step takes the place of.
    """
    with db.transaction():
        one(db, "lock_study", id=study)
        row = one(
            db,
            "add_decision",
            id=study,
            stage=stage,
            about=about,
            choice=choice,
            sentence=sentence,
            reason=reason,
        )
        decision = int(row["id"])
        if steps:
            file = load_study(db, study).file
            assert file is not None
            new = [PlacedStep(step=step, decision=decision) for step in steps]
            there = list(placed_steps(db, file.id))
            places = [k for k, placed in enumerate(there) if placed.id == instead_of]
            if places:
                new = [new[0].model_copy(update={"active": there[places[0]].active})]
                there[places[0] : places[0] + 1] = new
            else:
                there += new
            revise(db, file.id, sentence, there)
    return decision


def withdraw(db: Db, study: UUID, decision: int) -> None:
    """Take a decision back, with its steps; the log keeps it, marked as withdrawn.

    Raises:
        NoSuchStudyError: when there is no such standing decision in the study.
    """
    with db.transaction():
        one(db, "withdraw_decision", id=study, decision=decision)
        file = load_study(db, study).file
        if file is None:
            return
        there = placed_steps(db, file.id)
        left = [placed for placed in there if placed.decision != decision]
        if len(left) < len(there):
            revise(db, file.id, "a decision withdrawn", left)
