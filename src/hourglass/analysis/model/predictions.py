"""Predicted curves of profiles, with what is read of them, beside the curves as they are seen."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from hourglass.analysis.model.distinguished import distinguished_by_level, tones_of_profiles
from hourglass.analysis.model.fitting import FittedModel
from hourglass.analysis.model.profiles import Whom, core_profile, whom
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import Cell, estimate, missing_note, number_cell, words
from hourglass.analysis.shared.curve_form import CurveForm
from hourglass.analysis.shared.curve_marks import curve_line
from hourglass.analysis.shared.curve_readouts import QuantileReadout
from hourglass.analysis.shared.curve_tracks import SHARE
from hourglass.analysis.shared.curves import curves_of_groups
from hourglass.analysis.shared.figure.description import Track
from hourglass.analysis.shared.figure.marks import AnyMark, step_area, step_line
from hourglass.analysis.shared.figure.series import Series
from hourglass.analysis.shared.groups import Groups
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import (
    ContentBlock,
    Section,
    Table,
    TimedCell,
    TimedRow,
    TimedTable,
    Words,
    quiet,
)
from hourglass.cohort.followup import Cohort
from hourglass.cohort.time_decimals import TimeDecimals
from hourglass.core.errors import NotEstimableError
from hourglass.core.regression.prediction import Predicted

TITLE = "Predictions"


@dataclass(frozen=True, slots=True)
class Prediction:
    """The curve of a profile, or why there is none."""

    of: Whom
    curve: Predicted | None
    blank: str = ""


def predictions(
    cohort: Cohort, fitted: FittedModel, statement: ModelStatement, form: CurveForm
) -> list[Prediction]:
    """The predicted curve of every profile; of the form its level alone."""
    if not statement.profiles:
        return []
    model, coded = statement.hazards_model, fitted.design
    subjects = [whom(cohort, model, profile) for profile in statement.profiles]
    try:
        fitted.require_unpenalised()
        fitted.require_constant_values()
        made = fitted.baselines()
    except NotEstimableError as why:
        return [Prediction(one, None, str(why)) for one in subjects]
    found = []
    for one in subjects:
        try:
            profile = core_profile(cohort, coded, model, one)
            baseline = made.get(profile.stratum)
            if baseline is None:
                raise NotEstimableError("its stratum has no event, so it has no baseline")
            x = profile.x
            if coded.over_time is not None:
                x = coded.over_time.profile(x, baseline.time)
            found.append(Prediction(one, baseline.survival(x, form.confidence)))
        except NotEstimableError as why:
            found.append(Prediction(one, None, str(why)))
    return found


def prediction_tracks(
    cohort: Cohort,
    statement: ModelStatement,
    found: list[Prediction],
    form: CurveForm,
    levels: Groups | None,
) -> list[Track]:
    """The curves of the profiles, and those of the levels of a category as they are seen."""
    if not any(one.curve for one in found):
        return []
    subjects = [one.of for one in found]
    tones = tones_of_profiles(subjects, levels)
    marks: list[AnyMark] = []
    for tone, one in zip(tones, found, strict=True):
        if one.curve is not None:
            c = one.curve
            marks.append(
                step_area(f"{form.ci} of {one.of.label}", tone, c.time, c.lower, c.upper, c.last)
            )
    for tone, one in zip(tones, found, strict=True):
        if one.curve is not None:
            c = one.curve
            time, survival = np.append(0.0, c.time), np.append(1.0, c.survival)
            marks.append(step_line(one.of.label, tone, time, survival, c.last))
    tracks = [
        Track(
            id="predicted",
            title="Predicted survival",
            subtitle="by the model",
            height="room",
            grouped=distinguished_by_level(subjects, levels),
            axis=SHARE,
            marks=marks,
            note=f"Shaded: {form.ci} (pointwise), log–log scale (Tsiatis 1981; Link 1984).",
        )
    ]
    return [*tracks, *_seen(cohort, statement, form, levels)]


def _seen(
    cohort: Cohort, statement: ModelStatement, form: CurveForm, levels: Groups | None
) -> list[Track]:
    if levels is None or statement.cause:
        return []
    curves = curves_of_groups(cohort.follow_up, form, levels.labels, levels.code, levels.tones)
    return [
        Track(
            id="unadjusted",
            title="As seen",
            subtitle=f"by {levels.column}, not adjusted",
            height="room",
            axis=SHARE,
            marks=[curve_line(curve) for curve in curves],
        )
    ]


def prediction_sections(
    cohort: Cohort,
    statement: ModelStatement,
    found: list[Prediction],
    times: tuple[float, ...],
    form: CurveForm,
    levels: Groups | None,
) -> list[Section]:
    """What is read of each curve: median, restricted mean, survival at chosen times; and at the sand line."""
    if not found:
        return []
    curves = [one.curve for one in found if one.curve is not None]
    limit = min((c.last for c in curves), default=0.0)
    unit, decimals = cohort.statement.unit, cohort.decimals
    to = formatting.time(limit, decimals)
    rows: list[list[Cell]] = []
    tones = tones_of_profiles([one.of for one in found], levels)
    for tone, one in zip(tones, found, strict=True):
        name = words(
            one.of.label, tone=tone, below=f"else usual: {one.of.rest}" if one.of.rest else ""
        )
        if one.curve is None:
            rows.append([name, words(one.blank, wordy=True)])
            continue
        rows.append([name, *_median(one.curve, decimals), _mean(one.curve, limit, decimals)])
        rows[-1] += [_at(one.curve, t) for t in times]
    table = Table(
        label=TITLE,
        head=[
            "",
            f"median, {unit} ({form.ci})",
            f"restricted mean to {to}",
            *(f"at {formatting.plain(t)} ({form.ci})" for t in times),
        ],
        keys=["profile", "median", "restricted_mean", *(f"survival_at_{t:g}" for t in times)],
        rows=rows,
    )
    about = (
        "Survival as the model predicts it for somebody with these values; an interval says how well the "
        "curve is known, not how long one person will live."
    )
    blocks: list[ContentBlock] = [table, quiet(about)]
    if statement.cause or cohort.competing:
        blocks.append(
            Words(
                text="With competing events this is no probability of being free of the event: it takes the "
                "others as censored."
            )
        )
    sections = [Section(id=SectionId.PREDICTIONS, title=TITLE, place="main", blocks=blocks)]
    if curves:
        sections.append(Section(id=SectionId.PREDICTED_NOW, blocks=[_timed(found, form, tones)]))
    return sections


def _median(curve: Predicted, decimals: TimeDecimals) -> list[Cell]:
    q = curve.quantile(0.5)
    limits = formatting.interval(
        formatting.time(q.lower, decimals), formatting.time(q.upper, decimals)
    )
    shown = f"{QuantileReadout.model_validate(q).worded(decimals)} ({limits})"
    note = missing_note(median=q.time, median_lower=q.lower, median_upper=q.upper)
    return [estimate(shown, q.time, q.lower, q.upper, note=note)]


def _mean(curve: Predicted, limit: float, decimals: TimeDecimals) -> Cell:
    try:
        value = curve.restricted_mean(limit)
    except NotEstimableError:
        return words(formatting.BLANK)
    return number_cell(formatting.computed_time(value, decimals), value)


def _at(curve: Predicted, t: float) -> Cell:
    """Survival at a time with its interval; nothing past the end."""
    if t > curve.last:
        return words(formatting.BLANK)
    place = int(np.searchsorted(curve.time, t, side="right")) - 1
    if place < 0:
        return number_cell(formatting.percent(1.0), 1.0)
    value, low, high = (float(v[place]) for v in (curve.survival, curve.lower, curve.upper))
    shown = formatting.interval(formatting.share_of_100(low), formatting.percent(high))
    return estimate(f"{formatting.percent(value)} ({shown})", value, low, high)


def _timed(found: list[Prediction], form: CurveForm, tones: Sequence[int]) -> TimedTable:
    series, rows = [], []
    for tone, one in zip(tones, found, strict=True):
        if one.curve is None:
            continue
        c = one.curve
        series.append(
            Series(
                rule="from",
                time=c.time,
                columns=[c.survival, c.lower, c.upper],
                before=[1.0, 1.0, 1.0],
                end=c.last,
            )
        )
        cell = TimedCell(form="percent", series=len(series) - 1, value=0, low=1, high=2)
        rows.append(TimedRow(label=one.of.label, tone=tone, cells=[cell]))
    return TimedTable(
        label="Predicted at this time",
        head=["profile", f"predicted ({form.ci})"],
        series=series,
        rows=rows,
    )
