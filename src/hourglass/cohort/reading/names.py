"""Column names: each there, each its own, none too long."""

from collections import Counter
from collections.abc import Sequence

from hourglass.cohort.reading.recipe import Limits, UnreadableFileError
from hourglass.cohort.words import grouped

LONGEST_NAME = 300


def checked_names(row: Sequence[str], limits: Limits) -> list[str]:
    """The names, trimmed.

    Raises:
        UnreadableFileError: when there are too many, or one is blank, repeated or too long.
    """
    if len(row) > limits.most_columns:
        raise UnreadableFileError(
            f"The header has {grouped(len(row))} columns; at most {grouped(limits.most_columns)} can be read."
        )
    names = [" ".join(name.split()) for name in row]
    blank = [k for k, name in enumerate(names, start=1) if not name]
    if blank:
        raise UnreadableFileError(
            f"{_columns(blank)} no name in the header. Give every column a name and upload again."
        )
    repeated = [name for name, n in Counter(names).items() if n > 1]
    if repeated:
        places = [k for k, name in enumerate(names, start=1) if name == repeated[0]]
        where = ", ".join(map(str, places[:-1])) + f" and {places[-1]}"
        raise UnreadableFileError(
            f"Columns {where} are all called “{repeated[0]}”. "
            "Rename them so that every column has its own name, and upload again."
        )
    long = [k for k, name in enumerate(names, start=1) if len(name) > LONGEST_NAME]
    if long:
        raise UnreadableFileError(
            f"The name of column {long[0]} is longer than {LONGEST_NAME} characters. Shorten it."
        )
    return names


def _columns(places: list[int]) -> str:
    if len(places) == 1:
        return f"Column {places[0]} has"
    shown = ", ".join(map(str, places[:5])) + (" …" if len(places) > 5 else "")
    return f"Columns {shown} have"
