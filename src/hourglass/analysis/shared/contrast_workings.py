"""Workings of how two groups differ: at a time, in restricted means, in rates, in medians."""

import math

import numpy as np

from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.contrast_cells import per_100
from hourglass.analysis.shared.curves import Curve
from hourglass.analysis.shared.subject_workings import subjects_of
from hourglass.analysis.shared.workings import (
    NoWorkingsError,
    WordColumn,
    Workings,
    decimal,
    digits,
    whole,
)
from hourglass.core.contrast import Contrast
from hourglass.core.curves.chosen_time import difference_at
from hourglass.core.curves.median_ratio import SAMPLES, Arm, bootstrap_medians, median_ratio
from hourglass.core.curves.restricted_mean import mean_difference, mean_ratio, restricted_mean
from hourglass.core.curves.survival import SurvivalAt
from hourglass.core.errors import NotEstimableError
from hourglass.core.normal import normal_quantile
from hourglass.core.progress import no_progress
from hourglass.core.rates import Rate, least_shares, rate, rate_of, rate_ratio
from hourglass.core.risk_table import person_time
from hourglass.core.subjects import count_subjects


def difference_workings(a: Curve, b: Curve, t: float, unit: str) -> Workings:
    """S_B(t) − S_A(t), its interval, its p and the number needed."""
    found = difference_at(a.estimate, b.estimate, t)
    at_a, at_b = a.estimate.at(t), b.estimate.at(t)
    if found.estimate is None or at_a is None or at_b is None:
        raise NoWorkingsError(found.blank or "there is no difference at that time")
    formula = [
        f"S of {b.label} − S of {a.label} = {digits(at_b.survival)} − {digits(at_a.survival)} "
        f"= {digits(found.estimate)}"
    ]
    if found.lower is not None and at_a.sigma2 is not None and at_b.sigma2 is not None:
        error = math.sqrt(at_a.survival**2 * at_a.sigma2 + at_b.survival**2 * at_b.sigma2)
        z = normal_quantile(a.estimate.confidence)
        formula += [
            "error² = S_A² σ²_A + S_B² σ²_B = "
            f"{digits(at_a.survival)}² × {digits(at_a.sigma2)} + {digits(at_b.survival)}² × "
            f"{digits(at_b.sigma2)} = {digits(error**2)}",
            f"limits = difference ± z × error = {digits(found.estimate)} ± {digits(z)} × "
            f"{digits(error)} = {digits(found.lower)} to {digits(found.upper)}",
        ]
    formula += _log_log_lines(found, at_a, at_b)
    time = np.union1d(a.estimate.table.time, b.estimate.table.time)
    time = time[time <= t]
    columns = [decimal("time", "time", time, subjects_of(None))]
    for name, curve in (("a", a), ("b", b)):
        place = np.searchsorted(curve.estimate.table.time, time, side="right")
        survival = np.append(1.0, curve.estimate.survival)[place]
        sigma2 = np.append(0.0, curve.estimate.sigma2)[place]
        columns += [
            decimal(f"survival_{name}", f"S, {curve.label}", survival),
            decimal(f"sigma2_{name}", f"σ², {curve.label}", sigma2),
        ]
    return Workings(
        title=f"Difference at {formatting.stated_time(t, unit)}, {b.label} less {a.label}: "
        f"{formatting.points(found.estimate)} points",
        formula=tuple(formula),
        columns=tuple(columns),
        marked=time.size - 1 if time.size else None,
        note="Two independent curves; plain interval. p on the log–log scale "
        "(Klein, Logan, Harhoff & Andersen 2007), which near α may part ways with the interval.",
    )


def _log_log_lines(found: Contrast, at_a: SurvivalAt, at_b: SurvivalAt) -> list[str]:
    if found.p is None or at_a.sigma2 is None or at_b.sigma2 is None:
        return [f"There is no p: {found.blank}."] if found.blank else []
    log_a, log_b = math.log(at_a.survival), math.log(at_b.survival)
    error = math.sqrt(at_a.sigma2 / log_a**2 + at_b.sigma2 / log_b**2)
    apart = math.log(log_a / log_b)
    return [
        "z = ln(ln S_A / ln S_B) / √(σ²_A / ln² S_A + σ²_B / ln² S_B) = "
        f"{digits(apart)} / {digits(error)} = {digits(apart / error)}, {formatting.exact_p(found.p)}"
    ]


def mean_contrast_workings(a: Curve, b: Curve, limit: float, unit: str) -> Workings:
    """The difference and the ratio of two restricted means."""
    try:
        means = tuple(restricted_mean(curve.estimate, limit) for curve in (a, b))
    except NotEstimableError as reason:
        raise NoWorkingsError(str(reason)) from None
    confidence = a.estimate.confidence
    apart = mean_difference(means[0], means[1], confidence)
    times = mean_ratio(means[0], means[1], confidence)
    if apart.estimate is None or apart.p is None:
        raise NoWorkingsError(apart.blank or "there is no difference")
    z = digits(normal_quantile(confidence))
    m, e = [one.mean for one in means], [one.standard_error for one in means]
    error = math.hypot(*e)
    formula = [
        f"difference = {digits(m[1])} − {digits(m[0])} = {digits(apart.estimate)}",
        f"error = √({digits(e[0])}² + {digits(e[1])}²) = {digits(error)}",
        f"limits = difference ± {z} × error = {digits(apart.lower)} to {digits(apart.upper)}; "
        f"z = {digits(apart.estimate / error)}, {formatting.exact_p(apart.p)}",
    ]
    if times.estimate is not None and times.p is not None:
        of_log = math.hypot(e[0] / m[0], e[1] / m[1])
        formula += [
            f"ratio = {digits(m[1])} / {digits(m[0])} = {digits(times.estimate)}",
            f"error of its logarithm = √(({digits(e[0])}/{digits(m[0])})² + "
            f"({digits(e[1])}/{digits(m[1])})²) = {digits(of_log)}",
            f"limits = ratio × exp(± {z} × error) = {digits(times.lower)} to {digits(times.upper)}; "
            f"z = {digits(math.log(times.estimate) / of_log)}, {formatting.exact_p(times.p)}",
        ]
    return Workings(
        title=f"Restricted mean survival times to {formatting.stated_time(limit, unit)}, "
        f"{b.label} against {a.label}",
        formula=tuple(formula),
        columns=(
            _names(a, b),
            decimal("mean", "mean", np.array(m)),
            decimal("standard_error", "standard error", np.array(e)),
        ),
        note="The groups are independent. How each mean arose stands in its own workings.",
    )


def rate_workings(curve: Curve, unit: str) -> Workings:
    """Events over the time followed, a subject's rows added up."""
    data = curve.data
    events, time = count_subjects(data).events, person_time(data)
    estimated = rate(events, time, curve.form.confidence)
    start = np.zeros(data.exit.size) if data.entry is None else np.maximum(data.entry, 0.0)
    return Workings(
        title=f"Events per 100 {unit}, {curve.label}: "
        f"{formatting.BLANK if estimated.value is None else per_100(estimated.value)}",
        formula=(
            "rate = events / time at risk, each row's time × its count",
            f"{events} / {digits(time)} = {digits(estimated.value)}",
            f"limits: a count of {events} is exact Poisson; {digits(estimated.lower)} to "
            f"{digits(estimated.upper)}",
        ),
        columns=(
            decimal("entered", "entered", start),
            decimal("left", "left", data.exit),
            whole("count", "count", data.count),
            decimal("time", "time at risk", (data.exit - start) * data.count),
            whole("event", "event", data.event().astype(np.int64) * data.count),
        ),
        note="Exact interval of a Poisson count (Garwood 1936). It supposes one rate throughout.",
    )


def rate_ratio_workings(a: Curve, b: Curve, unit: str) -> Workings:
    """The ratio of two rates, exact given the events of both."""
    confidence = a.form.confidence
    one, other = (rate_of(c.data, confidence) for c in (a, b))
    found = rate_ratio(one, other, confidence)
    if found.estimate is None or found.p is None:
        raise NoWorkingsError(found.blank or "there is no ratio")
    ratio = "infinite" if math.isinf(found.estimate) else digits(found.estimate)
    return Workings(
        title=f"Ratio of rates, {b.label} against {a.label}: {formatting.ratio(found.estimate)}",
        formula=(
            f"ratio = (d_B / d_A) × (T_A / T_B) = ({other.events} / {one.events}) × "
            f"({digits(one.person_time)} / {digits(other.person_time)}) = {ratio}",
            *_exact_limits(one, other, found, confidence),
            "p = twice the smaller of P(≥ d_B) and P(≤ d_B), d_B of d_A + d_B events each falling to B "
            "with chance T_B / (T_A + T_B) = "
            f"{digits(other.person_time / (one.person_time + other.person_time))}: "
            f"{formatting.exact_p(found.p)}",
        ),
        columns=(
            _names(a, b),
            whole("events", "events d", np.array([one.events, other.events])),
            decimal(
                "time", f"time at risk T, {unit}", np.array([one.person_time, other.person_time])
            ),
        ),
        note="Exact given the events of both groups together. It supposes one rate throughout in each.",
    )


def _exact_limits(a: Rate, b: Rate, found: Contrast, confidence: float) -> list[str]:
    """The limits from the beta distribution of B's share of the events."""
    tail, (share, rest) = (1 - confidence) / 2, least_shares(a, b, confidence)
    lines = ["lower limit: zero, for B has no event"]
    if share is not None:
        lines = [
            f"lower limit: π/(1 − π) × T_A/T_B with π = the {digits(tail)} quantile of "
            f"Beta({b.events}, {a.events + 1}) = {digits(share)}: {digits(found.lower)}"
        ]
    if rest is None:
        return [*lines, "upper limit: infinite, for A has no event"]
    return [
        *lines,
        f"upper limit: (1 − π)/π × T_A/T_B with π = the {digits(tail)} quantile of "
        f"Beta({a.events}, {b.events + 1}) = {digits(rest)}: {digits(found.upper)}",
    ]


def median_ratio_workings(a: Curve, b: Curve, seed: int) -> Workings:
    """The ratio of two medians with every sample that its limits come from."""
    arms = tuple(Arm(curve.data, curve.place) for curve in (a, b))
    try:
        found = median_ratio(arms[0], arms[1], seed, a.form.confidence)
        drawn = [bootstrap_medians(arm, seed, SAMPLES, no_progress) for arm in arms]
    except NotEstimableError as reason:
        raise NoWorkingsError(str(reason)) from None
    if found.estimate is None:
        raise NoWorkingsError(found.blank or "there is no ratio")
    with np.errstate(divide="ignore", invalid="ignore"):
        ratio = drawn[1] / drawn[0]
    low, high = (1 - a.form.confidence) / 2, (1 + a.form.confidence) / 2
    limits = found.blank or f"{digits(found.lower)} to {digits(found.upper)}"
    return Workings(
        title=f"Ratio of medians, {b.label} against {a.label}: {formatting.ratio(found.estimate)}",
        formula=(
            f"ratio = median of {b.label} / median of {a.label} = {digits(found.estimate)}",
            f"limits = the {digits(low)} and {digits(high)} quantiles of the ratios of "
            f"{formatting.grouped(SAMPLES)} samples of subjects within each group: {limits}",
        ),
        columns=(
            whole("sample", "sample", np.arange(1, SAMPLES + 1)),
            decimal("median_a", f"median, {a.label}", _known(drawn[0])),
            decimal("median_b", f"median, {b.label}", _known(drawn[1])),
            decimal("ratio", "ratio", _known(ratio)),
        ),
        note=f"Seed {seed}: the same samples each time. A median that a sample does not reach is left "
        "blank; a ratio to it counts as 0, or as infinite.",
    )


def _known(values: np.ndarray) -> np.ndarray:
    return np.where(np.isfinite(values), values, np.nan)


def _names(a: Curve, b: Curve) -> WordColumn:
    return WordColumn("group", "group", np.arange(2), (a.label, b.label))
