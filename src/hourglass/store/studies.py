"""Reading and writing studies."""

from datetime import datetime
from uuid import UUID

from hourglass.store.analyses import analyses, begin_analysis
from hourglass.store.extracts import extracts
from hourglass.store.history import decisions, log, snapshot_at
from hourglass.store.queries import query
from hourglass.store.rows import Db, one, snapshot
from hourglass.study.actions.action import PREPARE
from hourglass.study.actions.turns import StudyBegun
from hourglass.study.history import NewDecision
from hourglass.study.study import ResultLine, Study, StudyLine, StudySnapshot


def create_study(db: Db, name: str, demo: str | None = None, at: datetime | None = None) -> UUID:
    """Begin a study without a file, at a moment or now."""
    with db.transaction():
        made = UUID(str(one(db, "create_study", name=name, demo=demo)["id"]))
        begin_analysis(db, made, PREPARE, begun=False)
        entry = NewDecision(action=StudyBegun(name=name))
        log(db, made, entry, StudySnapshot(name=name), seen=0, at=at)
    return made


def list_studies(db: Db) -> list[StudyLine]:
    """All studies, oldest first."""
    return [
        StudyLine(
            id=r["id"],
            name=r["name"],
            demo=r["demo"],
            created_at=r["created_at"],
            revision=r["revision"],
            file_name=r["file_name"],
            rows=r["row_count"],
            results=tuple(ResultLine(**one) for one in r["results"]),
        )
        for r in db.execute(query("list_studies"))
    ]


def demos_loaded(db: Db) -> set[str]:
    """The demos that were ever loaded."""
    return {row["demo"] for row in db.execute(query("demos_loaded"))}


def note_demo(db: Db, demo: str) -> None:
    """Remember that a demo was loaded."""
    db.execute(query("note_demo"), {"demo": demo})


def purge_studies(db: Db) -> None:
    """Delete for good what was deleted some days ago."""
    db.execute(query("purge_studies"))


def load_study(db: Db, study: UUID) -> Study:
    """Read a study as it is at one moment.

    Raises:
        NoSuchStudyError: when there is none.
    """
    with snapshot(db) as settled:
        head = one(db, "find_study", id=study)
        return Study(
            id=head["id"],
            demo=head["demo"],
            extracts=extracts(db, study),
            looked_at=analyses(db, study),
            snapshot=snapshot_at(db, study, head["revision"]),
            decisions=decisions(db, study, head["revision"], settled=settled),
        )
