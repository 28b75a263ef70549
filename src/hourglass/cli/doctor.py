"""Looking through what is kept: what can be mended is mended, the rest is named."""

import shutil
from pathlib import Path

import psycopg

from hourglass.analysis.shared.formatting import count
from hourglass.cli.cluster import ROOM_OF_A_DATABASE
from hourglass.cli.kept import folder_of_data, kept_database
from hourglass.cli.machine import MissingPieceError, announce
from hourglass.cohort.reading.packed import packed
from hourglass.cohort.reading.read import read
from hourglass.cohort.reading.recipe import Recipe, UnreadableFileError
from hourglass.store.blobs import Blobs, MissingBlobError
from hourglass.store.collecting import WHILE_RUNNING, collect
from hourglass.store.migrate import NewerDatabaseError, opened, version
from hourglass.store.queries import query
from hourglass.store.rows import Db, Row

DONE, NOT_DONE = 0, 1


def look_through() -> int:
    """Hold every file against its hash and every row against its files; gives the exit code."""
    try:
        var = folder_of_data()
        with kept_database(var) as address, opened(address) as db:
            print(f"The database is at version {version(db)}.")
            wrong = _wrong_files(db, Blobs(var / "files"))
    except (MissingPieceError, NewerDatabaseError) as why:
        announce(str(why))
        return NOT_DONE
    except psycopg.Error as why:
        announce(f"The database does not answer: {str(why).strip()}")
        return NOT_DONE
    wrong += _little_room(var)
    for words in wrong:
        announce(words)
    print(f"Wrong: {count(len(wrong), 'things')}, named above." if wrong else "Nothing is wrong.")
    return NOT_DONE if wrong else DONE


def _wrong_files(db: Db, blobs: Blobs) -> list[str]:
    """What is wrong with the files, after what could be mended was."""
    gone, wrong, held = collect(db, blobs, WHILE_RUNNING), [], 0
    if gone:
        print(f"{gone} files that nothing names were taken away.")
    for row in db.execute(query("every_extract")):
        whose = f"The file {row['name']} of “{row['study']}”"
        held += 1
        try:
            data = blobs.get(row["sha256"])
        except MissingBlobError as why:
            wrong.append(f"{whose} is lost: {why}. Upload it again, or bring back a backup.")
            continue
        try:
            blobs.get(row["table_sha256"])
        except MissingBlobError as why:
            if _made_again(data, row, blobs):
                print(
                    f"The table of {row['name']} of “{row['study']}” was made again from its file."
                )
            else:
                wrong.append(f"{whose} is whole, but its table is not: {why}. Upload it again.")
    print(f"{held} files were held against their hashes.")
    return wrong


def _made_again(data: bytes, row: Row, blobs: Blobs) -> bool:
    """Read a file again as it was read; whether that gave the table that there was."""
    try:
        reading = packed(read(data, Recipe.model_validate(row["recipe"])))
    except UnreadableFileError:
        return False
    return bool(blobs.put(reading.table) == row["table_sha256"])


def _little_room(var: Path) -> list[str]:
    free = shutil.disk_usage(var).free
    if free >= ROOM_OF_A_DATABASE:
        return []
    return [f"The disk of {var} has {free >> 20} MB free: make room before it is full."]
