"""How many bytes a value holds, well enough to keep within a budget."""

import sys
from collections.abc import Collection, Mapping
from dataclasses import fields, is_dataclass
from itertools import islice
from typing import Any

from pydantic import BaseModel

LOOKED_AT = 64
"""Things of a long collection that are looked at; the others are taken to be as large."""


def size_of(value: Any) -> int:
    """Bytes of a value with all that it is made of; what is in it twice is counted once."""
    return _size(value, set())


def _size(value: Any, seen: set[int]) -> int:
    if id(value) in seen:
        return 0
    seen.add(id(value))
    own = getattr(value, "nbytes", None)
    if isinstance(own, int):
        return own + sys.getsizeof(None)
    if isinstance(value, str | bytes | bytearray | int | float | bool | None):
        return sys.getsizeof(value)
    if is_dataclass(value) and not isinstance(value, type):
        return sum(_size(getattr(value, one.name, None), seen) for one in fields(value))
    if isinstance(value, BaseModel):
        return _size(vars(value), seen)
    if isinstance(value, Mapping):
        return (
            sys.getsizeof(value) + _sum(list(value.keys()), seen) + _sum(list(value.values()), seen)
        )
    if isinstance(value, Collection):
        return sys.getsizeof(value) + _sum(value, seen)
    return sys.getsizeof(value)


def _sum(items: Collection[Any], seen: set[int]) -> int:
    if len(items) <= LOOKED_AT:
        return sum(_size(item, seen) for item in items)
    part = sum(_size(item, seen) for item in islice(items, LOOKED_AT))
    return part * len(items) // LOOKED_AT
