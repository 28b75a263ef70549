"""The analyses of a study, with the last result of each and of its parts."""

import zlib
from uuid import UUID

from psycopg.types.json import Jsonb

from hourglass.store.queries import query
from hourglass.store.rows import Db, one
from hourglass.study.keeping import Computed, Headline
from hourglass.study.study import Analysis

PACKED = 1
"""How hard results are pressed: little, since large ones must not take long to keep."""


def analyses(db: Db, study: UUID) -> tuple[Analysis, ...]:
    """The places there are for results, oldest first."""
    return tuple(Analysis(**row) for row in db.execute(query("find_analyses"), {"id": study}))


def begin_analysis(db: Db, study: UUID, stage: str, begun: bool) -> int:
    """A place for the results of a further analysis; gives its id."""
    return int(one(db, "begin_analysis", id=study, stage=stage, begun=begun)["id"])


def open_analysis(db: Db, analysis: int) -> None:
    """Record that somebody has looked at an analysis."""
    db.execute(query("open_analysis"), {"analysis": analysis})


def find_result(db: Db, analysis: int, part: str, hash: str) -> bytes | None:
    """The kept body of a result, if it came from just this."""
    found = db.execute(
        query("find_result"), {"analysis": analysis, "part": part, "hash": hash}
    ).fetchone()
    return None if found is None else zlib.decompress(found["body"])


def keep_result(
    db: Db, analysis: int, part: str, hash: str, computed: Computed, revision: int
) -> None:
    """Keep the last result of an analysis, or of a part of it; one that is gone keeps none."""
    db.execute(
        query("put_result"),
        {
            "analysis": analysis,
            "part": part,
            "hash": hash,
            "headline": computed.headline,
            "mark": computed.mark,
            "body": zlib.compress(computed.body, PACKED),
            "drawing_key": computed.drawing_key,
            "thumbnail": None
            if computed.thumbnail is None
            else Jsonb(computed.thumbnail.model_dump(mode="json")),
            "revision": revision,
        },
    )


def has_drawing(db: Db, study: UUID, key: str) -> bool:
    """Whether a result of the study that is kept has the drawing of that key."""
    found = db.execute(query("has_drawing"), {"study": study, "key": key}).fetchone()
    return found is not None


def drawings(db: Db) -> set[str]:
    """The keys of the drawings of all results."""
    return {row["drawing_key"] for row in db.execute(query("find_drawings"))}


def forget_result(db: Db, study: UUID, drawing: str) -> None:
    """Take the results with a drawing that is lost for out of date."""
    db.execute(query("forget_result"), {"study": study, "key": drawing})


def headlines(db: Db, study: UUID) -> dict[int, Headline]:
    """The last result of every analysis, in a line."""
    return {
        row["analysis_id"]: Headline(row["hash"], row["headline"], row["mark"], row["drawing_key"])
        for row in db.execute(query("find_headlines"), {"id": study})
    }
