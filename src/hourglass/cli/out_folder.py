"""The folder or file that a command writes: refused before anything is computed, unless it is free."""

import os
from collections.abc import Mapping
from pathlib import Path

from hourglass.cli.machine import announce
from hourglass.core.errors import HourglassError

LIST = ".written-by-hourglass"
"""The list of files that a command wrote into a folder, which it may clear again."""


class UnusableFolderError(HourglassError):
    """A folder that cannot be written into; the message gives the reason, and what to do."""


def refuse_written(out: Path, replace: bool) -> bool:
    """Whether a file is there already that may not be written over, which is printed then."""
    if replace or not out.exists():
        return False
    announce(f"{out} is there already: name another file, or add --replace.")
    return True


def made_ready(out: Path, *, replace: bool) -> Path:
    """The folder, free to be written into; one that is not there is made when the first file is written.

    Args:
        replace: whether what a command wrote there before is cleared.

    Raises:
        UnusableFolderError: for a file, a folder that cannot be written into, or one that is not free.
    """
    if out.exists() and not out.is_dir():
        raise UnusableFolderError(f"{out} is a file: name a folder.")
    there = next(folder for folder in (out, *out.absolute().parents) if folder.exists())
    if not there.is_dir() or not os.access(there, os.W_OK | os.X_OK):
        raise UnusableFolderError(f"{there} cannot be written into: choose another folder.")
    if not out.exists():
        return out
    if replace:
        _clear(out)
    left = next(iter(sorted(out.iterdir())), None)
    if left is not None:
        own = (out / LIST).exists()
        advice = "add --replace to clear it" if own else "choose an empty folder"
        raise UnusableFolderError(f"{out} is not empty ({left.name} is there): {advice}.")
    return out


def write_files(out: Path, files: Mapping[str, bytes]) -> None:
    """Write files by name into a folder, list them there, and print where each is."""
    out.mkdir(parents=True, exist_ok=True)
    (out / LIST).write_text("".join(f"{name}\n" for name in files), encoding="utf-8")
    for name, data in files.items():
        file = out / name
        file.parent.mkdir(parents=True, exist_ok=True)
        file.write_bytes(data)
        print(file)


def _clear(out: Path) -> None:
    """Take away the files that a command listed there, and the folders that this leaves empty."""
    written = out / LIST
    if not written.is_file():
        return
    root = out.resolve()
    for name in written.read_text(encoding="utf-8").splitlines():
        file = (out / name).resolve()
        if file.is_relative_to(root) and file.is_file():
            file.unlink()
        for folder in file.parents:
            if folder == root or not folder.is_relative_to(root) or not folder.is_dir():
                break
            if any(folder.iterdir()):
                break
            folder.rmdir()
    written.unlink()
