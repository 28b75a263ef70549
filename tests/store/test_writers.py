"""Several writers at once: what was acknowledged is there, and each was made from what it saw."""

from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager, nullcontext

import psycopg
from psycopg.rows import dict_row

from hourglass.store import studies
from hourglass.store.postgres import Postgres
from hourglass.study.changing import rename
from hourglass.study.study import StaleError

WRITERS, TIMES = 4, 60


def kept_in(database):
    """Studies kept in a database, a connection for each piece of work."""

    @contextmanager
    def connect():
        with psycopg.connect(database, autocommit=True, row_factory=dict_row) as db:
            yield db

    return Postgres(connect)


def test_no_acknowledged_change_is_lost_between_several_writers(database):
    keeping = kept_in(database)
    study = keeping.create("0")

    def count(_):
        made = []
        with psycopg.connect(database, autocommit=True, row_factory=dict_row) as own:
            here = Postgres(lambda: nullcontext(own))
            for _ in range(TIMES):
                seen = here.load(study)
                try:
                    after = rename(here, seen, str(int(seen.name) + 1))
                except StaleError:
                    continue
                assert after.name == str(int(seen.name) + 1), "what comes back is what was made"
                assert after.decisions[: len(seen.decisions)] == seen.decisions
                assert len(after.decisions) == len(seen.decisions) + 1
                made.append(after.revision)
        return made

    with ThreadPoolExecutor(WRITERS) as threads:
        made = [revision for one in threads.map(count, range(WRITERS)) for revision in one]
    now = keeping.load(study)
    assert int(now.name) == len(made) == len(set(made))
    assert {d.id for d in now.decisions} >= set(made)
    assert len(made) >= TIMES, "of those who write at the same time one is heard"


def test_a_study_is_read_as_it_is_at_one_moment(database, monkeypatch):
    keeping = kept_in(database)
    study = keeping.create("before")
    seen = keeping.load(study)
    read = studies.decided_at

    def meanwhile(db, which, revision):
        monkeypatch.setattr(studies, "decided_at", read)
        rename(keeping, seen, "after")  # between two statements of the reader
        return read(db, which, revision)

    monkeypatch.setattr(studies, "decided_at", meanwhile)
    found = keeping.load(study)
    assert (found.name, found.revision) == ("before", seen.revision)
    assert keeping.load(study).name == "after"
