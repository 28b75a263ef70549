"""Bytes kept under their SHA-256: written whole or not at all, never changed."""

import errno
import hashlib
import os
import re
import shutil
import tempfile
import time
from collections.abc import Callable, Collection, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any, BinaryIO

from hourglass.core.errors import HourglassError

NO_ROOM = (errno.ENOSPC, errno.EDQUOT)
"""The numbers of the errors of a disk that is full."""
NAME_OF_NUMBERS = 16
"""Bytes of the name of numbers."""
STAGED = "staged-"
"""What the folders of bytes that wait to be kept are called by."""
HALF_WRITTEN = "half-"
"""What files that are being written are called by."""
PIECE = 1 << 20
"""Bytes that are taken in at a time."""
JUST_MADE = 60.0
"""Seconds for which numbers may belong to a result that is being kept."""


class MissingBlobError(HourglassError):
    """Bytes that the database knows of are not on the disk, or not as they were."""


@contextmanager
def whole_or_gone(folder: Path) -> Iterator[Any]:
    """A new file in a folder, which is gone again should writing it fail."""
    with tempfile.NamedTemporaryFile(dir=folder, prefix=HALF_WRITTEN, delete=False) as file:
        try:
            yield file
        except BaseException:
            Path(file.name).unlink()
            raise


def _name_of(packed: bytes) -> str:
    return hashlib.blake2b(packed, digest_size=NAME_OF_NUMBERS).hexdigest()


def _put_in_place(file: Path, path: Path) -> None:
    """Give a written file its name, on the disk before this returns."""
    new = not path.parent.exists()
    path.parent.mkdir(exist_ok=True)
    file.replace(path)
    for folder in (path.parent, path.parent.parent) if new else (path.parent,):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


class StagedBlobs:
    """Files that wait to be kept."""

    def __init__(self, folder: Path, path_of: Callable[[str], Path]) -> None:
        self._folder, self._path_of = folder, path_of

    def add(self, source: BinaryIO) -> str:
        """Write bytes, on the disk before this returns; gives their SHA-256."""
        digest = hashlib.sha256()
        with whole_or_gone(self._folder) as file:
            while piece := source.read(PIECE):
                digest.update(piece)
                file.write(piece)
            file.flush()
            os.fsync(file.fileno())
        Path(file.name).replace(self._folder / digest.hexdigest())
        return digest.hexdigest()

    def keep(self) -> None:
        """Put the files in their places; those that are there already are the same."""
        for file in self._folder.iterdir():
            _put_in_place(file, self._path_of(file.name))


class Blobs:
    """A folder of files named by their contents."""

    def __init__(self, folder: Path) -> None:
        self._folder, self._numbers = folder, folder / "numbers"
        self._numbers.mkdir(parents=True, exist_ok=True)
        shutil.rmtree(folder / "drawings", ignore_errors=True)  # of earlier programs

    def put(self, data: bytes) -> str:
        """Keep bytes, on the disk before this returns; gives their SHA-256."""
        name = hashlib.sha256(data).hexdigest()
        path = self._path(name)
        with suppress(FileNotFoundError):
            if path.read_bytes() == data:  # one that was damaged is replaced
                os.utime(path)  # whoever collects what nothing names sees that it is wanted again
                return name
        with whole_or_gone(self._folder) as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        _put_in_place(Path(file.name), path)
        return name

    @contextmanager
    def staged(self) -> Iterator["StagedBlobs"]:
        """A place for bytes that are kept all together or not at all."""
        with tempfile.TemporaryDirectory(dir=self._folder, prefix=STAGED) as folder:
            yield StagedBlobs(Path(folder), self._path)

    def get(self, name: str) -> bytes:
        """The bytes of that SHA-256.

        Raises:
            MissingBlobError: when they are gone or damaged.
        """
        try:
            data = self._path(name).read_bytes()
        except FileNotFoundError:
            raise MissingBlobError(f"the file with SHA-256 {name} is not on the disk") from None
        if hashlib.sha256(data).hexdigest() != name:
            raise MissingBlobError(f"the file with SHA-256 {name} has been damaged on the disk")
        return data

    def put_numbers(self, packed: bytes) -> str:
        """Keep numbers under a name by what is in them; they can be computed again, so nothing is waited
        for."""
        name = _name_of(packed)
        with whole_or_gone(self._numbers) as file:
            file.write(packed)
        Path(file.name).replace(self._numbers / name)
        return name

    def numbers(self, name: str) -> bytes | None:
        """The numbers of that name, if they are still there, and whole."""
        if not re.fullmatch("[0-9a-f]+", name):
            return None
        try:
            packed = (self._numbers / name).read_bytes()
        except FileNotFoundError:
            return None
        return packed if _name_of(packed) == name else None

    def forget_numbers(self, kept: Collection[str]) -> None:
        """Take away all numbers but these; those that were just computed may not be known of yet."""
        for path in self._numbers.iterdir():
            if path.name not in kept:
                with suppress(FileNotFoundError):
                    if time.time() - path.stat().st_mtime > JUST_MADE:
                        path.unlink()

    def belong_to(self, database: str, named: Collection[str]) -> bool:
        """Whether these are the files of a database; those that nobody has claimed are if it names some."""
        mark = self._folder / "database"
        if mark.exists():
            return mark.read_text(encoding="ascii") == database
        there = set(self.names())
        if there and not there & set(named):
            return False
        with whole_or_gone(self._folder) as file:
            file.write(database.encode("ascii"))
        Path(file.name).replace(mark)
        return True

    def collect(self, named: Collection[str], older: float) -> int:
        """Take away files that nothing names and that nobody touched for so many seconds; gives how many.

        Files and folders of what was broken off are among them.
        """
        before, gone = time.time() - older, 0
        for path in [*self._folder.glob("??/*"), *self._folder.glob("[!dn]*")]:
            broken_off = path.name.startswith((STAGED, HALF_WRITTEN))
            if (path.parent == self._folder and not broken_off) or path.name in named:
                continue
            with suppress(FileNotFoundError):
                if path.stat().st_mtime < before:
                    shutil.rmtree(path) if path.is_dir() else path.unlink()
                    gone += 1
        return gone

    def names(self) -> Iterator[str]:
        """The names of all files that are kept."""
        yield from (path.name for path in self._folder.glob("??/*"))

    def _path(self, name: str) -> Path:
        return self._folder / name[:2] / name
