"""The analyses of a study, with the last result of each and of its parts."""

import zlib
from collections.abc import Mapping
from typing import Any
from uuid import UUID

from psycopg.types.json import Jsonb

from hourglass.store.queries import query
from hourglass.store.rows import Db, one
from hourglass.study.keeping import Computed, Headline
from hourglass.study.study import Analysis

PACKED = 1
"""How hard results are pressed: little, since large ones must not take long to keep."""


def analyses(db: Db, study: UUID) -> tuple[Analysis, ...]:
    """All analyses of a study, by stage, in their order."""
    return tuple(
        Analysis(
            row["id"],
            row["stage"],
            row["name"],
            row["position"],
            row["statement"],
            row["needs"],
            row["opened"],
        )
        for row in db.execute(query("find_analyses"), {"id": study})
    )


def add_analysis(db: Db, study: UUID, stage: str, name: str, body: Mapping[str, Any] | None) -> int:
    """Begin an analysis after those of its stage; gives its id."""
    statement = None if body is None else Jsonb(dict(body))
    made = one(db, "add_analysis", id=study, stage=stage, name=name, statement=statement)
    return int(made["id"])


def put_statement(db: Db, analysis: int, body: Mapping[str, Any]) -> None:
    """Replace the statement of an analysis."""
    one(db, "put_statement", analysis=analysis, statement=Jsonb(dict(body)))


def arrange_analysis(
    db: Db, analysis: int, name: str, position: int, needs: Mapping[str, int]
) -> None:
    """What an analysis is called, its place, and what it follows from."""
    needed = Jsonb(dict(needs))
    one(db, "arrange_analysis", analysis=analysis, name=name, position=position, needs=needed)


def remove_analysis(db: Db, analysis: int) -> None:
    """Delete an analysis with its results."""
    one(db, "remove_analysis", analysis=analysis)


def open_analysis(db: Db, analysis: int) -> None:
    """Record that somebody has looked at an analysis."""
    db.execute(query("open_analysis"), {"analysis": analysis})


def find_result(db: Db, analysis: int, part: str, hash: str) -> bytes | None:
    """The kept body of a result, if it came from just this."""
    found = db.execute(
        query("find_result"), {"analysis": analysis, "part": part, "hash": hash}
    ).fetchone()
    return None if found is None else zlib.decompress(found["body"])


def keep_result(db: Db, analysis: int, part: str, hash: str, computed: Computed) -> None:
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
            "drawing": computed.drawing,
        },
    )


def find_drawing(db: Db, study: UUID, key: str) -> bytes | None:
    """The packed drawing of that key, if a result that is kept has it."""
    found = db.execute(query("find_drawing"), {"study": study, "key": key}).fetchone()
    return None if found is None else bytes(found["drawing"])


def figure_settings(db: Db, study: UUID, view: str) -> Mapping[str, Any] | None:
    """How the figure of a view was last printed."""
    found = db.execute(query("find_figure_settings"), {"study": study, "view": view}).fetchone()
    return None if found is None else dict(found["settings"])


def put_figure_settings(db: Db, study: UUID, view: str, settings: Mapping[str, Any]) -> None:
    """Keep how the figure of a view is printed."""
    given = {"study": study, "view": view, "settings": Jsonb(dict(settings))}
    db.execute(query("put_figure_settings"), given)


def headlines(db: Db, study: UUID) -> dict[int, Headline]:
    """The last result of every analysis, in a line."""
    return {
        row["analysis_id"]: Headline(row["hash"], row["headline"], row["mark"], row["drawing_key"])
        for row in db.execute(query("find_headlines"), {"id": study})
    }
