"""Packing a description with its arrays: the description as JSON, each array's bytes once."""

import io
from typing import Any, TypeVar

import numpy as np
from pydantic import BaseModel

from hourglass.core.arrays import FloatArray

M = TypeVar("M", bound=BaseModel)
_DESCRIPTION = "description"


class ArraysOut:
    """Gathers the arrays of a description; one that occurs several times is kept once."""

    def __init__(self) -> None:
        self.found: list[FloatArray] = []
        self._place: dict[int, int] = {}

    def place(self, array: FloatArray) -> int:
        """The place of an array among those gathered."""
        at = self._place.setdefault(id(array), len(self.found))
        if at == len(self.found):
            self.found.append(array)
        return at


class ArraysIn:
    """Gives the arrays of a description back."""

    def __init__(self, arrays: Any) -> None:
        self._arrays = arrays
        self._read: dict[int, FloatArray] = {}

    def array(self, place: int) -> FloatArray:
        """The array of that place."""
        if place not in self._read:
            self._read[place] = np.asarray(self._arrays[str(place)])
        return self._read[place]


def pack(described: BaseModel) -> bytes:
    """A description with its arrays as bytes (NumPy's own archive, without compression)."""
    out = ArraysOut()
    text = described.model_dump_json(context=out).encode()
    arrays = {str(k): np.ascontiguousarray(array) for k, array in enumerate(out.found)}
    packed = io.BytesIO()
    np.savez(packed, allow_pickle=False, **{_DESCRIPTION: np.frombuffer(text, np.uint8)}, **arrays)
    return packed.getvalue()


def unpack(kind: type[M], packed: bytes) -> M:
    """The description that was packed."""
    with np.load(io.BytesIO(packed), allow_pickle=False) as archive:
        text = archive[_DESCRIPTION].tobytes()
        return kind.model_validate_json(text, context=ArraysIn(archive))
