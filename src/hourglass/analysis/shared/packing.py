"""Numbers as bytes: the typed values of this program and their arrays, and nothing else."""

import io
import pickle
from collections.abc import Mapping
from types import MappingProxyType
from typing import Any

from hourglass.analysis.catalogue.adjustments import ADJUSTMENTS
from hourglass.analysis.catalogue.entry import MethodEntry
from hourglass.analysis.catalogue.estimators import ESTIMATORS
from hourglass.analysis.catalogue.intervals import INTERVALS
from hourglass.analysis.catalogue.scales import INTERVAL_SCALES
from hourglass.analysis.catalogue.ties import TIE_METHODS
from hourglass.analysis.catalogue.time_functions import TIME_FUNCTIONS
from hourglass.analysis.catalogue.weights import WEIGHTS
from hourglass.core.errors import HourglassError
from hourglass.core.variants import Keyed


def _methods(entries: Mapping[str, MethodEntry]) -> tuple[Keyed, ...]:
    return tuple(entry.method for entry in entries.values())


TABLES: MappingProxyType[str, tuple[Keyed, ...]] = MappingProxyType(
    {
        "adjustment": _methods(ADJUSTMENTS),
        "intervals": _methods(INTERVALS),
        "estimator": _methods(ESTIMATORS),
        "scale": _methods(INTERVAL_SCALES),
        "ties": _methods(TIE_METHODS),
        "time function": _methods(TIME_FUNCTIONS),
        "weight": _methods(WEIGHTS),
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
