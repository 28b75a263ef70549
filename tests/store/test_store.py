"""Migrations and bytes; what is kept of a study is tested beside the protocol, in tests/study."""

import errno
import io
import os
from contextlib import nullcontext

import psycopg
import pytest

from hourglass.store import migrate as migrations
from hourglass.store.blobs import Blobs, MissingBlobError
from hourglass.store.collecting import collect, named_files
from hourglass.store.postgres import Postgres
from hourglass.study.demos import keep_file


@pytest.fixture
def blobs(tmp_path):
    return Blobs(tmp_path / "files")


class TestMigrations:
    def test_migrating_twice_changes_nothing(self, database):
        with psycopg.connect(database, autocommit=True) as connection:
            before = migrations.version(connection)
            assert migrations.migrate(connection) == before == migrations.migrations()[-1][0]

    def test_numbers_follow_each_other(self):
        numbers = [n for n, _, _ in migrations.migrations()]
        assert numbers == list(range(1, len(numbers) + 1))

    def test_a_newer_database_is_refused(self, database):
        with psycopg.connect(database, autocommit=True) as connection:
            connection.execute("insert into migrations (number, name) values (9999, 'later')")
            try:
                with pytest.raises(migrations.NewerDatabaseError, match="9999"):
                    migrations.migrate(connection)
            finally:
                connection.execute("delete from migrations where number = 9999")

    def test_a_migration_that_fails_leaves_nothing_behind(self, database, monkeypatch):
        broken = [
            *migrations.migrations(),
            (99, "0099_broken.sql", "create table half (a int); nonsense"),
        ]
        monkeypatch.setattr(migrations, "migrations", lambda: broken)
        with psycopg.connect(database, autocommit=True) as connection:
            with pytest.raises(psycopg.errors.SyntaxError):
                migrations.migrate(connection)
            assert migrations.version(connection) == migrations.migrations()[-2][0]
            half = connection.execute("select to_regclass('half')").fetchone()
            assert half == (None,)


class TestBlobs:
    def test_bytes_come_back_and_are_kept_once(self, blobs, tmp_path):
        name = blobs.put(b"some bytes")
        assert blobs.put(b"some bytes") == name
        assert blobs.get(name) == b"some bytes"
        assert sum(p.is_file() for p in (tmp_path / "files").rglob("*")) == 1

    def test_damage_and_loss_are_noticed(self, blobs, tmp_path):
        name = blobs.put(b"some bytes")
        path = tmp_path / "files" / name[:2] / name
        path.write_bytes(b"same bytes")  # as long, and another
        with pytest.raises(MissingBlobError, match="damaged"):
            blobs.get(name)
        assert blobs.put(b"some bytes") == name
        assert blobs.get(name) == b"some bytes", "putting it again mends it"
        path.unlink()
        with pytest.raises(MissingBlobError, match="not on the disk"):
            blobs.get(name)

    def test_a_disk_that_fills_up_leaves_nothing_half_written(self, blobs, tmp_path, monkeypatch):
        def full(handle):
            raise OSError(errno.ENOSPC, "No space left on device")

        monkeypatch.setattr(os, "fsync", full)
        with pytest.raises(OSError, match="No space"):
            blobs.put(b"some bytes")
        with pytest.raises(OSError, match="No space"), blobs.staged() as staging:
            staging.add(io.BytesIO(b"others"))
        assert [p for p in (tmp_path / "files").rglob("*") if p.is_file()] == []

    def test_what_no_row_names_is_collected_once_it_has_lain(self, blobs, tmp_path, db):
        folder = tmp_path / "files"
        repository = Postgres(lambda: nullcontext(db))
        kept, deleted = repository.create("kept"), repository.create("deleted")
        for study, text in ((kept, b"t,s\n1,1\n2,0\n"), (deleted, b"t,s\n3,1\n4,0\n")):
            keep_file(repository, blobs, repository.load(study), "rows.csv", text)
        blobs.put(b"the bytes of an upload that was refused")
        (folder / "half-written").write_bytes(b"ha")
        (folder / "staged-broken-off").mkdir()
        numbers = blobs.put_numbers(b"some numbers")
        repository.delete(repository.load(deleted))
        assert collect(db, blobs, 60) == 0, "all of it may be wanted yet"
        assert collect(db, blobs, -1) == 3, "the deleted study can still be brought back"
        db.execute(
            "update studies set deleted_at = now() - interval '8 days' where id = %s", [deleted]
        )
        assert collect(db, blobs, -1) == 2
        assert set(blobs.names()) == named_files(db)
        assert blobs.get(repository.load(kept).file.sha256).startswith(b"t,s\n1,1")
        assert blobs.numbers(numbers) == b"some numbers"

    def test_files_of_another_database_are_left_alone(self, blobs, db):
        theirs = blobs.put(b"a file of a study in another database")
        assert collect(db, blobs, -1) == 0, "nothing of it is named here, so whose is it?"
        assert blobs.belong_to("another", [theirs])
        repository = Postgres(lambda: nullcontext(db))
        keep_file(
            repository, blobs, repository.load(repository.create("a")), "r.csv", b"t,s\n5,1\n6,0\n"
        )
        assert collect(db, blobs, -1) == 0
        assert theirs in blobs.names()


def test_the_tests_use_a_real_server_of_our_own():
    assert "127.0.0.1" in os.environ["HOURGLASS_TEST_DATABASE"]
