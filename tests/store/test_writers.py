"""Several writers at once: what was acknowledged is there, and each was made from what it saw."""

from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager, nullcontext, suppress

import psycopg
from psycopg.rows import dict_row

from hourglass.store import studies
from hourglass.store.postgres import Postgres
from hourglass.study.commands.whole import rename
from hourglass.study.history import Decision
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
    repository = kept_in(database)
    study = repository.create("0")

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
    now = repository.load(study)
    assert int(now.name) == len(made) == len(set(made))
    assert {d.id for d in now.decisions} >= set(made)
    assert len(made) >= TIMES, "of those who write at the same time one is heard"


def test_a_study_is_read_as_it_is_at_one_moment(database, monkeypatch):
    repository = kept_in(database)
    study = repository.create("before")
    seen = repository.load(study)
    read = studies.snapshot_at

    def meanwhile(db, which, revision):
        monkeypatch.setattr(studies, "snapshot_at", read)
        rename(repository, seen, "after")  # between two statements of the reader
        return read(db, which, revision)

    monkeypatch.setattr(studies, "snapshot_at", meanwhile)
    found = repository.load(study)
    assert (found.name, found.revision) == ("before", seen.revision)
    assert repository.load(study).name == "after"


def never(repository, study):
    """A change that is taken back, as it was seen before."""
    with suppress(ZeroDivisionError), repository.transaction() as inside:
        taken_back = rename(inside, study, "never")
        assert inside.load(study.id).decisions[-1].id == taken_back.revision
        raise ZeroDivisionError
    return taken_back


def test_a_log_is_read_once_and_what_was_taken_back_is_forgotten(db, monkeypatch):
    repository = Postgres(lambda: nullcontext(db))
    study = repository.load(repository.create("A study"))
    for k in range(20):
        study = rename(repository, study, f"name {k}")
    repository.load(study.id)
    read = []

    class Counted(Decision):
        def __init__(self, **given):
            read.append(given["id"])
            super().__init__(**given)

    monkeypatch.setattr("hourglass.store.history.Decision", Counted)
    assert len(repository.load(study.id).decisions) == 21
    assert read == []
    taken_back = never(repository, study)
    study = rename(repository, repository.load(study.id), "the last")
    assert [d.id for d in repository.load(study.id).decisions][-2:] == [
        study.decisions[-2].id, study.revision,
    ]  # fmt: skip
    assert taken_back.revision not in [d.id for d in study.decisions]
