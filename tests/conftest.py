"""A database of its own for every test module, on the throw-away cluster."""

import os
from pathlib import Path

import psycopg
import pytest
from hypothesis import settings
from psycopg.rows import dict_row

from databases import new_database

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
    with new_database() as (_, address):
        yield address


@pytest.fixture
def db(database):
    """A connection as the store wants it."""
    with psycopg.connect(database, autocommit=True, row_factory=dict_row) as connection:
        yield connection
