"""Workings of survival at a time, of quantiles, and the survival table."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from hourglass.analysis.catalogue.estimators import ESTIMATORS, PRODUCT_LIMIT, EstimatorEntry
from hourglass.analysis.catalogue.intervals import INTERVALS
from hourglass.analysis.catalogue.scales import INTERVAL_SCALES
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.curve_readouts import QuantileReadout
from hourglass.analysis.shared.curves import Curve
from hourglass.analysis.shared.naming import free_of
from hourglass.analysis.shared.subject_workings import subjects_of
from hourglass.analysis.shared.workings import (
    AnyColumn,
    Opens,
    TermColumn,
    WordColumn,
    Workings,
    decimal,
    digits,
    whole,
)
from hourglass.cohort.time_decimals import TimeDecimals
from hourglass.core.arrays import FloatArray
from hourglass.core.curves.quantiles import median_follow_up, quantile
from hourglass.core.curves.survival import SurvivalCurve, survival_curve
from hourglass.core.normal import normal_quantile
from hourglass.core.risk_table import risk_table
from hourglass.core.subjects import count_subjects

HALF = 0.5 + 1e-12
AT_RISK = "A row censored at a time is at risk for events at that time."
SHARES = {0.25: "A quarter", 0.5: "Median", 0.75: "Three quarters"}


def survival_workings(curve: Curve, t: float, unit: str, event: str = "the event") -> Workings:
    """S(t) from the event times up to t."""
    estimate, estimator = curve.estimate, ESTIMATORS[curve.form.estimator.key]
    up_to = int(np.searchsorted(estimate.table.time, t, side="right"))
    at = estimate.at(t) if t >= curve.begins else None
    when, value, formula = formatting.stated_time(t, unit), "not defined", list[str]()
    if t < curve.begins:
        formula.append(f"The curve begins at {digits(curve.begins)} {unit}.")
    elif at is None:
        formula.append(f"Nobody is followed to {when}: the curve ends at {digits(curve.data.end)}.")
    else:
        value = formatting.percent(at.survival)
        n, d = estimate.table.at_risk[:up_to], estimate.table.events[:up_to]
        shown = [estimator.part(int(e), int(r)) for r, e in zip(n, d, strict=True)]
        if len(shown) > 8:
            shown = [*shown[:4], "…", *shown[-3:]]
        made = estimator.around.format(estimator.joint.join(shown)) if shown else "1"
        formula += [estimator.formula, f"S({formatting.plain(t)}) = {made} = {digits(at.survival)}"]
        if curve.form.start is not None:
            formula.append(
                f"Given survival to {digits(curve.begins)} {unit}: only event times after it count."
            )
        formula += _interval_lines(curve, at.survival, at.sigma2, at.lower, at.upper)
        formula += _band_lines(curve, t, at.survival, at.sigma2)
    return Workings(
        title=f"{free_of(event)} at {when}, {curve.label}: {value}",
        formula=tuple(formula),
        columns=(*_terms(curve), *_band_terms(curve)),
        marked=up_to - 1 if up_to else None,
        note=f"{estimator.rests_on} {INTERVAL_SCALES[curve.form.scale.key].rests_on} {AT_RISK}",
    )


def quantile_workings(curve: Curve, q: float, unit: str, decimals: TimeDecimals) -> Workings:
    """A quantile with its interval, read off the curve and its limits."""
    found = quantile(curve.estimate, q)
    value = QuantileReadout.model_validate(found).worded(decimals)
    name, left = SHARES.get(q, formatting.percent(q)), digits(1 - q)
    formula = [f"{name.lower()} = the first time at which S(t) ≤ {left}"]
    if found.rule == "midpoint":
        formula.append(
            f"S equals {left} over a whole step, so it is the midpoint of that step: "
            f"{digits(found.time)}"
        )
    elif found.time is None:
        formula.append(
            f"S never falls to {left} within {digits(curve.data.end)} {unit}: not reached"
        )
    else:
        formula.append(f"S first reaches {left} or less at {digits(found.time)}")
    formula += [
        f"lower limit = the first time at which the lower limit of S ≤ {left}: "
        f"{'not reached' if found.lower is None else digits(found.lower)}",
        f"upper limit = the first time at which the upper limit of S ≤ {left}: "
        f"{'not reached' if found.upper is None else digits(found.upper)}",
    ]
    marked = np.flatnonzero(curve.estimate.survival <= 1 - q + 1e-12)
    return Workings(
        title=f"{name}, {curve.label}: {value}{'' if found.time is None else ' ' + unit}",
        formula=tuple(formula),
        columns=_terms(curve),
        marked=int(marked[0]) if marked.size else None,
        note="It is over all who were followed, not over those who had the event alone. "
        "Interval by inverting the pointwise interval (Brookmeyer & Crowley 1982).",
    )


def follow_up_workings(curve: Curve, unit: str, decimals: TimeDecimals) -> Workings:
    """The median follow-up, read off the curve in which being censored is the event."""
    data = curve.data
    median = median_follow_up(data)
    reversed_curve = survival_curve(risk_table(data, data.event(0) & data.last_rows))
    value = formatting.computed_time(median.time, decimals)
    marked = np.flatnonzero(reversed_curve.survival <= HALF)
    return Workings(
        title=f"Median follow-up, {curve.label}: {value}{'' if median.time is None else ' ' + unit}",
        formula=(
            "the curve of being still followed: who is censored counts as an event, and who had the "
            "event as censored",
            "median = the first time at which that curve ≤ 0.5, the midpoint of a step that equals it"
            f" = {digits(median.time)}",
        ),
        columns=terms_of(reversed_curve),
        marked=int(marked[0]) if marked.size else None,
        note="How long people were followed, were nobody to have had the event "
        "(Schemper & Smith 1996).",
    )


def table_workings(curve: Curve, unit: str) -> Workings:
    """The survival table: every event time, who is at risk, who leaves, and the curve after it."""
    estimator = ESTIMATORS[curve.form.estimator.key]
    time = curve.estimate.table.time
    last = curve.data.last_rows & ~curve.data.event()
    place = np.searchsorted(time, curve.data.exit[last], side="right")
    left = np.bincount(place, weights=curve.data.count[last], minlength=time.size + 1)
    terms = list(_terms(curve))
    terms.insert(
        3, whole("censored_before_next", "censored before the next", left[1:].astype(np.int64))
    )
    error = curve.estimate.survival * np.sqrt(curve.estimate.sigma2)
    terms.append(decimal("standard_error", "standard error of S", error))
    before = int(left[0])
    return Workings(
        title=f"Survival table, {curve.label}",
        formula=(
            estimator.formula,
            estimator.sigma2,
            f"{before} left before the first event time."
            if before
            else "Nobody left before the first event time.",
        ),
        columns=tuple(terms),
        note=f"Left before the next: without the event, at or after a time and before the next "
        f"event time, in {unit}. {estimator.rests_on} {INTERVAL_SCALES[curve.form.scale.key].rests_on}",
    )


def tables_workings(curves: Sequence[Curve], unit: str) -> Workings:
    """The survival tables of all groups in one, those of a group below each other."""
    apart = [table_workings(curve, unit) for curve in curves]
    lengths = [sheet.columns[0].values.size for sheet in apart]
    group = WordColumn(
        "group",
        "group",
        np.repeat(np.arange(len(curves)), lengths),
        tuple(curve.label for curve in curves),
    )
    together = [
        replace(columns[0], values=np.concatenate([column.values for column in columns]))
        for columns in zip(*(sheet.columns for sheet in apart), strict=True)
    ]
    before = [
        f"{curve.label}: {sheet.formula[2]}" for curve, sheet in zip(curves, apart, strict=True)
    ]
    return Workings(
        title="Survival tables of all groups",
        formula=(*apart[0].formula[:2], *before),
        columns=(group, *(_of_anybody(column) for column in together)),
        note=apart[0].note,
    )


def _of_anybody(column: AnyColumn) -> AnyColumn:
    """The column, its times opening the subjects of all groups."""
    if isinstance(column, TermColumn) and column.opens is not None:
        return replace(column, opens=subjects_of(None))
    return column


def _interval_lines(
    curve: Curve, s: float, sigma2: float | None, lower: float | None, upper: float | None
) -> list[str]:
    if sigma2 is None or lower is None:
        return ["S is 0 here, where there is no interval."]
    if s == 1:
        return ["Before the first event the interval is 1 to 1."]
    z = digits(normal_quantile(curve.form.confidence))
    scale = INTERVAL_SCALES[curve.form.scale.key]
    return [
        f"{ESTIMATORS[curve.form.estimator.key].sigma2} = {digits(sigma2)}, "
        f"σ = {digits(float(np.sqrt(sigma2)))}",
        f"limits = {scale.definition}, z = {z}: {scale.filled(digits(s), z, digits(float(np.sqrt(sigma2))))} "
        f"= {digits(lower)} to {digits(upper)}",
    ]


def _band_lines(curve: Curve, t: float, s: float, sigma2: float | None) -> list[str]:
    """How the band is made, where the limits shown are those of one."""
    limits = curve.limits
    if limits.refused:
        return [f"In place of a band: {limits.refused}."]
    lower, upper = curve.limits_at(t)
    if limits.critical is None or sigma2 is None or lower is None or upper is None:
        return []
    kind, n = INTERVALS[limits.kind], count_subjects(curve.data).subjects
    assert kind.band is not None
    definition = INTERVAL_SCALES[curve.form.scale.key].definition
    reach = kind.reach(digits(limits.critical), n)
    value = float(kind.band.reach(limits.critical, np.array([sigma2]), n)[0])
    return [
        f"{curve.limits_name} = {definition} with {reach} = {digits(value)} in place of z σ: "
        f"{digits(lower)} to {digits(upper)}"
    ]


def _band_terms(curve: Curve) -> tuple[TermColumn, ...]:
    if curve.limits.critical is None:
        return ()
    return (
        decimal("band_lower", "band, lower", curve.limits.lower),
        decimal("band_upper", "band, upper", curve.limits.upper),
    )


def _terms(curve: Curve) -> tuple[TermColumn, ...]:
    estimator = ESTIMATORS[curve.form.estimator.key]
    return terms_of(curve.estimate, estimator, subjects_of(curve.place))


def terms_of(
    estimate: SurvivalCurve, estimator: EstimatorEntry = PRODUCT_LIMIT, opens: Opens | None = None
) -> tuple[TermColumn, ...]:
    """Every event time of a curve with what its estimate is made of."""
    n, d = estimate.table.at_risk, estimate.table.events
    return (
        decimal("time", "time", estimate.table.time, opens),
        whole("at_risk", "at risk n", n),
        whole("events", "events d", d),
        decimal(
            "factor", estimator.step, estimator.steps(n.astype(np.float64), d.astype(np.float64))
        ),
        decimal("survival", "S", estimate.survival),
        decimal("term", "term of σ²", _finite(estimate.steps)),
        decimal("sigma2", "σ²", estimate.sigma2),
        decimal("lower", "lower limit, pointwise", estimate.lower),
        decimal("upper", "upper limit, pointwise", estimate.upper),
    )


def _finite(values: FloatArray) -> FloatArray:
    return np.where(np.isfinite(values), values, np.nan)
