"""Numbers as bytes: the typed values of this program and their arrays, and nothing else."""

import io
import pickle
from types import MappingProxyType
from typing import Any

from hourglass.core.comparison.adjustments import ADJUSTMENTS
from hourglass.core.comparison.weights import WEIGHTS
from hourglass.core.curves.bands import BANDS
from hourglass.core.curves.estimators import ESTIMATORS
from hourglass.core.curves.scales import INTERVAL_SCALES
from hourglass.core.errors import HourglassError
from hourglass.core.regression.ties import TIE_METHODS
from hourglass.core.regression.time_functions import TIME_FUNCTIONS
from hourglass.core.variants import Keyed

TABLES: MappingProxyType[str, tuple[Keyed, ...]] = MappingProxyType(
    {
        "adjustment": ADJUSTMENTS,
        "band": BANDS,
        "estimator": ESTIMATORS,
        "scale": INTERVAL_SCALES,
        "ties": TIE_METHODS,
        "time function": TIME_FUNCTIONS,
        "weight": WEIGHTS,
    }
)
"""Variants go by their table and key: there is one of each, and it is compared by identity."""
_NAMES = {id(one): (table, one.key) for table, every in TABLES.items() for one in every}
_VARIANTS = {(table, one.key): one for table, every in TABLES.items() for one in every}
_OURS = ("hourglass.core.", "hourglass.cohort.", "hourglass.analysis.")
_ARRAYS = frozenset(
    {
        ("numpy", "dtype"),
        ("numpy", "ndarray"),
        ("numpy._core.numeric", "_frombuffer"),
        ("numpy._core.multiarray", "_reconstruct"),
        ("numpy._core.multiarray", "scalar"),
    }
)
"""What NumPy's arrays are made of again by."""


class UnknownPackedError(HourglassError):
    """Bytes that are no packed numbers of this program."""


class _Packer(pickle.Pickler):
    def persistent_id(self, obj: Any) -> Any:
        return _NAMES.get(id(obj))


class _Unpacker(pickle.Unpickler):
    """Makes arrays and this program's own types, and refuses every other name."""

    def persistent_load(self, pid: Any) -> Any:
        return _VARIANTS[pid]

    def find_class(self, module: str, name: str) -> Any:
        if (module, name) in _ARRAYS:
            return super().find_class(module, name)
        if module.startswith(_OURS) and name.isidentifier():
            found = super().find_class(module, name)
            if isinstance(found, type) and found.__module__ == module:
                return found
        raise UnknownPackedError(f"{module}.{name} has no place in packed numbers")


def pack(value: Any) -> bytes:
    """A value of this program's types, with its arrays, as bytes."""
    packed = io.BytesIO()
    _Packer(packed, protocol=5).dump(value)
    return packed.getvalue()


def unpack(packed: bytes) -> Any:
    """The value that was packed.

    Raises:
        UnknownPackedError: for bytes that this program cannot have packed.
    """
    try:
        return _Unpacker(io.BytesIO(packed)).load()
    except (
        pickle.UnpicklingError,
        EOFError,
        LookupError,
        AttributeError,
        TypeError,
        ValueError,
    ) as why:
        raise UnknownPackedError(f"these are no packed numbers: {why}") from None
