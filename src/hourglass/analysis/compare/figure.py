"""The figure of Compare: curves by group, number at risk, evidence, difference."""

import numpy as np

from hourglass.analysis.compare.groups import Comparison
from hourglass.analysis.compare.threshold import profile_track
from hourglass.analysis.estimate.causes import incidence_tracks
from hourglass.analysis.estimate.curves import Estimated
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.causes import cause_names
from hourglass.analysis.shared.cohort_summary import over_follow_up
from hourglass.analysis.shared.curve_marks import (
    censoring_marks,
    curve_line,
    interval_area,
    quartile_rings,
)
from hourglass.analysis.shared.curve_tracks import apart_track, counted_tracks, difference_track
from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.description import Figure, Track, symmetric
from hourglass.analysis.shared.figure.marks import AnyMark, Line, Rule, step_area, step_line
from hourglass.analysis.shared.figure.parts import (
    BAND,
    CENSORED,
    CURVE,
    LIMITS,
    QUARTILES,
    as_part,
    parts_of,
)
from hourglass.analysis.shared.figure_groups import figure_groups
from hourglass.analysis.shared.ink import INK
from hourglass.analysis.shared.naming import free_of
from hourglass.cohort.followup import Cohort
from hourglass.core.comparison.thresholds import ThresholdProfile
from hourglass.core.curves.difference import CurveDifference

OFF = (LIMITS, QUARTILES)
"""Parts of the curves that are drawn once somebody switches them on."""


def compare_figure(
    cohort: Cohort,
    found: Comparison,
    apart: CurveDifference,
    profile: ThresholdProfile | None,
    name: str,
    start: float | None,
) -> Figure:
    """Tracks over time; the curves with each its interval are offered, not shown at first."""
    curves = found.curves
    tracks = [
        _survival(cohort, found, apart),
        apart_track(curves, limits=True),
        *counted_tracks(curves),
        *profile_track(cohort, found, profile),
        _evidence(cohort, found),
        _difference(found, apart),
        *_incidence(cohort, found),
    ]
    return over_follow_up(cohort, name, tracks, start, groups=figure_groups(found.groups))


def _survival(cohort: Cohort, found: Comparison, apart: CurveDifference) -> Track:
    band = step_area(
        f"difference band, {found.contrasted} and {found.reference}",
        INK,
        apart.time,
        apart.band_low,
        apart.band_high,
        found.end,
    ).model_copy(update={"caption": "difference band"})
    confidence = formatting.level_percent(found.curves[0].estimate.confidence)
    curves = found.curves
    marks: list[AnyMark] = [
        *as_part(BAND, [band]),
        *as_part(LIMITS, map(interval_area, curves)),
        *as_part(CENSORED, map(censoring_marks, curves)),
        *as_part(CURVE, map(curve_line, curves)),
        *as_part(QUARTILES, (ring for curve in curves for ring in quartile_rings(curve))),
    ]
    notes = {
        BAND: f"Grey band: {found.contrasted} and {found.reference} lie outside it wherever the "
        f"{confidence} interval of their difference leaves out 0, one time at a time.",
        LIMITS: f"Shaded in the tone of its curve: {curves[0].limits_name}.",
    }
    return Track(
        id="survival",
        title=free_of(cohort.statement.event_name),
        axis=Axis(low=0, high=1, form="percent"),
        height="room",
        marks=marks,
        parts=parts_of(marks, notes, OFF),
    )


def _incidence(cohort: Cohort, found: Comparison) -> list[Track]:
    """With competing events, the cumulative incidence by group is offered."""
    if not cohort.competing:
        return []
    stated = EstimateStatement(by=found.groups.column, confidence=found.form.confidence)
    return incidence_tracks(Estimated(cohort, stated, found.curves), cause_names(cohort))


def _difference(found: Comparison, apart: CurveDifference) -> Track:
    track = difference_track(found.curves[0], found.curves[found.contrast], apart)
    margin = found.statement.margin
    if margin is None or track.axis is None:
        return track
    rule = Rule(at=-margin.size, label="margin", dashed=True)
    low = min(track.axis.low, -1.2 * margin.size)
    axis = track.axis.between(low, max(track.axis.high, -low))
    note = f"Dashed: the margin of {formatting.points(-margin.size)} points."
    return track.model_copy(update={"axis": axis, "marks": [*track.marks, rule], "note": note})


def _evidence(cohort: Cohort, found: Comparison) -> Track:
    """Excess events of the reference group as they add up (of every group, when more than two)."""
    confidence = found.curves[0].estimate.confidence
    shown = range(1) if len(found.curves) == 2 else range(len(found.curves))
    lines: list[Line] = []
    time = spread = np.zeros(1)
    for k in shown:
        evidence = found.log_rank.evidence(k, confidence)
        if k == 0:  # the times are those of all groups together
            time = np.concatenate([[0.0], evidence.time])
            spread = np.concatenate([[0.0], evidence.limit])
        own = found.curves[k]
        course = np.concatenate([[0.0], evidence.course])
        lines.append(step_line(own.label, own.tone, time, course, own.data.end))
    low, high = symmetric(spread, *(one.y for one in lines))
    whose = found.reference
    weighted = "" if (found.log_rank.weight == 1).all() else ", weighted"
    return Track(
        id="evidence",
        title="Observed minus expected",
        subtitle=f"events, cumulative{weighted}{' in ' + whose if len(lines) == 1 else ''}",
        axis=Axis(low=low, high=high, form="number", signed=True),
        marks=[
            Rule(at=0, label="as expected"),
            step_area(f"limits for {whose}", INK, time, -spread, spread, cohort.follow_up.end),
            *lines,
        ],
        note=f"Observed minus expected events{weighted}, added up over time. Shaded: limits for "
        f"{whose} at each single time ({formatting.level_percent(confidence)}), not for the whole course.",
    )
