"""Reading and writing studies."""

from uuid import UUID

from psycopg.types.json import Jsonb

from hourglass.cohort.statement import FollowUpStatement
from hourglass.store.analyses import add_analysis, analyses
from hourglass.store.exports import exports
from hourglass.store.queries import query
from hourglass.store.rows import Db, one
from hourglass.store.steps import placed_steps
from hourglass.study.keeping import NewDecision
from hourglass.study.study import PREPARE, Decision, Study, StudyLine


def create_study(db: Db, name: str, demo: str | None = None) -> UUID:
    """Begin a study without a file."""
    with db.transaction():
        made = UUID(str(one(db, "create_study", name=name, demo=demo)["id"]))
        add_analysis(db, made, PREPARE, "", None)
    return made


def list_studies(db: Db) -> list[StudyLine]:
    """All studies, oldest first."""
    return [
        StudyLine(r["id"], r["name"], r["demo"], r["created_at"], r["file_name"], r["row_count"])
        for r in db.execute(query("list_studies"))
    ]


def known_demos(db: Db) -> set[str]:
    """Keys of the demos that have ever been loaded and are still there."""
    return {r["demo"] for r in db.execute(query("known_demos"))}


def load_study(db: Db, study: UUID) -> Study:
    """Read a study.

    Raises:
        NoSuchStudyError: when there is none.
    """
    with db.transaction():
        head = one(db, "find_study", id=study)
        every = exports(db, study)
        file = next((export for export in every if export.current), None)
        kept = analyses(db, study)
        steps = () if file is None else placed_steps(db, file.id)
        decisions = [Decision(**r) for r in db.execute(query("find_decisions"), {"id": study})]
    follow_up = next((a.body for a in kept if a.stage == PREPARE), None)
    return Study(
        head["id"],
        head["name"],
        head["demo"],
        every,
        FollowUpStatement.model_validate(follow_up or {}),
        kept,
        steps,
        tuple(decisions),
    )


def put_follow_up(db: Db, study: UUID, statement: FollowUpStatement) -> None:
    """Replace the follow-up statement."""
    one(db, "put_follow_up", id=study, statement=Jsonb(statement.model_dump(mode="json")))


def record(db: Db, study: UUID, decision: NewDecision) -> int:
    """Log a decision; gives its id."""
    row = one(
        db,
        "add_decision",
        id=study,
        stage=decision.stage,
        about=decision.about,
        choice=decision.choice,
        sentence=decision.sentence,
        reason=decision.reason,
    )
    return int(row["id"])
