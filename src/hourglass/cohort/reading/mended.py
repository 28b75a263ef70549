"""What was mended in a file rather than refused: each is listed, with where it was."""

import json
import re
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import asdict, dataclass

from hourglass.cohort.reading.recipe import Limits, UnreadableFileError
from hourglass.cohort.words import grouped, listed

MAX_NAME_CHARACTERS = 300
INVISIBLE = "\u00ad\u200b\u200e\u200f\u2060\ufeff\u202a\u202b\u202c\u202d\u202e"
"""Characters that nobody sees: soft hyphens, spaces of no width, marks of direction."""
UNSEEN = re.compile(f"[{INVISIBLE}]")


@dataclass(frozen=True, slots=True)
class Mended:
    """Something that was mended.

    Attributes:
        about: what it is, in a word; ``title`` and ``why`` describe it in full.
        rows: the numbers of the rows concerned; ``columns``: the columns.
    """

    about: str
    title: str
    why: str
    rows: tuple[int, ...] = ()
    columns: tuple[str, ...] = ()


def to_text(every: Iterable[Mended]) -> str:
    """As JSON, to be kept beside the table."""
    return json.dumps([asdict(one) for one in every])


def from_text(text: str) -> tuple[Mended, ...]:
    """As it was kept."""
    return tuple(
        Mended(**{**one, "rows": tuple(one["rows"]), "columns": tuple(one["columns"])})
        for one in json.loads(text)
    )


def seen(text: str) -> str:
    """A text without what nobody sees, its spaces single."""
    return " ".join(UNSEEN.sub("", text).split())


def mended_names(row: Sequence[str], limits: Limits) -> tuple[list[str], list[Mended]]:
    """Names of columns, each there and each its own, and what was mended for it.

    Raises:
        UnreadableFileError: when there are too many, or one is too long.
    """
    if len(row) > limits.most_columns:
        raise UnreadableFileError(
            f"The header has {grouped(len(row))} columns; at most {grouped(limits.most_columns)} can be read."
        )
    names = [seen(name) for name in row]
    long = [k for k, name in enumerate(names, start=1) if len(name) > MAX_NAME_CHARACTERS]
    if long:
        raise UnreadableFileError(
            f"The name of column {long[0]} is longer than {MAX_NAME_CHARACTERS} characters. Shorten it."
        )
    mended = []
    hidden = [name for name, was in zip(names, row, strict=True) if UNSEEN.search(was)]
    if hidden:
        mended.append(
            Mended(
                "names",
                f"Invisible characters were taken out of the {_of('name', hidden)}",
                "Two names that look alike would have been two columns.",
                columns=tuple(hidden),
            )
        )
    blank = [k for k, name in enumerate(names) if not name]
    taken = {name for name in names if name}
    for k in blank:
        names[k] = _free(f"column {k + 1}", taken)
    if blank:
        called = [names[k] for k in blank]
        mended.append(
            Mended(
                "names",
                f"{'A column has' if len(blank) == 1 else f'{len(blank)} columns have'} no name in the "
                f"header: called {listed(called)} by their place",
                "Name what matters by a label, so that tables and figures say what it is.",
                columns=tuple(called),
            )
        )
    repeated = [name for name, n in Counter(names).items() if n > 1]
    for name in repeated:
        for k in [k for k, held in enumerate(names) if held == name][1:]:
            names[k] = _free(name, taken)
    if repeated:
        mended.append(
            Mended(
                "names",
                f"Several columns are called {listed([f'“{name}”' for name in repeated])}: "
                "the later ones have a number after the name now",
                "Look which of them is the right one before it is used.",
                columns=tuple(name for name in names if any(name.startswith(r) for r in repeated)),
            )
        )
    return names, mended


def lists_left_out(names: Sequence[str]) -> list[Mended]:
    """The note about columns that were left out because their cells hold several values."""
    if not names:
        return []
    one = len(names) == 1
    return [
        Mended(
            "lists",
            f"{'A column whose cells hold' if one else f'{len(names)} columns whose cells hold'} lists or "
            f"records {'was' if one else 'were'} left out: {listed(names)}",
            "A cell of a table is one value. If one of these is needed, give each of its values a column or "
            "a row where the file comes from.",
        )
    ]


def _free(name: str, taken: set[str]) -> str:
    """A name that no other column has."""
    found, k = name, 2
    while found in taken:
        found, k = f"{name} ({k})", k + 1
    taken.add(found)
    return found


def _of(noun: str, names: Sequence[str]) -> str:
    return f"{noun} of {listed(names)}" if len(names) == 1 else f"{noun}s {listed(names)}"
