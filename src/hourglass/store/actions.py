"""The actions of entries that an earlier program has kept, found once."""

from typing import Any

from psycopg import Connection
from psycopg.rows import dict_row
from psycopg.types.json import Jsonb

from hourglass.store.extracts import extracts
from hourglass.store.history import read_snapshot
from hourglass.store.queries import query
from hourglass.store.rows import Row
from hourglass.study.actions.union import Action
from hourglass.study.actions.upgrading import EarlierEntry, action_of, unknown_action
from hourglass.study.study import StudySnapshot


def find_actions(connection: Connection[Any]) -> None:
    """Give every entry of every log its action."""
    with connection.cursor(row_factory=dict_row) as cursor:
        studies = cursor.execute(query("every_study")).fetchall()
    for study in studies:
        _find_actions_of(connection, study)


def _find_actions_of(connection: Connection[Any], study: Row) -> None:
    with connection.cursor(row_factory=dict_row) as cursor:
        entries = cursor.execute(query("earlier_decisions"), {"id": study["id"]}).fetchall()
        known_extracts = {extract.id: extract for extract in extracts(cursor, study["id"])}
        before: StudySnapshot | None = None
        found: dict[int, Action] = {}
        for row in entries:
            old = EarlierEntry(
                stage=row["stage"],
                about=row["about"],
                choice=row["choice"],
                sentence=row["sentence"],
                before=row["before"],
                after=row["after"],
                undoes=row["undoes"],
                redoes=row["redoes"],
                withdraws=tuple(row["withdraws"]),
            )
            if row["state"] is None:
                action: Action = unknown_action(old)
            else:
                now = read_snapshot(cursor, row)
                action = action_of(old, before, now, known_extracts, found)
                before = now
            found[row["id"]] = action
            given = {"id": row["id"], "action": Jsonb(action.model_dump(mode="json"))}
            cursor.execute(query("put_action"), given)
