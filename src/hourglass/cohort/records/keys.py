"""Whose each row of a further table is: keys compared as typed
(methods.md, section 11: Several tables; time-varying covariates, "Keys")."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hourglass.cohort.table import Column, DateColumn, NumberColumn, TextColumn


@dataclass(frozen=True, slots=True)
class AlikeKey:
    """A key that no subject has, and the subject's key that it is like.

    Attributes:
        written: as the further table has it; ``known``: as the follow-up table has it.
        rows: (k,) the rows with it, by position.
    """

    written: str
    known: str
    rows: NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class MatchedKeys:
    """Whose each row is.

    Attributes:
        place: (m,) the position of the key among those of the subjects; −1 where there is none.
        missing: (m,) True where the key is missing.
        alike: keys that no subject has, but that are like one but for case, spaces, leading zeros, or
            a number against text: they are not joined.
    """

    place: NDArray[np.int64]
    missing: NDArray[np.bool_]
    alike: tuple[AlikeKey, ...]

    @property
    def unknown(self) -> NDArray[np.bool_]:
        """(m,) True where there is a key, and no subject has it."""
        return (self.place < 0) & ~self.missing


def matched(known: Column, keys: Column) -> MatchedKeys:
    """Match the keys of a further table to those of the subjects: numbers as numbers, texts exactly.

    Args:
        known: (s,) the key of each subject, distinct.
        keys: (m,) those of the further table.
    """
    names, code = _distinct(keys)
    subjects, of_subject = _distinct(known)
    place_of = {subjects[c]: k for k, c in enumerate(of_subject.tolist()) if c >= 0}
    places = np.array([*(place_of.get(name, -1) for name in names), -1], dtype=np.int64)
    place = places[code]
    return MatchedKeys(place, code < 0, tuple(_alike(names, code, places, place_of)))


Key = float | str


def _distinct(column: Column) -> tuple[list[Key], NDArray[np.int64]]:
    """The distinct keys, and each row's place among them; −1 where it is missing."""
    if isinstance(column, TextColumn):
        return list(column.levels), column.codes.astype(np.int64)
    if isinstance(column, DateColumn):
        distinct, place = np.unique(column.values, return_inverse=True)
        return [str(v) for v in distinct], np.where(column.missing, -1, place)
    distinct, place = np.unique(column.values, return_inverse=True)
    return [float(v) for v in distinct], np.where(column.missing, -1, place)


def _alike(
    names: list[Key], code: NDArray[np.int64], places: NDArray[np.int64], place_of: dict[Key, int]
) -> Iterator[AlikeKey]:
    unknown = [k for k in np.unique(code[code >= 0]).tolist() if places[k] < 0]
    if not unknown:
        return
    folded = {_folded(known): known for known in place_of}
    for k in unknown:
        known = folded.get(_folded(names[k]))
        if known is not None:
            yield AlikeKey(_written(names[k]), _written(known), np.flatnonzero(code == k))


def _folded(key: Key) -> str:
    """A key without what a mistake in typing changes."""
    text = "".join(_written(key).split()).casefold()
    return text.lstrip("0") or text[-1:]


def _written(key: Key) -> str:
    return f"{key:.15g}" if isinstance(key, float) else key


def key_column(column: Column) -> bool:
    """Whether a column can hold keys."""
    return isinstance(column, TextColumn | NumberColumn)
