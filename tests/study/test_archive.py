"""A study as one archive: what comes back is what was kept, dates and undone changes included."""

import hashlib
import io
import json
import tracemalloc
import zipfile
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.registry import STAGES
from hourglass.cohort.parquet import to_parquet
from hourglass.cohort.reading.read import read
from hourglass.cohort.steps.rows import SetAside
from hourglass.cohort.table import Table
from hourglass.store.blobs import Blobs
from hourglass.study.archive import BadArchiveError, archived, taken_in
from hourglass.study.commands.statements import state
from hourglass.study.commands.steps import put_step
from hourglass.study.commands.undoing import redo, undo
from hourglass.study.demos import load_demo
from hourglass.study.in_memory import BlobsInMemory, InMemory
from hourglass.study.in_process import InProcess
from hourglass.study.plans.applying import seal_plan
from hourglass.study.plans.document import plan_of_study
from hourglass.study.results import Results
from hourglass.study.source import source_of


@pytest.fixture
def worked_on(repository, blobs):
    """A demo in which something was undone, something redone, and the plan sealed."""
    study = repository.load(load_demo(repository, blobs, "lamps")[0])
    study = put_step(repository, study, SetAside(rows=(2,), why="broken in transit"))
    study = seal_plan(repository, study)
    study = undo(repository, study)
    table = source_of(study, blobs).table()
    study = state(repository, study, None, CompareStatement(), table)
    study = redo(repository, undo(repository, study))
    return undo(repository, study)


def test_a_study_comes_back_whole_from_its_archive(repository, blobs, worked_on):
    data = archived(repository, blobs, worked_on.id)
    assert archived(repository, blobs, worked_on.id) == data
    elsewhere, their_bytes = InMemory(), BlobsInMemory()
    made = taken_in(elsewhere, their_bytes, io.BytesIO(data))
    assert plan_of_study(made) == plan_of_study(worked_on)
    assert [(d.sentence, d.reason, d.made_at) for d in made.decisions[1:]] == [
        (d.sentence, d.reason, d.made_at) for d in worked_on.decisions[1:]
    ]
    assert [e.read_at for e in made.extracts] == [e.read_at for e in worked_on.extracts]
    assert their_bytes.get(made.file.sha256) == blobs.get(worked_on.file.sha256)
    assert made.snapshot.sealed == worked_on.snapshot.sealed
    again = redo(elsewhere, made)
    assert plan_of_study(again) == plan_of_study(redo(repository, worked_on))
    theirs = Results(elsewhere, their_bytes, InProcess(), STAGES)
    ours = Results(repository, blobs, InProcess(), STAGES)
    worked_on = repository.load(worked_on.id)
    for stage in STAGES:
        there = theirs.of_stage(again, again.analysis(stage.name))
        here = ours.of_stage(worked_on, worked_on.analysis(stage.name))
        assert there.hash == here.hash


def test_an_archive_of_the_first_version_is_taken_in(repository, blobs):
    with (Path(__file__).parents[1] / "earlier" / "lamps.zip").open("rb") as archive:
        made = taken_in(repository, blobs, archive)
    assert [d.action.kind for d in made.decisions][1:] == [
        "file attached", "follow-up set", "statements given",
    ]  # fmt: skip
    assert made.file.rows == len(source_of(made, blobs).table().numbers)


def changed(data, name, change):
    """An archive in which a file holds something else, or is not there."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as source, zipfile.ZipFile(out, "w") as made:
        for one in source.namelist():
            body = source.read(one)
            body = change(body) if one.startswith(name) else body
            if body is not None:
                made.writestr(one, body)
    return out.getvalue()


def without_log(body):
    return json.dumps({**json.loads(body), "log": []}).encode()


def of_another_version(body):
    return json.dumps({**json.loads(body), "version": 3}).encode()


@pytest.mark.parametrize(
    ("name", "change", "text"),
    [
        ("files/", lambda body: body + b"x", "has been damaged"),
        ("files/", lambda body: None, "does not hold"),
        ("study.json", without_log, "does not hold a log"),
        ("study.json", of_another_version, "version"),
        ("study.json", lambda body: b"{", "does not hold"),
    ],
)
def test_an_archive_that_is_not_whole_is_refused_and_leaves_nothing(
    repository, blobs, worked_on, name, change, text
):
    data = changed(archived(repository, blobs, worked_on.id), name, change)
    elsewhere = InMemory()
    with pytest.raises(BadArchiveError, match=text):
        taken_in(elsewhere, BlobsInMemory(), io.BytesIO(data))
    assert elsewhere.studies() == []
    with pytest.raises(BadArchiveError, match="no archive"):
        taken_in(elsewhere, BlobsInMemory(), io.BytesIO(b"t,s\n1,1\n"))


def renamed(table):
    first, *others = table.columns
    return Table((replace(first, name="other"), *others), table.numbers)


def altered(table):
    hours = table.column("hours")
    values = hours.values.copy()
    values[2] = 9999
    return table.with_column(replace(hours, values=values))


def encrypted(data):
    """The bits for it, in the entries and in the list at the end."""
    return data.replace(b"PK\x03\x04\x14\x00\x00", b"PK\x03\x04\x14\x00\x01").replace(
        b"PK\x01\x02\x14\x03\x14\x00\x00", b"PK\x01\x02\x14\x03\x14\x00\x01"
    )


def packed_in_way_99(data):
    return data.replace(
        b"PK\x01\x02\x14\x03\x14\x00\x00\x00\x08", b"PK\x01\x02\x14\x03\x14\x00\x00\x00\x63"
    )


@pytest.mark.parametrize(
    "spoil", [encrypted, packed_in_way_99, lambda data: data[: len(data) // 2]]
)
def test_an_archive_that_cannot_be_unpacked_is_refused_in_a_sentence(
    repository, blobs, worked_on, spoil
):
    whole = archived(repository, blobs, worked_on.id)
    assert spoil(whole) != whole
    with pytest.raises(BadArchiveError, match="no archive of a study, or it was damaged"):
        taken_in(InMemory(), BlobsInMemory(), io.BytesIO(spoil(whole)))


def bomb(name, size, members=1):
    """An archive of files of one letter: small as it lies, large unpacked."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        for k in range(members):
            made.writestr(name if k == 0 else f"{name}{k}", b" " * size)
    return out.getvalue()


@pytest.mark.parametrize(
    ("data", "text"),
    [
        (bomb("study.json", 8 << 20), "200 times its size"),
        (bomb("files/aa", 8 << 20), "200 times its size"),
        (bomb("files/aa", 1, 10_001), "10001 files, more than 10000"),
    ],
    ids=["document", "file", "members"],
)
def test_an_archive_that_would_take_too_much_is_refused_before_it_is_unpacked(tmp_path, data, text):
    blobs, repository = Blobs(tmp_path), InMemory()
    tracemalloc.start()
    with pytest.raises(BadArchiveError, match=text):
        taken_in(repository, blobs, io.BytesIO(data))
    _, peak = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    assert peak < 64 << 20
    assert repository.studies() == []
    assert [p for p in tmp_path.rglob("*") if p.is_file()] == []


def test_files_of_an_archive_go_to_the_disk_a_piece_at_a_time(
    tmp_path, repository, blobs, worked_on
):
    """A large file that is not the one it is named for is refused, and nothing of it stays."""
    large = np.random.default_rng(1).bytes(48 << 20)
    data = changed(archived(repository, blobs, worked_on.id), "files/", lambda body: large)
    folder = tmp_path / "theirs"
    theirs, elsewhere = Blobs(folder), InMemory()
    tracemalloc.start()
    with pytest.raises(BadArchiveError, match="damaged"):
        taken_in(elsewhere, theirs, io.BytesIO(data))
    _, peak = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    assert peak < 16 << 20
    assert [p for p in folder.rglob("*") if p.is_file()] == []
    made = taken_in(elsewhere, theirs, io.BytesIO(archived(repository, blobs, worked_on.id)))
    assert theirs.get(made.file.sha256) == blobs.get(worked_on.file.sha256)
    assert not list(folder.glob("staged-*"))


@pytest.mark.parametrize(
    ("table", "words"),
    [
        (b"PAR1 and no more", "no table that this program wrote"),
        (b"a,b\n1,2\n", "no table that this program wrote"),
        (to_parquet(read(b"t,s\n1,1\n2,0\n").table), "has 2 rows where its file has"),
        (lambda own: to_parquet(renamed(own)), "has other columns than its file"),
        (lambda own: to_parquet(altered(own)), "has “9999” in hours, row 3, where its file has"),
    ],
)
def test_a_table_that_is_none_or_another_is_refused_and_nothing_is_made(
    repository, blobs, worked_on, table, words
):
    file = worked_on.file
    if callable(table):
        table = table(source_of(worked_on, blobs).table())
    data = archived(repository, blobs, worked_on.id)
    own, name = file.table_sha256, hashlib.sha256(table).hexdigest()
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w") as new:
        for entry in old.infolist():
            body = old.read(entry).replace(own.encode(), name.encode())
            here = entry.filename.replace(own, name)
            new.writestr(here, table if here == f"files/{name}" else body)
    elsewhere = InMemory()
    with pytest.raises(BadArchiveError, match=words):
        taken_in(elsewhere, BlobsInMemory(), io.BytesIO(out.getvalue()))
    assert elsewhere.studies() == []
