"""The levels of a category as they are: log–log lines, and curves as seen beside those predicted."""

import numpy as np

from hourglass.analysis.check.checked import Checked
from hourglass.analysis.shared.curve_tracks import SHARE
from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.description import Track
from hourglass.analysis.shared.figure.marks import AnyMark, Line, step_line
from hourglass.analysis.shared.groups import Groups, group_by
from hourglass.core.arrays import FloatArray
from hourglass.core.curves.log_log import log_log_line
from hourglass.core.curves.survival import SurvivalCurve, survival_curve
from hourglass.core.regression.prediction import baselines_of
from hourglass.core.risk_table import risk_table

PLACES = 80
AT_ONCE = 1 << 21
"""So many predicted values are held at a time."""


def level_tracks(checked: Checked) -> list[Track]:
    """Of the first category of the model; nothing where it has none."""
    coded = checked.fitted.design
    found = next((t for t in coded.stated_terms if t.against_reference), None)
    if found is None:
        return []
    groups = group_by(checked.cohort.table, found.column, found.reference_level)
    code = groups.code[coded.place]
    curves = {
        k: survival_curve(risk_table(coded.data.only(code == k)))
        for k in range(len(groups.labels))
        if (code == k).any()
    }
    seen = [_log_log(found.column, groups, curves)]
    if coded.over_time is None and coded.data.subject is None:
        seen.append(_predicted(checked, found.column, groups, curves))
    return seen


def _log_log(name: str, groups: Groups, curves: dict[int, SurvivalCurve]) -> Track:
    lines = {k: log_log_line(curve) for k, curve in curves.items()}
    times = np.concatenate([line.time for line in lines.values()])
    heights = np.concatenate([line.height for line in lines.values()])
    low, high = (float(times.min()), float(times.max())) if times.size else (1.0, 2.0)
    bottom, top = (float(heights.min()), float(heights.max())) if heights.size else (-1.0, 1.0)
    return Track(
        id="log-log",
        title="Log–log",
        subtitle=f"ln(−ln S) by {name}",
        shown=False,
        axis=Axis(low=bottom - 0.1, high=max(top + 0.1, bottom + 0.2), form="number", signed=True),
        across=Axis(
            low=low, high=max(high, 1.0001 * low), form="ratio", label="time, on the log scale"
        ),
        marks=[
            Line(
                label=groups.labels[k], tone=groups.tone(k), x=line.time, y=line.height, named=True
            )
            for k, line in lines.items()
        ],
        note="Under proportional hazards the lines of the levels are parallel.",
    )


def _predicted(
    checked: Checked, name: str, groups: Groups, curves: dict[int, SurvivalCurve]
) -> Track:
    """Each level's own curve, and the mean of what the model predicts for those who have it."""
    code = groups.code[checked.fitted.design.place]
    time = np.linspace(0.0, checked.cohort.follow_up.end, PLACES)
    marks: list[AnyMark] = []
    for k, curve in curves.items():
        end = float(checked.fitted.design.data.exit[code == k].max())
        marks.append(
            step_line(groups.labels[k], groups.tone(k), curve.table.time, curve.survival, end)
        )
        mean = _mean_prediction(checked, code == k, time)
        label = f"{groups.labels[k]}, predicted"
        marks.append(Line(label=label, tone=groups.tone(k), x=time, y=mean, step=False, ghost=True))
    return Track(
        id="observed-predicted",
        title="Observed and predicted survival",
        subtitle=f"survival by {name}",
        shown=False,
        height="room",
        axis=SHARE,
        marks=marks,
        note="Steps: observed. Faint: the mean prediction for the same subjects.",
    )


def _mean_prediction(checked: Checked, rows: np.ndarray, time: FloatArray) -> FloatArray:
    """(m,) the mean survival that the model predicts for some rows."""
    coded, fit = checked.fitted.design, checked.fitted.plain
    made = baselines_of(coded.data, coded.x, fit)
    # Nobody has the event in a stratum without one: predicted survival there is 1.
    eventless = np.zeros(rows.size, dtype=bool)
    if coded.stratum is not None:
        eventless = rows & ~np.isin(coded.stratum, list(made))
    weight = float(coded.data.count[eventless].sum())
    total = np.full(time.size, weight)
    for stratum, baseline in made.items():
        own = rows if coded.stratum is None else rows & (coded.stratum == stratum)
        places = np.flatnonzero(own)
        step = max(AT_ONCE // time.size, 1)
        for start in range(0, places.size, step):
            some = places[start : start + step]
            hazard = baseline.hazards(coded.x[some], fit.offset[some], time)
            total += coded.data.count[some] @ np.exp(-hazard)
            weight += float(coded.data.count[some].sum())
    return np.asarray(total / weight) if weight else np.full(time.size, np.nan)
