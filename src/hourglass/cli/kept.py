"""Where the program keeps its studies, for commands beside a server that runs as well as without one."""

import os
from collections.abc import Iterator
from contextlib import contextmanager, nullcontext
from pathlib import Path

from hourglass.api.settings import USUAL_VAR
from hourglass.cli.cluster import own_cluster
from hourglass.cli.serve import only_one, own_folder
from hourglass.store.blobs import Blobs
from hourglass.store.migrate import opened
from hourglass.store.postgres import Postgres


def folder_of_data() -> Path:
    """The folder that everything is kept in, made if need be."""
    return own_folder(Path(os.environ.get("HOURGLASS_VAR", USUAL_VAR)).absolute())


@contextmanager
def kept_studies() -> Iterator[tuple[Postgres, Blobs]]:
    """Where the program keeps its studies; beside a server that runs as well as without one."""
    var = folder_of_data()
    with kept_database(var) as address, opened(address) as db:
        yield Postgres(lambda: nullcontext(db)), Blobs(var / "files")


@contextmanager
def kept_database(var: Path) -> Iterator[str]:
    """The address of the database: that of the server that runs, else started for as long as it is used."""
    named = os.environ.get("DATABASE_URL")
    cluster = None if named else own_cluster(var)
    if named or cluster is None:
        yield str(named)
    elif cluster.running():
        yield cluster.start()
    else:
        with only_one(var):
            try:
                yield cluster.start()
            finally:
                cluster.stop()
