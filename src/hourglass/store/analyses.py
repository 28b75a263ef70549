"""The analyses of a study, with the last result of each and of its parts."""

from uuid import UUID

from psycopg.types.json import Jsonb

from hourglass.store.queries import query
from hourglass.store.rows import Db, one
from hourglass.study.repository import Headline, KeptResult
from hourglass.study.study import Analysis


def analyses(db: Db, study: UUID) -> tuple[Analysis, ...]:
    """The places there are for results, oldest first."""
    return tuple(Analysis(**row) for row in db.execute(query("find_analyses"), {"id": study}))


def begin_analysis(db: Db, study: UUID, stage: str, begun: bool) -> int:
    """A place for the results of a further analysis; gives its id."""
    return int(one(db, "begin_analysis", id=study, stage=stage, begun=begun)["id"])


def open_analysis(db: Db, analysis: int) -> None:
    """Record that somebody has looked at an analysis."""
    db.execute(query("open_analysis"), {"analysis": analysis})


def find_numbers(db: Db, analysis: int, part: str, hash: str) -> str | None:
    """The name of the kept numbers of a result, if they came from just this."""
    found = db.execute(
        query("find_numbers"), {"analysis": analysis, "part": part, "hash": hash}
    ).fetchone()
    return None if found is None else str(found["numbers"])


def keep_result(
    db: Db, analysis: int, part: str, hash: str, result: KeptResult, revision: int
) -> None:
    """Keep the last result of an analysis, or of a part of it; one that is gone keeps none."""
    db.execute(
        query("put_result"),
        {
            "analysis": analysis,
            "part": part,
            "hash": hash,
            "headline": result.headline,
            "mark": result.mark,
            "numbers": result.numbers,
            "pictured": result.pictured,
            "thumbnail": None
            if result.thumbnail is None
            else Jsonb(result.thumbnail.model_dump(mode="json")),
            "revision": revision,
        },
    )


def names_of_numbers(db: Db) -> set[str]:
    """The names of the numbers of all results."""
    return {row["numbers"] for row in db.execute(query("names_of_numbers"))}


def headlines(db: Db, study: UUID) -> dict[int, Headline]:
    """The last result of every analysis, in a line."""
    return {
        row["analysis_id"]: Headline(row["hash"], row["headline"], row["mark"], row["pictured"])
        for row in db.execute(query("find_headlines"), {"id": study})
    }
