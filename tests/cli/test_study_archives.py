"""Studies leave and enter the database from the command line."""

from contextlib import nullcontext

import pytest

from hourglass.cli.study_archives import DONE, NOT_DONE, export_study, import_study, list_studies
from hourglass.store.blobs import Blobs
from hourglass.store.postgres import Postgres
from hourglass.study.demos import load_demo


@pytest.fixture
def lamps(db, database, tmp_path, monkeypatch):
    """A demo in the database and the folder that the command line goes by."""
    monkeypatch.setenv("DATABASE_URL", database)
    monkeypatch.setenv("HOURGLASS_VAR", str(tmp_path))
    for line in (repository := Postgres(lambda: nullcontext(db))).studies():
        repository.delete(repository.load(line.id))
    return load_demo(repository, Blobs(tmp_path / "files"), "lamps")[0]


def test_a_study_is_listed_written_and_taken_in_again(lamps, tmp_path, capsys):
    assert list_studies() == DONE
    assert capsys.readouterr().out == f"{lamps}  Harbour lamps  harbour_lamps.csv\n"
    by_name, by_id = tmp_path / "name.zip", tmp_path / "id.zip"
    assert export_study("Harbour lamps", by_name) == DONE
    assert export_study(str(lamps), by_id) == DONE
    assert by_name.read_bytes() == by_id.read_bytes()
    assert export_study("Harbour lamps", by_name) == NOT_DONE
    assert "is there already" in capsys.readouterr().err
    assert export_study("Harbour lamps", by_name, replace=True) == DONE
    assert import_study(by_name) == DONE
    list_studies()
    lines = capsys.readouterr().out.splitlines()[-2:]
    assert [line.partition("  ")[2] for line in lines] == 2 * ["Harbour lamps  harbour_lamps.csv"]
    assert export_study("Harbour lamps", tmp_path / "other.zip") == NOT_DONE
    assert "2 studies are called “Harbour lamps”" in capsys.readouterr().err


def test_what_cannot_be_written_or_taken_in_is_stated(lamps, tmp_path, capsys):
    assert export_study("Nobody", tmp_path / "none.zip") == NOT_DONE
    assert "There is no study called “Nobody”" in capsys.readouterr().err
    assert export_study(str(lamps), tmp_path / "no such folder" / "one.zip") == NOT_DONE
    assert "The study cannot be written" in capsys.readouterr().err
    (tmp_path / "rows.csv").write_text("t,s\n1,1\n")
    assert import_study(tmp_path / "rows.csv") == NOT_DONE
    assert "This is no archive of a study" in capsys.readouterr().err
