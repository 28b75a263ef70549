"""Bytes kept under their SHA-256: written whole or not at all, never changed."""

import hashlib
import os
import re
import tempfile
import time
from collections.abc import Callable, Collection, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import BinaryIO

DRAWING_KEY = 16
"""Bytes of a drawing's name."""
STAGED = "staged-"
"""What the folders of bytes that wait to be kept are called by."""
PIECE = 1 << 20
"""Bytes that are taken in at a time."""
JUST_MADE = 60.0
"""Seconds for which a drawing may belong to a result that is being kept."""


class MissingBlobError(RuntimeError):
    """Bytes that the database knows of are not on the disk, or not as they were."""


class StagedBlobs:
    """Files that wait to be kept."""

    def __init__(self, folder: Path, path_of: Callable[[str], Path]) -> None:
        self._folder, self._path_of = folder, path_of

    def add(self, source: BinaryIO) -> str:
        """Write bytes, on the disk before this returns; gives their SHA-256."""
        digest = hashlib.sha256()
        with tempfile.NamedTemporaryFile(dir=self._folder, delete=False) as file:
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
            path = self._path_of(file.name)
            path.parent.mkdir(exist_ok=True)
            file.replace(path)


class Blobs:
    """A folder of files named by their contents."""

    def __init__(self, folder: Path) -> None:
        self._folder, self._drawings = folder, folder / "drawings"
        self._drawings.mkdir(parents=True, exist_ok=True)

    def put(self, data: bytes) -> str:
        """Keep bytes, on the disk before this returns; gives their SHA-256."""
        name = hashlib.sha256(data).hexdigest()
        path = self._path(name)
        if path.exists() and path.stat().st_size == len(data):
            return name
        path.parent.mkdir(exist_ok=True)
        with tempfile.NamedTemporaryFile(dir=path.parent, delete=False) as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        Path(file.name).replace(path)
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

    def put_drawing(self, packed: bytes) -> str:
        """Keep a drawing under a name by what is in it; it can be made again, so nothing is waited for."""
        key = hashlib.blake2b(packed, digest_size=DRAWING_KEY).hexdigest()
        with tempfile.NamedTemporaryFile(dir=self._drawings, delete=False) as file:
            file.write(packed)
        Path(file.name).replace(self._drawings / key)
        return key

    def drawing(self, key: str) -> bytes | None:
        """The drawing of that name, if it is still there."""
        if not re.fullmatch("[0-9a-f]+", key):
            return None
        try:
            return (self._drawings / key).read_bytes()
        except FileNotFoundError:
            return None

    def forget_drawings(self, kept: Collection[str]) -> None:
        """Take away all drawings but these; one that was just made may not be known of yet."""
        for path in self._drawings.iterdir():
            if path.name not in kept:
                with suppress(FileNotFoundError):
                    if time.time() - path.stat().st_mtime > JUST_MADE:
                        path.unlink()

    def _path(self, name: str) -> Path:
        return self._folder / name[:2] / name
