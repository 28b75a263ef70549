"""A model applied to another cohort: its predictions, their order and how they agree with what was seen
there (methods.md, section 9: Validation of a model)."""

from dataclasses import dataclass

import numpy as np

from hourglass.analysis.applied.coded import CodedRows, coded_rows
from hourglass.analysis.model.design import follow_up_of
from hourglass.analysis.model.fitting import fit_model
from hourglass.analysis.model.statement import HazardsModel
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.round_times import middle_of_follow_up
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import Column, NumberColumn
from hourglass.core.arrays import FloatArray
from hourglass.core.errors import NotEstimableError, RefusedRowsError
from hourglass.core.followup import FollowUp
from hourglass.core.progress import ProgressCallback, no_progress
from hourglass.core.regression.calibration import Calibration, compared
from hourglass.core.regression.concordance import Concordance, concordance
from hourglass.core.regression.prediction import Baseline, shared_end
from hourglass.core.subjects import copies_of_subjects, one_for_each

DIGITS = 15


@dataclass(frozen=True, slots=True, kw_only=True)
class Applied:
    """What a model states about the rows of another cohort.

    Attributes:
        rows: those that it can be applied to; ``data``: their follow-up.
        linear: (m,) their linear predictor, less the one of the means that the model was fitted at.
        time: at which survival is predicted; ``survival``: (m,) that of each row, NaN past the end of the
            follow-up that the model was fitted to.
        expected: events that the model expects among them; ``events``: those seen.
        beyond: rows that are followed longer than those of the model, copies included: it expects nothing
            after its last event.
        here, there: concordance where the model was fitted, and among these rows.
        calibration: or why there is none.
    """

    rows: CodedRows
    data: FollowUp
    linear: FloatArray
    time: float
    survival: FloatArray
    expected: float
    events: int
    beyond: int
    here: Concordance
    there: Concordance
    calibration: Calibration | str


def applied(
    own: Cohort,
    model: HazardsModel,
    other: Cohort,
    time: float | None = None,
    progress: ProgressCallback = no_progress,
) -> Applied:
    """Apply a model of one cohort to another.

    Args:
        time: at which survival is predicted; in the middle of the model's follow-up when absent.

    Raises:
        NotEstimableError: when the model has no predictions, or no row of the other cohort fits it.
        UnusableTermError, NoSuchColumnError: when its columns are not there, or hold something else.
    """
    if time is not None and not (time > 0 and np.isfinite(time)):
        raise NotEstimableError("survival is predicted at a time above 0")
    progress("fitting the model", 0.1)
    fitted = fit_model(own, model, progress)
    fitted.require_unpenalised()
    fitted.require_constant_values()
    coded = fitted.design
    if coded.over_time is not None:
        raise NotEstimableError("ratios that change over time have no one linear predictor")
    ends = shared_end(coded.data, coded.stratum)
    if time is not None and time > ends:
        shown = formatting.time(ends, own.decimals)
        raise NotEstimableError(
            "survival is not predicted past the follow-up that the model was fitted to, which ends at "
            f"{shown} {own.statement.unit}"
        )
    baselines = fitted.baselines()
    progress("predicting", 0.5)
    rows = coded_rows(own, coded, model, other)
    if not rows.used.any():
        raise NotEstimableError("no row there has a value that the model knows for every term")
    data = follow_up_of(other, model.cause)[0].only(rows.used)
    at = middle_of_follow_up(own) if time is None else time
    linear, hazard, expected = _predicted(baselines, rows, data, at)
    survival = np.exp(-hazard)
    last = np.array([baselines[k].last if k in baselines else np.nan for k in rows.stratum])
    progress("comparing with what was seen", 0.7)
    stratum = rows.stratum if model.strata else None
    return Applied(
        rows=rows,
        data=data,
        linear=linear,
        time=at,
        survival=survival,
        expected=float(data.count @ expected),
        events=int(data.count[data.event()].sum()),
        beyond=int(data.count[data.exit > last].sum()),
        here=fitted.concordance(),
        there=concordance(data, linear, stratum),
        calibration=_calibration(data, survival, at, ends),
    )


def applied_columns(other: Cohort, found: Applied) -> tuple[Column, ...]:
    """The predictions as columns beside the other cohort's rows; rows that were left out have none."""
    made = []
    for name, values in (
        ("linear predictor", found.linear),
        (f"predicted survival at {formatting.plain(found.time)}", found.survival),
    ):
        own = np.full(other.table.size, np.nan)
        own[found.rows.used] = values
        made.append(NumberColumn(name=name, values=own, decimals=DIGITS))
    return tuple(made)


def _predicted(
    baselines: dict[int, Baseline], rows: CodedRows, data: FollowUp, time: float
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """(m,) the linear predictor, the cumulative hazard at a time, and events expected while followed."""
    linear, hazard, expected = np.zeros((3, data.exit.size))
    for code, baseline in baselines.items():
        own = np.flatnonzero(rows.stratum == code)
        score = baseline.scores(rows.x[own], 0.0)
        linear[own] = (rows.x[own] - baseline.centre) @ baseline.beta
        there = baseline.hazard_at(np.array([time]))[0] if time <= baseline.last else np.nan
        hazard[own] = score * there
        upto = baseline.hazard_at(data.exit[own])
        if data.entry is not None:
            upto = upto - baseline.hazard_at(data.entry[own])
        expected[own] = score * upto
    return linear, hazard, expected


def _calibration(
    data: FollowUp, survival: FloatArray, time: float, last: float
) -> Calibration | str:
    if not 0 < time <= last:
        return "that time lies past the end of the follow-up that the model was fitted to"
    subject, _ = copies_of_subjects(data)
    of_subject, changes = one_for_each(subject, survival[:, None])
    if changes.any():
        return "a value changes within a subject, who then has no one prediction"
    try:
        return compared(data, of_subject[:, 0], time)
    except (NotEstimableError, RefusedRowsError) as why:
        return str(why)
