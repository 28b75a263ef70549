"""What methods were called in statements of earlier versions, by the field that names them."""

from collections.abc import Mapping
from types import MappingProxyType

EARLIER_KEYS: Mapping[str, Mapping[str, str]] = MappingProxyType(
    {
        "estimator": {
            "product limit": "Kaplan–Meier",
            "cumulative hazard": "Nelson–Aalen",
            "cumulative hazard, ties spread": "Nelson–Aalen, ties spread",
        },
        "weight": {
            "equal": "log-rank",
            "at risk": "Gehan–Breslow",
            "root at risk": "Tarone–Ware",
            "survival": "Peto–Peto",
            "modified survival": "modified Peto–Peto",
            "early 1, late 0": "Fleming–Harrington 1, 0",
            "early 0, late 1": "Fleming–Harrington 0, 1",
            "early 1, late 1": "Fleming–Harrington 1, 1",
        },
        "question": {
            "ratio over time": "proportional hazards",
            "scale of numbers": "functional form",
            "rows it misses": "outliers",
            "who carries the result": "influence",
            "fit and ranking": "overall fit",
        },
        "residual": {"events expected": "Cox–Snell"},
    }
)
"""Today's key by the earlier one; they stay in logs, which are never rewritten."""
