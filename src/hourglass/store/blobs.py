"""Bytes kept under their SHA-256: written whole or not at all, never changed."""

import hashlib
import os
import tempfile
from pathlib import Path


class MissingBlobError(RuntimeError):
    """Bytes that the database knows of are not on the disk, or not as they were."""


class Blobs:
    """A folder of files named by their contents."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        folder.mkdir(parents=True, exist_ok=True)

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

    def _path(self, name: str) -> Path:
        return self._folder / name[:2] / name
