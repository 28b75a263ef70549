"""Studies as the program kept them before decisions were actions: the demos, and one much worked on."""

import gzip
import json
from functools import cache
from pathlib import Path

FOLDER = Path(__file__).parent / "earlier"
KEYS = ("lamps", "larkmoor", "larkmoor_as_received", "trees")


@cache
def earlier(key):
    """The document of a study's archive, of the first version."""
    return json.loads(gzip.decompress((FOLDER / f"{key}.json.gz").read_bytes()))


def put_into(database, key):
    """Put a study into a database of version 9, as the program of then kept it; gives its id."""

    def insert(table, **values):
        names, places = ", ".join(values), ", ".join(["%s"] * len(values))
        given = [json.dumps(v) if isinstance(v, dict | list) else v for v in values.values()]
        database.execute(
            f"insert into {table} ({names}) overriding system value values ({places})", given
        )

    document = earlier(key)
    study = database.execute(
        "insert into studies (name) values (%s) returning id", [document["name"]]
    ).fetchone()["id"]
    for one in document["exports"]:
        insert(
            "exports", id=one["id"], study_id=study, name=one["name"], sha256=one["sha256"],
            table_sha256=one["table_sha256"], size=one["size"], row_count=one["rows"],
            how_read=one["how_read"], recipe=one["recipe"], evidence=one["evidence"],
            sheets=one["sheets"], read_at=one["read_at"],
            accepted_at=one["read_at"] if one["accepted"] else None,
        )  # fmt: skip
    for one in document["analyses"]:
        insert(
            "analyses", id=one["id"], study_id=study, stage=one["stage"], opened=one["opened"],
            begun=one["begun"],
        )  # fmt: skip
    for entry in document["log"]:
        d = dict(entry["decision"])
        assert d.pop("whole")
        withdraws = d.pop("withdraws")
        insert("decisions", study_id=study, withdraws="{}", **d,
               state=entry["decided"])  # fmt: skip
        database.execute("update decisions set withdraws = %s where id = %s", [withdraws, d["id"]])
    for one in document["steps"]:
        insert(
            "step_bodies", id=one["id"], study_id=study, decision_id=one["decision"],
            body=one["step"],
        )  # fmt: skip
    for table in ("exports", "analyses", "decisions", "step_bodies"):
        database.execute(
            f"select setval(pg_get_serial_sequence('{table}', 'id'), max(id)) from {table}"
        )
    last = document["log"][-1]
    database.execute(
        "update studies set revision = %s, export_id = %s where id = %s",
        [last["decision"]["id"], last["decided"]["export"], study],
    )
    return study
