"""Everything in one file, brought back elsewhere; and what is kept looked through."""

import zipfile
from contextlib import nullcontext
from uuid import uuid4

import psycopg
import pytest
from psycopg import sql

from hourglass.cli.backup import DONE, DUMP, NOT_DONE, back_up, bring_back
from hourglass.cli.doctor import look_through
from hourglass.store.blobs import Blobs
from hourglass.store.postgres import Postgres
from hourglass.study.commands.whole import rename
from hourglass.study.demos import load_demo


@pytest.fixture
def kept(db, database, tmp_path, monkeypatch):
    """A demo in the database and the folder that the command line goes by."""
    monkeypatch.setenv("DATABASE_URL", database)
    monkeypatch.setenv("HOURGLASS_VAR", str(tmp_path / "var"))
    db.execute("delete from studies")
    repository = Postgres(lambda: nullcontext(db))
    study = repository.load(load_demo(repository, Blobs(tmp_path / "var" / "files"), "lamps")[0])
    return rename(repository, study, "Lamps, 100 % é")


@pytest.fixture
def elsewhere(database, tmp_path, monkeypatch):
    """An empty database and folder, which the command line goes by from here on."""
    own = f"brought_back_{uuid4().hex}"  # tests run beside one another
    name = sql.Identifier(own)
    with psycopg.connect(database, autocommit=True) as connection:
        connection.execute(sql.SQL("drop database if exists {}").format(name))
        connection.execute(sql.SQL("create database {}").format(name))

    def go():
        address = f"{database.rpartition('/')[0]}/{own}"
        monkeypatch.setenv("DATABASE_URL", address)
        monkeypatch.setenv("HOURGLASS_VAR", str(tmp_path / "other"))
        return address

    yield go
    with psycopg.connect(database, autocommit=True) as connection:
        connection.execute(sql.SQL("drop database {} with (force)").format(name))


def test_everything_comes_back_from_a_backup(kept, elsewhere, tmp_path, capsys):
    file = tmp_path / "all.zip"
    assert back_up(file) == DONE
    assert "the database and 2 files" in capsys.readouterr().out
    assert back_up(file) == NOT_DONE
    with psycopg.connect(elsewhere(), autocommit=True, row_factory=psycopg.rows.dict_row) as db:
        assert bring_back(file) == DONE
        theirs = Postgres(lambda: nullcontext(db))
        assert theirs.load(kept.id) == kept
        there = Blobs(tmp_path / "other" / "files")
        assert there.get(kept.file.sha256) == (Blobs(tmp_path / "var" / "files")).get(
            kept.file.sha256
        )
        assert bring_back(file) == NOT_DONE
        assert "There are studies in" in capsys.readouterr().err
        assert look_through() == DONE


def test_packed_bytes_that_were_spoilt_are_a_sentence(kept, elsewhere, tmp_path, capsys):
    file = tmp_path / "all.zip"
    back_up(file)
    with zipfile.ZipFile(file) as packed:
        begins = packed.getinfo(DUMP).header_offset + 30 + len(DUMP)
    data = bytearray(file.read_bytes())
    data[begins : begins + 40] = b"\xff" * 40
    file.write_bytes(data)
    elsewhere()
    assert bring_back(file) == NOT_DONE
    assert "is no backup, or was damaged" in capsys.readouterr().err


@pytest.mark.parametrize("part", [DUMP, "files/", "contents.json", None])
def test_a_backup_that_was_damaged_brings_nothing_back(kept, elsewhere, tmp_path, capsys, part):
    whole, file = tmp_path / "all.zip", tmp_path / "damaged.zip"
    back_up(whole)
    if part is None:
        file.write_bytes(whole.read_bytes()[:-200])
    else:
        with zipfile.ZipFile(whole) as source, zipfile.ZipFile(file, "w") as made:
            for name in source.namelist():
                held = source.read(name)
                made.writestr(name, held[:-9] if name.startswith(part) else held)
    address = elsewhere()
    assert bring_back(file) == NOT_DONE
    assert "damaged" in capsys.readouterr().err
    with psycopg.connect(address) as connection:
        assert connection.execute("select to_regclass('studies')").fetchone() == (None,)
    assert not list((tmp_path / "other").rglob("files/??/*"))


def test_what_is_damaged_is_made_again_or_named(kept, tmp_path, capsys):
    folder, extract = tmp_path / "var" / "files", kept.file
    assert look_through() == DONE
    table = folder / extract.table_sha256[:2] / extract.table_sha256
    table.write_bytes(table.read_bytes()[:-5])
    assert look_through() == DONE
    assert "was made again from its file" in capsys.readouterr().out
    assert Blobs(folder).get(extract.table_sha256)
    (folder / extract.sha256[:2] / extract.sha256).write_bytes(b"other")
    assert look_through() == NOT_DONE
    found = capsys.readouterr()
    assert f"The file {extract.name} of “{kept.name}” is lost" in found.err
    assert "Wrong: 1 thing, named above." in found.out
