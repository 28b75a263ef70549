"""Cumulative incidence by cause, where events compete."""

import numpy as np

from hourglass.analysis.estimate.curves import Estimated
from hourglass.analysis.shared.curve_tracks import SHARE
from hourglass.analysis.shared.curves import Curve
from hourglass.analysis.shared.figure.description import Panel, Track
from hourglass.analysis.shared.figure.marks import AnyMark, Area, step_area, step_line
from hourglass.core.competing.incidence import Incidence, cause_table, incidence


def incidences(curve: Curve, causes: int, confidence: float) -> list[Incidence]:
    """The cumulative incidence of every cause."""
    table = cause_table(curve.data)
    return [incidence(table, status, confidence) for status in range(1, causes + 1)]


def incidence_tracks(found: Estimated, names: tuple[str, ...]) -> list[Track]:
    """By cause, apart with intervals and stacked; of groups, the event's apart and all causes stacked."""
    each = [incidences(c, len(names), found.statement.confidence) for c in found.curves]
    return [_apart(found, names, each), _stacked(found, names, each)]


def _apart(found: Estimated, names: tuple[str, ...], each: list[list[Incidence]]) -> Track:
    if found.grouped:
        shown = [(c.label, c.tone, of[0], c) for c, of in zip(found.curves, each, strict=True)]
        title = f"Cumulative incidence of {names[0]}"
    else:
        shown = [
            (name, k, of, found.curves[0])
            for k, (name, of) in enumerate(zip(names, each[0], strict=True))
        ]
        title = "Cumulative incidence by cause"
    marks: list[AnyMark] = []
    for label, tone, of, curve in shown:
        marks.append(
            step_area(f"interval of {label}", tone, of.time, of.lower, of.upper, curve.data.end)
        )
        marks.append(step_line(label, tone, *_from_zero(of.time, of.value), curve.data.end))
    return Track(
        id="incidence",
        title=title,
        axis=SHARE,
        shown=not found.grouped,
        height="room",
        marks=marks,
        note="The share whose first event is of that cause, by each time; all causes and event-free survival "
        "add up to 100%.",
    )


def _stacked(found: Estimated, names: tuple[str, ...], each: list[list[Incidence]]) -> Track:
    panels = [
        Panel(title=curve.label, tone=curve.tone, marks=list(_stack(curve, names, of)))
        for curve, of in zip(found.curves, each, strict=True)
    ]
    return Track(
        id="incidence_stacked",
        title="Incidence, stacked",
        subtitle="all causes",
        axis=SHARE,
        grouped=False,
        shown=False,
        height="room",
        panels=panels if found.grouped else [],
        marks=[] if found.grouped else panels[0].marks,
        note=f"From below: {', '.join(names)}; above them event-free survival.",
    )


def _stack(curve: Curve, names: tuple[str, ...], each: list[Incidence]) -> list[Area]:
    areas, low = [], np.zeros(each[0].time.size + 1)
    for k, (name, of) in enumerate(zip(names, each, strict=True)):
        time, value = _from_zero(of.time, of.value)
        area = step_area(name, k, time, low, low + value, curve.data.end)
        areas.append(area.model_copy(update={"fill": "full", "caption": name}))
        low = low + value
    return areas


def _from_zero(time: np.ndarray, value: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    return np.concatenate([[0.0], time]), np.concatenate([[0.0], value])
