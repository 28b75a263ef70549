"""Hashes of what a result follows from, so that a stale one is never shown."""

import hashlib
import json
from pathlib import Path

import hourglass


def _program() -> str:
    """The program's version with a hash of all the code that what is shown comes from."""
    package = Path(hourglass.__file__).parent
    digest = hashlib.sha256()
    for part in ("core", "cohort", "analysis", "study", "report"):
        for file in sorted((package / part).rglob("*")):
            if file.suffix in (".py", ".j2"):
                digest.update(file.read_bytes())
    return f"{hourglass.VERSION}+{digest.hexdigest()[:12]}"


PROGRAM = _program()


def hash_of(*parts: object) -> str:
    """Hash of values that JSON can hold."""
    text = json.dumps(parts, sort_keys=True, separators=(",", ":"), ensure_ascii=False)
    return hashlib.sha256(text.encode()).hexdigest()


def hash_of_shown(*parts: object) -> str:
    """Hash of values that JSON can hold, and of the program: of what is shown, words and all."""
    return hash_of(PROGRAM, *parts)
