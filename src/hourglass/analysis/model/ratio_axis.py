"""The horizontal axis of hazard ratios, as far on one side of 1 as on the other."""

import math
from collections.abc import Sequence

import numpy as np

from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.description import Track
from hourglass.core.arrays import FloatArray

LEAST_REACH, MAX_REACH = 2.2, 100.0
"""Ratios up to which, and not beyond which, the axis reaches."""


def ratio_axis(log_ratios: FloatArray) -> Axis:
    """An axis that holds ratios and their limits, not stretched by one that is very wide; NaN for none."""
    known = np.abs(log_ratios[np.isfinite(log_ratios)])
    farthest = float(known.max(initial=math.log(LEAST_REACH)))
    reach = math.exp(min(1.05 * farthest, math.log(MAX_REACH)))
    return Axis(low=1 / reach, high=reach, form="ratio", label="← slower · hazard ratio · faster →")


def on_one_ratio_axis(tracks: Sequence[Track]) -> list[Track]:
    """The tracks, those of ratios on the widest of their axes: forests on one page are read side by side."""
    axes = [t.across for t in tracks if t.across is not None and t.across.form == "ratio"]
    if len(axes) < 2:
        return list(tracks)
    widest = max(axes, key=lambda axis: axis.high)
    return [
        track.model_copy(update={"across": widest})
        if track.across is not None and track.across.form == "ratio"
        else track
        for track in tracks
    ]
