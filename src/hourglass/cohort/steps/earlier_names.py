"""Kinds and fields of steps that had another name in earlier versions of the program."""

from collections.abc import Mapping
from types import MappingProxyType
from typing import Any

EARLIER_KINDS: Mapping[str, str] = MappingProxyType(
    {"spread_tallies": "spread_counts", "gather_happenings": "gather_records"}
)
"""Kinds of steps: what they were called, and what they are called now."""
EARLIER_FIELDS: Mapping[str, Mapping[str, str]] = MappingProxyType(
    {
        "spread_counts": MappingProxyType({"tallies": "counts"}),
        "gather_records": MappingProxyType({"happening": "record"}),
        "keep_one_visit": MappingProxyType({"happening": "column"}),
    }
)
"""Fields of each kind of step: what they were called, and what they are called now."""


def with_names_of_today(step: Any) -> Any:
    """The body of a step with its kind and fields as they are named now; anything else as it is."""
    if not isinstance(step, dict) or not isinstance(step.get("kind"), str):
        return step
    kind = EARLIER_KINDS.get(step["kind"], step["kind"])
    fields = EARLIER_FIELDS.get(kind, {})
    return {fields.get(name, name): value for name, value in {**step, "kind": kind}.items()}


def with_earlier_names(value: Any) -> Any:
    """JSON in which each step has the names of earlier versions, by which plans were sealed."""
    if isinstance(value, list):
        return [with_earlier_names(one) for one in value]
    if not isinstance(value, dict):
        return value
    kind = value.get("kind")
    if not isinstance(kind, str) or kind not in EARLIER_FIELDS:
        return {name: with_earlier_names(one) for name, one in value.items()}
    fields = {today: earlier for earlier, today in EARLIER_FIELDS[kind].items()}
    kinds = {today: earlier for earlier, today in EARLIER_KINDS.items()}
    return {fields.get(name, name): one for name, one in value.items()} | {
        "kind": kinds.get(kind, kind)
    }
