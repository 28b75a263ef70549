"""Packing a description with its arrays: the description as JSON, each array's bytes once."""

import io
from typing import Any, TypeVar

import numpy as np
from pydantic import BaseModel

from hourglass.core.arrays import FloatArray

M = TypeVar("M", bound=BaseModel)
_DESCRIPTION = "description"


class ArraysOut:
    """Gathers the arrays of a description; one that occurs several times is kept once, a part of it too."""

    def __init__(self) -> None:
        self.found: list[FloatArray] = []
        self._place: dict[int, int] = {}

    def place(self, array: FloatArray) -> int | list[int]:
        """The place of an array among those gathered; of a part of one, also from where to where."""
        whole = _holder(array)
        if whole is None:
            return self._whole(array)
        first = (array.ctypes.data - whole.ctypes.data) // array.itemsize
        return [self._whole(whole), first, first + array.size]

    def _whole(self, array: FloatArray) -> int:
        at = self._place.setdefault(id(array), len(self.found))
        if at == len(self.found):
            self.found.append(array)
        return at


def _holder(array: FloatArray) -> FloatArray | None:
    """The array that this one is a stretch of."""
    whole = array.base
    if not isinstance(whole, np.ndarray) or whole.dtype != array.dtype:
        return None
    return whole if whole.ndim == 1 and whole.strides == array.strides else None


class ArraysIn:
    """Gives the arrays of a description back."""

    def __init__(self, arrays: Any) -> None:
        self._arrays = arrays
        self._read: dict[int, FloatArray] = {}

    def array(self, place: int | list[int]) -> FloatArray:
        """The array of that place, or the part of it."""
        if isinstance(place, list):
            whole, first, last = place
            return self.array(whole)[first:last]
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
