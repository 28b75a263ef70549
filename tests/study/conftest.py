"""Both forms of keeping studies: what holds of one must hold of the other."""

from contextlib import nullcontext

import pytest

from hourglass.store.blobs import Blobs
from hourglass.store.postgres import Postgres
from hourglass.study.demos import keep_file
from hourglass.study.in_memory import BlobsInMemory, InMemory

CSV = b"t,s\n1,1\n2,0\n"


@pytest.fixture(params=["database", "memory"])
def kept(request, tmp_path):
    """Where studies are kept, and where bytes are."""
    if request.param == "memory":
        return InMemory(), BlobsInMemory()
    db = request.getfixturevalue("db")
    return Postgres(lambda: nullcontext(db)), Blobs(tmp_path / "files")


@pytest.fixture
def repository(kept):
    return kept[0]


@pytest.fixture
def blobs(kept):
    return kept[1]


@pytest.fixture
def study(repository, blobs):
    made = repository.create("A study")
    keep_file(repository, blobs, repository.load(made), "rows.csv", CSV)
    return made
