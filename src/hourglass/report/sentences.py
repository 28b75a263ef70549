"""Sentences of the report from files that a statistician can read and change.

A file holds one sentence a line, after its name and a colon; a line that is indented goes on with the one
before it, and a line that begins with # is a remark. A word in braces stands for what the study gives.
"""

from collections.abc import Mapping
from functools import cache
from importlib.resources import files

FOLDER = "templates"


@cache
def sentences(name: str) -> Mapping[str, str]:
    """The sentences of a file of templates, by their names."""
    text = (files("hourglass.report") / FOLDER / f"{name}.txt").read_text(encoding="utf-8")
    found = dict[str, str]()
    last = ""
    for line in text.splitlines():
        if not line.strip() or line.startswith("#"):
            continue
        if line[0].isspace():
            found[last] = f"{found[last]} {line.strip()}"
        else:
            last, _, sentence = line.partition(": ")
            found[last] = sentence.strip()
    return found


def worded(file: str, name: str, /, **given: object) -> str:
    """A sentence of a file with what is given in the place of its words in braces.

    Raises:
        KeyError: there is no such sentence, or a word in braces is not given.
    """
    return sentences(file)[name].format_map(given)
