"""A database of its own for every test module, on the throw-away cluster."""

import os
import uuid
from pathlib import Path

import psycopg
import pytest
from hypothesis import settings
from psycopg.rows import dict_row

from hourglass.store.migrate import migrate

# Processes are forked from a server that finds what it loads first, once for all of them, by this.
os.environ["PYTHONPATH"] = os.pathsep.join(
    str(Path(__file__).parents[1] / folder) for folder in ("src", "tests")
)

# By hand the made-up inputs differ from run to run and go on searching; a machine that decides
# whether a change lands takes the same ones every time.
settings.register_profile("steady", derandomize=True)
if os.environ.get("CI"):
    settings.load_profile("steady")


@pytest.fixture(scope="module")
def database():
    """The address of a migrated, empty database."""
    address = os.environ.get("HOURGLASS_TEST_DATABASE")
    assert address, "run the tests with ./hourglass test, which brings a database"
    name = f"test_{uuid.uuid4().hex}"
    with psycopg.connect(address, autocommit=True) as server:
        server.execute(f"create database {name}")
    own = f"{address.rsplit('/', 1)[0]}/{name}"
    with psycopg.connect(own, autocommit=True) as connection:
        migrate(connection)
    yield own
    with psycopg.connect(address, autocommit=True) as server:
        server.execute(f"drop database {name} with (force)")


@pytest.fixture
def db(database):
    """A connection as the store wants it."""
    with psycopg.connect(database, autocommit=True, row_factory=dict_row) as connection:
        yield connection
