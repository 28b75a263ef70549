"""The figure of Estimate: a table of tracks over the follow-up."""

from collections.abc import Callable

import numpy as np

from hourglass.analysis.catalogue.intervals import INTERVALS
from hourglass.analysis.catalogue.scales import INTERVAL_SCALES
from hourglass.analysis.estimate.causes import incidence_tracks
from hourglass.analysis.estimate.curves import Estimated
from hourglass.analysis.estimate.means import means_of
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.causes import cause_names
from hourglass.analysis.shared.cohort_summary import over_follow_up
from hourglass.analysis.shared.curve_form import ci
from hourglass.analysis.shared.curve_marks import (
    censored_so_far,
    censoring_marks,
    curve_line,
    interval_area,
    quartile_rings,
)
from hourglass.analysis.shared.curve_tracks import (
    SHARE,
    apart_track,
    counted_tracks,
    difference_track,
    inside_bands,
    pointwise_note,
)
from hourglass.analysis.shared.curves import Curve
from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.description import Figure, Handle, Track
from hourglass.analysis.shared.figure.marks import AnyMark, Bars, Line, Rule, step_area, step_line
from hourglass.analysis.shared.figure.parts import (
    CENSORED,
    CURVE,
    LIMITS,
    POINTWISE,
    QUARTILES,
    as_part,
    parts_of,
)
from hourglass.analysis.shared.figure_groups import everyone, figure_groups
from hourglass.analysis.shared.naming import free_of
from hourglass.core.curves.difference import curve_difference
from hourglass.core.curves.hazard import cumulative_hazard, smoothed_hazard
from hourglass.core.curves.log_log import log_log_line
from hourglass.core.errors import NotEstimableError

OFF = (POINTWISE,)
"""Parts of the curves that are drawn once somebody switches them on."""
GRID = 240
"""Places at which a smoothed hazard is drawn."""


def estimate_figure(found: Estimated, name: str) -> Figure:
    """The curves and the number at risk; every other track is offered."""
    tracks = [track for make in TRACKS for track in make(found)]
    start = next(iter(found.statement.times), None)
    groups = (
        everyone(found.curves[0].label) if found.groups is None else figure_groups(found.groups)
    )
    return over_follow_up(found.cohort, name, tracks, start, groups=groups)


def _survival(found: Estimated) -> list[Track]:
    event, one = found.cohort.statement.event_name, len(found.curves) == 1
    since = found.statement.start
    given = "" if since is None else f", given survival to {formatting.plain(since)}"
    lines = [curve_line(c).model_copy(update={"named": not one}) for c in found.curves]
    limits, note = _intervals(found)
    upright: list[AnyMark] = []
    if since is not None:
        upright = [Rule(at=since, upright=True, dashed=True, label=f"survival to {since:g}")]
    marks: list[AnyMark] = [
        *as_part(LIMITS, limits),
        *inside_bands(found.curves),
        *as_part(CENSORED, map(censoring_marks, found.curves)),
        *as_part(CURVE, lines),
        *as_part(QUARTILES, (ring for c in found.curves for ring in quartile_rings(c))),
        *upright,
    ]
    return [
        Track(
            id="survival",
            title=f"{free_of(event)}{given}",
            axis=SHARE,
            height="room",
            marks=marks,
            parts=parts_of(marks, {LIMITS: note, POINTWISE: pointwise_note(found.curves)}, OFF),
            handles=_limit_handle(found),
        )
    ]


def _bars(found: Estimated) -> list[AnyMark]:
    """± 1 standard error of every curve at the chosen times; none once it is at 0."""
    marks: list[AnyMark] = []
    for curve in found.curves:
        read = [(t, curve.estimate.at(t)) for t in found.statement.times if t >= curve.begins]
        bars = [(t, at.bars) for t, at in read if at is not None and at.bars is not None]
        marks.append(
            Bars(
                label=f"± 1 standard error, {curve.label}",
                tone=curve.tone,
                at=np.array([t for t, _ in bars]),
                low=np.array([low for _, (low, _) in bars]),
                high=np.array([high for _, (_, high) in bars]),
            )
        )
    return marks


def _intervals(found: Estimated) -> tuple[list[AnyMark], str]:
    """What is shaded, and the sentence that states what it is."""
    statement = found.statement
    kind = INTERVALS[statement.intervals]
    if kind.bars:
        return _bars(found), "Bars: S ± 1 standard error at the chosen times, which is no interval."
    if not kind.limits_drawn:
        return [], ""
    limits, areas = found.curves[0].limits, [interval_area(curve) for curve in found.curves]
    shaded = f"{found.curves[0].limits_name}, {INTERVAL_SCALES[statement.scale].name} scale"
    if limits.refused:
        return [*areas], f"Shaded: {shaded}, in place of {kind.name}: {limits.refused}."
    band = INTERVALS[limits.kind].band is not None
    covers = " The whole curve lies in it, at that level." if band else ""
    return [*areas], f"Shaded: {shaded}.{covers}"


def _limit_handle(found: Estimated) -> list[Handle]:
    if found.statement.limit is None or means_of(found).limit > found.cohort.follow_up.end:
        return []
    return [
        Handle(
            label="restricted mean survival time to here",
            at=means_of(found).limit,
            field="limit",
            decimals=found.cohort.decimals.computed,
            tried=True,
        )
    ]


def _apart(found: Estimated) -> list[Track]:
    if len(found.curves) == 1:
        return []
    return [apart_track(found.curves, limits=found.shades)]


def _at_risk(found: Estimated) -> list[Track]:
    return counted_tracks(found.curves)


def _probability(found: Estimated) -> list[Track]:
    """1 − S, with what it is not where there are competing events."""
    note = ""
    if found.cohort.competing:
        note = (
            "With competing events this is not the share that comes to "
            f"{found.cohort.statement.event_name}: see its cumulative incidence."
        )
    marks: list[AnyMark] = []
    for curve in found.curves:
        lower, upper = 1 - curve.upper, 1 - curve.lower
        if found.shades:
            marks.append(
                step_area(
                    f"{curve.limits_name} of {curve.label}",
                    curve.tone,
                    curve.time,
                    lower,
                    upper,
                    curve.data.end,
                )
            )
        marks.append(
            step_line(curve.label, curve.tone, curve.time, 1 - curve.survival, curve.data.end)
        )
    return [
        Track(
            id="event_probability",
            title="Cumulative event probability",
            subtitle="1 − S",
            axis=SHARE,
            shown=False,
            height="room",
            marks=marks,
            note=note,
        )
    ]


def _incidence(found: Estimated) -> list[Track]:
    if not found.cohort.competing or found.statement.start is not None:
        return []
    return incidence_tracks(found, cause_names(found.cohort))


def _hazard_so_far(found: Estimated) -> list[Track]:
    marks: list[AnyMark] = []
    top = 0.0
    limits = f"{ci(found.statement.confidence)} (pointwise), log scale"
    shaded = f" Shaded: {limits}." if found.shades else ""
    for curve in found.curves:
        hazard = cumulative_hazard(
            curve.estimate.table, found.statement.confidence, curve.form.estimator.hazard
        )
        if found.shades:
            marks.append(
                step_area(
                    f"{ci(found.statement.confidence)} (pointwise) of {curve.label}",
                    curve.tone,
                    hazard.time,
                    hazard.lower,
                    hazard.upper,
                    curve.data.end,
                )
            )
        height = np.concatenate([[0.0], hazard.value])
        marks.append(step_line(curve.label, curve.tone, curve.time, height, curve.data.end))
        top = max(top, float(height[-1]))
    return [
        Track(
            id="cumulative_hazard",
            title="Cumulative hazard",
            axis=Axis(low=0, high=1.1 * top or 1.0, form="number"),
            shown=False,
            marks=marks,
            note=f"A sum of rates, no share of people: it may pass 1.{shaded}",
        )
    ]


def _smooth_hazard(found: Estimated) -> list[Track]:
    unit = found.cohort.statement.unit
    lines: list[AnyMark] = []
    top, width, why = 0.0, None, ""
    for curve in found.curves:
        data = curve.data
        first = 0.0 if data.entry is None else max(float(data.entry.min()), 0.0)
        at = np.linspace(first, data.end, GRID)
        try:
            smooth = smoothed_hazard(data, at, found.statement.bandwidth)
        except NotEstimableError as reason:
            why = f"{curve.label}: {reason}. "
            continue
        width = smooth.bandwidth if width is None else width
        top = max(top, float(smooth.value.max()))
        lines.append(
            Line(label=curve.label, tone=curve.tone, x=at, y=smooth.value, step=False, named=True)
        )
    text, handles = "", list[Handle]()
    if width is not None:
        shown = formatting.computed_time(width, found.cohort.decimals)
        text = f"Smoothed over {shown} {unit} to either side; what is drawn depends on that choice."
        handles.append(Handle(label="bandwidth", at=width, field="bandwidth"))
    return [
        Track(
            id="hazard",
            title="Hazard, smoothed",
            subtitle=f"events per {unit.removesuffix('s')} at risk",
            axis=Axis(low=0, high=1.1 * top or 1.0, form="number"),
            shown=False,
            marks=lines,
            handles=handles,
            note=f"{why}{text}",
        )
    ]


def _log_log(found: Estimated) -> list[Track]:
    """ln(−ln S): at each time as far apart as on a logarithmic axis of time."""
    lines = [_log_log_line(curve) for curve in found.curves]
    heights = np.concatenate([line.y for line in lines])
    low, high = (float(heights.min()), float(heights.max())) if heights.size else (-1.0, 1.0)
    air = 0.05 * (high - low) or 1.0
    return [
        Track(
            id="log_log",
            title="ln(−ln S)",
            axis=Axis(low=low - air, high=high + air, form="number"),
            shown=False,
            marks=list(lines),
            note="Under proportional hazards the lines are everywhere equally far apart.",
        )
    ]


def _log_log_line(curve: Curve) -> Line:
    line = log_log_line(curve.estimate)
    return step_line(curve.label, curve.tone, line.time, line.height, curve.data.end)


def _censored(found: Estimated) -> list[Track]:
    lines = [_censored_line(curve) for curve in found.curves]
    top = max(float(line.y[-1]) for line in lines)
    return [
        Track(
            id="censored",
            title="Censoring over time",
            subtitle="censored so far",
            axis=Axis(low=0, high=1.08 * top or 1.0, form="number"),
            shown=False,
            marks=list(lines),
        )
    ]


def _censored_line(curve: Curve) -> Line:
    times, number = censored_so_far(curve)
    time, so_far = np.concatenate([[0.0], times]), np.concatenate([[0.0], number])
    return step_line(curve.label, curve.tone, time, so_far, curve.data.end)


def _difference(found: Estimated) -> list[Track]:
    if len(found.curves) != 2 or found.statement.start is not None:
        return []
    a, b = found.curves
    return [difference_track(a, b, curve_difference(a.estimate, b.estimate), shown=False)]


TRACKS: tuple[Callable[[Estimated], list[Track]], ...] = (
    _survival,
    _apart,
    _at_risk,
    _probability,
    _incidence,
    _hazard_so_far,
    _smooth_hazard,
    _log_log,
    _censored,
    _difference,
)
"""The tracks of Estimate, in the order in which they are offered."""
