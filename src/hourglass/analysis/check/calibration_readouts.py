"""Predicted survival beside what was seen, drawn and in figures
(methods.md, section 9: Validation of a model)."""

import numpy as np

from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import WorkingsOf, number_cell, words
from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.description import Track
from hourglass.analysis.shared.figure.marks import AnyMark, Bars, Line, Points
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import ContentBlock, Section, Table, quiet
from hourglass.core.regression.calibration import Calibration


def calibration_track(
    found: Calibration, unit: str, note: str, opens: WorkingsOf | None = None
) -> Track:
    """Survival as predicted and as seen, by tenths and smoothed.

    Args:
        opens: the workings of a tenth, where there are any.
    """
    numbered = enumerate(found.tenths, start=1)
    tenths = [(k, t.predicted, t.seen) for k, t in numbered if t.seen is not None]
    x = np.array([predicted for _, predicted, _ in tenths])
    y = np.array([seen.survival for _, _, seen in tenths])
    # A tenth of whom nobody is left has no interval.
    shown = [
        (predicted, seen.lower, seen.upper)
        for _, predicted, seen in tenths
        if seen.lower is not None and seen.upper is not None
    ]
    at, low, high = np.array(shown, dtype=np.float64).reshape(-1, 3).T
    marks: list[AnyMark] = [
        Line(
            label="as predicted",
            x=np.array([0.0, 1.0]),
            y=np.array([0.0, 1.0]),
            step=False,
            ghost=True,
        ),
        Bars(label="interval of a decile", at=at, low=low, high=high),
        Points(
            label="deciles, observed",
            glyph="ring",
            x=x,
            y=y,
            rows=[k for k, _, _ in tenths],
            stand_for="decile",
            opens=opens,
        ),
    ]
    if found.smoothed is not None:
        order = np.argsort(found.predicted, kind="stable")
        marks.append(
            Line(
                label="smoothed", x=found.predicted[order], y=found.smoothed.seen[order], step=False
            )
        )
    when = formatting.stated_time(found.time, unit)
    return Track(
        id="calibration",
        title="Calibration",
        subtitle=f"survival at {when}, observed",
        height="room",
        grouped=False,
        axis=Axis(low=0, high=1, form="percent"),
        across=Axis(low=0, high=1, form="percent", label=f"survival at {when}, as predicted"),
        marks=marks,
        note=note,
    )


def differences(found: Calibration | str) -> Section:
    """How far predictions are from what was seen, or why that cannot be shown."""
    title = "Calibration"
    if isinstance(found, str):
        return Section(
            id=SectionId.CALIBRATION, title=title, blocks=[quiet(f"No calibration: {found}.")]
        )
    blocks: list[ContentBlock] = []
    if found.smoothed is None:
        blocks.append(quiet(f"No smooth: {found.blank}."))
    else:
        rows = [
            [words(name), number_cell(formatting.percent(value), value)]
            for name, value in (
                ("Mean difference", found.smoothed.mean),
                ("Median difference", found.smoothed.median),
                ("90th percentile", found.smoothed.ninth_tenth),
            )
        ]
        blocks.append(Table(label=title, keys=["what", "difference"], rows=rows))
    blocks.append(quiet("Absolute differences of survival as predicted and as smoothed."))
    return Section(id=SectionId.CALIBRATION, title=title, blocks=blocks)
