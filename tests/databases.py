"""Databases of their own for tests, on the throw-away cluster."""

import os
import uuid
from contextlib import contextmanager

import psycopg

from hourglass.store.migrate import migrate


@contextmanager
def new_database(like: str = "template1"):
    """The name and address of a migrated database, a copy of another or empty."""
    address = os.environ.get("HOURGLASS_TEST_DATABASE")
    assert address, "run the tests with ./hourglass test, which brings a database"
    name = f"test_{uuid.uuid4().hex}"
    with psycopg.connect(address, autocommit=True) as server:
        server.execute(f"create database {name} template {like}")
    own = f"{address.rsplit('/', 1)[0]}/{name}"
    with psycopg.connect(own, autocommit=True) as connection:
        migrate(connection)
    yield name, own
    with psycopg.connect(address, autocommit=True) as server:
        server.execute(f"drop database {name} with (force)")
