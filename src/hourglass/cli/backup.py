"""All studies in one file, made while the program runs, and brought back from it."""

import hashlib
import os
import subprocess
import zipfile
from datetime import UTC, datetime
from pathlib import Path
from typing import BinaryIO, cast
from urllib.parse import urlsplit

import psycopg
from pydantic import BaseModel, ConfigDict, ValidationError

from hourglass import VERSION
from hourglass.cli.kept import folder_of_data, kept_database
from hourglass.cli.machine import MissingPieceError, announce, postgres_binaries
from hourglass.cli.out_folder import refuse_written
from hourglass.core.errors import HourglassError
from hourglass.store.blobs import Blobs, MissingBlobError
from hourglass.store.collecting import named_files
from hourglass.store.migrate import opened, version
from hourglass.store.queries import query
from hourglass.store.rows import Row, snapshot
from hourglass.study.archive import UNREADABLE

DONE, NOT_DONE = 0, 1
DUMP, CONTENTS = "database.sql", "contents.json"
PLAIN = ("--no-owner", "--no-privileges")
"""A dump that any account brings back."""


class BadBackupError(HourglassError):
    """A file that is no backup, or was damaged."""


class Contents(BaseModel):
    """What a backup holds: the hash of its dump, and the names of its files, which are their hashes."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    program: str
    made_at: datetime
    dump: str
    files: tuple[str, ...]


def back_up(out: Path, replace: bool = False) -> int:
    """Write everything into one file, and read it again; gives the exit code.

    Args:
        replace: whether a file that is there already may be written over.
    """
    if refuse_written(out, replace):
        return NOT_DONE
    half = out.with_name(f"{out.name}.half")
    var = folder_of_data()
    try:
        with kept_database(var) as address:
            _write(half, address, Blobs(var / "files"))
        contents = checked(half)
    except (BadBackupError, MissingBlobError, MissingPieceError, OSError) as why:
        half.unlink(missing_ok=True)
        announce(f"The backup cannot be made: {why}")
        return NOT_DONE
    half.replace(out)
    print(f"{out}: the database and {len(contents.files)} files, read again and found whole")
    return DONE


def bring_back(backup: Path) -> int:
    """Bring everything back into a folder of data that holds nothing yet; gives the exit code."""
    try:
        contents = checked(backup)
        var = folder_of_data()
        with kept_database(var) as address:
            with psycopg.connect(address) as connection:
                if version(connection):
                    announce(
                        f"There are studies in {var} already. Name a folder that holds nothing yet with "
                        "HOURGLASS_VAR."
                    )
                    return NOT_DONE
            _read_back(backup, contents, address, Blobs(var / "files"))
    except (BadBackupError, MissingPieceError, OSError) as why:
        announce(f"The backup cannot be brought back: {why}")
        return NOT_DONE
    print(
        f"Brought back as of {contents.made_at:%-d %B %Y, %H:%M} UTC, {len(contents.files)} files."
    )
    return DONE


def checked(backup: Path) -> Contents:
    """What a backup holds, every byte of it held against its hash.

    Raises:
        BadBackupError: when it is none, or was damaged.
    """
    try:
        with zipfile.ZipFile(backup) as packed:
            contents = Contents.model_validate_json(packed.read(CONTENTS))
            for name, hash_ in (
                (DUMP, contents.dump),
                *((f"files/{n}", n) for n in contents.files),
            ):
                with packed.open(name) as file:
                    found = hashlib.file_digest(cast(zipfile.ZipExtFile, file), "sha256")
                    if found.hexdigest() != hash_:
                        raise BadBackupError(f"{name} was damaged.")
    except (*UNREADABLE, KeyError, ValidationError) as why:
        raise BadBackupError(f"{backup} is no backup, or was damaged ({why}).") from None
    return contents


def _write(out: Path, address: str, blobs: Blobs) -> None:
    with opened(address) as db, snapshot(db):
        # The dump and the names of the files are those of one moment; files never change.
        moment = str(cast(Row, db.execute(query("moment")).fetchone())["moment"])
        dump = _tool("pg_dump", address, [*PLAIN, f"--snapshot={moment}"], b"")
        names = sorted(named_files(db))
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as packed:
        packed.writestr(DUMP, dump)
        for name in names:
            packed.writestr(f"files/{name}", blobs.get(name), zipfile.ZIP_STORED)
        contents = Contents(
            program=VERSION,
            made_at=datetime.now(UTC),
            dump=hashlib.sha256(dump).hexdigest(),
            files=tuple(names),
        )
        packed.writestr(CONTENTS, contents.model_dump_json(indent=1))
    with out.open("rb") as file:
        os.fsync(file.fileno())


def _read_back(backup: Path, contents: Contents, address: str, blobs: Blobs) -> None:
    with zipfile.ZipFile(backup) as packed:
        with blobs.staged() as staging:
            for name in contents.files:
                with packed.open(f"files/{name}") as file:
                    staging.add(cast(BinaryIO, file))
            staging.keep()
        script = packed.read(DUMP)
    # Whole or not at all, the files being there before the rows that name them.
    _tool("psql", address, ["--quiet", "--single-transaction", "--set", "ON_ERROR_STOP=1"], script)
    with opened(address):
        pass  # a backup of an older program is brought up to date


def _tool(name: str, address: str, words: list[str], given: bytes) -> bytes:
    """Have one of PostgreSQL's own commands work on a database; the password is in no list of processes."""
    at = urlsplit(address)
    place = {
        "PGHOST": at.hostname or "", "PGPORT": str(at.port or 5432), "PGUSER": at.username or "",
        "PGPASSWORD": at.password or "", "PGDATABASE": at.path.lstrip("/"),
    }  # fmt: skip
    done = subprocess.run(
        [str(postgres_binaries() / name), *words],
        input=given,
        capture_output=True,
        check=False,
        env={**os.environ, **{key: value for key, value in place.items() if value}},
    )
    if done.returncode != 0:
        why = done.stderr.decode(errors="replace").strip().splitlines()
        raise MissingPieceError(f"{name} did not succeed: {why[0] if why else done.returncode}.")
    return done.stdout
