"""The named SQL statements of the ``queries`` folder."""

import re
from functools import cache
from importlib.resources import files
from typing import LiteralString

NAME = re.compile(r"^-- name: (\w+)\n", re.MULTILINE)


@cache
def _all() -> dict[str, LiteralString]:
    found: dict[str, LiteralString] = {}
    for file in files("hourglass.store").joinpath("queries").iterdir():
        if file.name.endswith(".sql"):
            pieces = NAME.split(file.read_text(encoding="utf-8"))
            found.update(zip(pieces[1::2], pieces[2::2], strict=True))
    return found


def query(name: str) -> LiteralString:
    """The statement of that name; parameters are bound by the driver, never put into the text."""
    return _all()[name]
