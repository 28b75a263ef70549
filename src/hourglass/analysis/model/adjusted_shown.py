"""Adjusted curves as they are drawn, and read at chosen times."""

import numpy as np

from hourglass.analysis.model.adjusted import SEED, Adjusted
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import Cell, estimate, words
from hourglass.analysis.shared.curve_form import CurveForm
from hourglass.analysis.shared.curve_tracks import SHARE
from hourglass.analysis.shared.figure.description import Track
from hourglass.analysis.shared.figure.marks import step_line
from hourglass.analysis.shared.numbers import Refused
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import Section, Table, quiet
from hourglass.core.regression.adjusted import SAMPLES

TITLE = "Adjusted survival"


def adjusted_track(found: Adjusted | None, column: str) -> list[Track]:
    """The curves without limits."""
    if found is None or found.curves is None:
        return []
    curves = found.curves
    last = float(curves.time[-1]) if curves.time.size else 0.0
    return [
        Track(
            id="adjusted",
            title=TITLE,
            subtitle=f"by {column}",
            height="room",
            axis=SHARE,
            marks=[
                step_line(label, tone, curves.time, survival, last)
                for label, tone, survival in zip(
                    found.labels, found.tones, curves.survival, strict=True
                )
            ],
            note="The mean of what the model predicts for everybody, put at each level in turn.",
        )
    ]


def adjusted_section(
    found: Adjusted | Refused | None, times: tuple[float, ...], form: CurveForm
) -> Section:
    """Adjusted survival at chosen times, with percentile limits of the refits."""
    if found is None or isinstance(found, Refused) or found.curves is None:
        why = "the model has no such category"
        if found is not None:
            why = found.why if isinstance(found, Refused) else found.blank
        blank = quiet(f"Nothing is adjusted: {why}.")
        return Section(id=SectionId.ADJUSTED, title=TITLE, place="main", blocks=[blank])
    curves = found.curves
    rows: list[list[Cell]] = []
    for level, label in enumerate(found.labels):
        cells: list[Cell] = [words(label, tone=found.tones[level])]
        for k in range(curves.time.size):
            values = (curves.survival[level, k], curves.lower[level, k], curves.upper[level, k])
            value, low, high = (float(v) for v in values)
            limits = (
                f" ({formatting.interval(formatting.share_of_100(low), formatting.percent(high))})"
                if np.isfinite([low, high]).all()
                else ""
            )
            cells.append(estimate(f"{formatting.percent(value)}{limits}", value, low, high))
        rows.append(cells)
    shown = [formatting.plain(float(t)) for t in curves.time]
    table = Table(
        label=TITLE,
        head=["", *(f"at {t} ({form.ci})" for t in shown)],
        keys=["level", *(f"survival_at_{t}" for t in shown)],
        rows=rows,
    )
    about = quiet(
        f"Percentile limits of {SAMPLES} bootstrap refits (seed {SEED}); {curves.left_out} were left out."
    )
    return Section(id=SectionId.ADJUSTED, title=TITLE, place="main", blocks=[table, about])
