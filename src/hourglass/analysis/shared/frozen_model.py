"""The base of everything that crosses the edge, and how arrays cross it."""

import math
from typing import Annotated, Any, TypeAlias

import numpy as np
from pydantic import BaseModel, ConfigDict, PlainSerializer, PlainValidator, WithJsonSchema

from hourglass.core.arrays import FloatArray

Numbers: TypeAlias = list[float | None]


class FrozenModel(BaseModel):
    """An immutable value with a schema; unknown keys are refused.

    It can be read off an object that has attributes of the same names.
    """

    model_config = ConfigDict(
        frozen=True,
        extra="forbid",
        from_attributes=True,
        json_schema_serialization_defaults_required=True,
    )


def _to_array(value: Any) -> FloatArray:
    if isinstance(value, np.ndarray):
        return np.asarray(value, dtype=np.float64)
    return np.array([math.nan if v is None else v for v in value], dtype=np.float64)


def numbers(values: np.ndarray) -> Numbers:
    """An array as JSON can hold it: NaN and infinities become null."""
    return [float(v) if math.isfinite(v) else None for v in values.tolist()]


Values: TypeAlias = Annotated[
    np.ndarray,
    PlainValidator(_to_array),
    PlainSerializer(numbers, when_used="json"),
    WithJsonSchema({"type": "array", "items": {"anyOf": [{"type": "number"}, {"type": "null"}]}}),
]
"""An array (n,) of numbers: in JSON a list, null for what is not finite."""


def number(value: float | None) -> float | None:
    """A number as JSON can hold it."""
    return None if value is None or not math.isfinite(value) else float(value)


def ratio_of(beta: float) -> float:
    """exp(beta), held within the range of floating point: beyond 1e304 a ratio is only "huge"."""
    return math.exp(min(max(float(beta), -700.0), 700.0))
