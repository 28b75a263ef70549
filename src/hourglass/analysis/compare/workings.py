"""The workings of Compare: curves of groups, and the test's statistic."""

from typing import Annotated, cast

import numpy as np
from pydantic import Field

from hourglass.analysis.compare.groups import Comparison, comparison
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.compare.threshold import threshold_workings
from hourglass.analysis.compare.weight_words import WORDS, WeightWords
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.curve_workings import quantile_workings, survival_workings
from hourglass.analysis.shared.curves import Curve
from hourglass.analysis.shared.mean_section import Means
from hourglass.analysis.shared.mean_workings import mean_workings
from hourglass.analysis.shared.stage import Statements
from hourglass.analysis.shared.typed import Typed
from hourglass.analysis.shared.workings import (
    Nothing,
    NoWorkingsError,
    TermColumn,
    WorkedFigure,
    Workings,
    decimal,
    digits,
    squared,
    whole,
)
from hourglass.cohort.followup import Cohort
from hourglass.core.errors import NotEstimableError


class OfGroup(Typed):
    """A group, by its place."""

    group: Annotated[int, Field(ge=0)]


class GroupAtTime(OfGroup):
    """A group's survival at time ``t``."""

    t: Annotated[float, Field(ge=0, allow_inf_nan=False)]


def log_rank_workings(found: Comparison, words: WeightWords) -> Workings:
    """Observed less expected at every event time, their sums, and the statistic from them."""
    labels, tested = found.groups.labels, found.log_rank
    weighted = bool(words.symbol)
    formula = [
        "expected in a group at an event time = n of the group × d / n; "
        f"variance = {'W² ' if weighted else ''}d (n − d) / (n − 1) × share × (1 − share)",
        *(
            f"{label}: observed {o} − expected {digits(e)} = {digits(o - e)}"
            for label, o, e in zip(labels, tested.observed, tested.expected, strict=True)
        ),
    ]
    if weighted:
        formula += [
            f"{label}: U = Σ W (observed − expected) = {digits(u)}, W = {words.symbol}"
            for label, u in zip(labels, tested.excess, strict=True)
        ]
    return Workings(
        title=f"{words.heading}: χ² {wording.statistic(tested.test.statistic)}",
        formula=(*formula, *_statistic(found, weighted=weighted)),
        columns=_terms(found, weighted=weighted),
        note=words.source,
    )


def _statistic(found: Comparison, *, weighted: bool) -> list[str]:
    labels, tested, test = found.groups.labels, found.log_rank, found.log_rank.test
    if test.statistic is None:
        return [f"There is no statistic: {test.blank}."]
    told = f"{digits(test.statistic)}, {wording.count(test.df, 'degrees')} of freedom, "
    told += wording.p_phrase(test.p)
    if len(labels) == 2:
        u = "U" if weighted else "(O − E)"
        return [
            f"χ² = {u}² / V = {squared(tested.excess[0])} / {digits(tested.variance[0, 0])} = {told}"
        ]
    meant = "U as above" if weighted else "U = observed − expected"
    return [
        f"χ² = Uᵀ V⁻ U with {meant} of all groups but the first, and V:",
        *(
            f"V of {label}: " + ", ".join(digits(v) for v in tested.variance[g])
            for g, label in enumerate(labels)
        ),
        f"χ² = {told}",
    ]


def _terms(found: Comparison, *, weighted: bool) -> tuple[TermColumn, ...]:
    tested, pooled = found.log_rank, found.log_rank.pooled
    n, d = pooled.at_risk.astype(np.float64), pooled.events.astype(np.float64)
    spread = tested.weight**2 * tested.variation
    columns = [
        decimal("time", "time", pooled.time),
        whole("at_risk", "at risk n", pooled.at_risk),
        whole("events", "events d", pooled.events),
    ]
    if weighted:
        columns.append(decimal("weight", "weight W", tested.weight))
    by = found.groups.column
    for g, level in enumerate(found.groups.labels):
        label = level if level.startswith(f"{by} ") else f"{by} {level}"
        share = tested.at_risk[:, g] / n
        columns += [
            whole(f"at risk, {label}", f"at risk, {label}", tested.at_risk[:, g]),
            whole(f"events, {label}", f"events, {label}", tested.events[:, g]),
            decimal(f"expected, {label}", f"expected, {label}", share * d),
            decimal(f"variance, {label}", f"variance, {label}", spread * share * (1 - share)),
        ]
    return tuple(columns)


def _compared(cohort: Cohort, asked: Statements) -> tuple[Comparison, CompareStatement]:
    statement = cast(CompareStatement, asked["compare"])
    if statement.by is None:
        raise NoWorkingsError("no groups are compared")
    try:
        return comparison(cohort, statement), statement
    except NotEstimableError as reason:
        raise NoWorkingsError(str(reason)) from None


def _curve(cohort: Cohort, asked: Statements, about: OfGroup) -> Curve:
    return _of(_compared(cohort, asked)[0].curves, about)


def _of(curves: tuple[Curve, ...], about: OfGroup) -> Curve:
    if about.group >= len(curves):
        raise NoWorkingsError(f"there is no group {about.group}")
    return curves[about.group]


def _survival(cohort: Cohort, asked: Statements, about: GroupAtTime) -> Workings:
    told = cohort.statement
    return survival_workings(_curve(cohort, asked, about), about.t, told.unit, told.event_name)


def _median(cohort: Cohort, asked: Statements, about: OfGroup) -> Workings:
    return quantile_workings(
        _curve(cohort, asked, about), 0.5, cohort.statement.unit, cohort.decimals
    )


def _mean(cohort: Cohort, asked: Statements, about: OfGroup) -> Workings:
    found = _compared(cohort, asked)[0]
    asked_limit = cast(EstimateStatement, asked["estimate"]).limit
    limit = Means(found.curves, found.statement.confidence, asked_limit).limit
    curve = _of(found.curves, about)
    return mean_workings(curve, limit, cohort.statement.unit, cohort.decimals)


def trend_workings(found: Comparison) -> Workings:
    """(aᵀU)² / aᵀVa, group by group."""
    tested, statement = found.log_rank, found.statement
    scores = np.array(statement.scores or range(1, len(found.groups.labels) + 1), dtype=np.float64)
    if scores.size != tested.excess.size:
        raise NoWorkingsError("there is not one score a group")
    test = tested.trend(scores)
    product, variance = float(scores @ tested.excess), float(scores @ tested.variance @ scores)
    return Workings(
        title=f"Trend: χ² {wording.statistic(test.statistic)}",
        formula=(
            "χ² = (Σ a U)² / Σ Σ a V a, a the scores, on 1 degree of freedom",
            f"Σ a U = {digits(product)}, Σ Σ a V a = {digits(variance)}",
            f"χ² = {squared(product)} / {digits(variance)} = {digits(test.statistic)}, "
            f"{wording.p_phrase(test.p)}",
        ),
        columns=(
            whole("group", "group", np.arange(1, scores.size + 1)),
            decimal("score", "score a", scores),
            whole("observed", "observed", tested.observed),
            decimal("expected", "expected", tested.expected),
            decimal("excess", "U", tested.excess),
            decimal("product", "a U", scores * tested.excess),
            *(
                decimal(f"variance, {label}", f"V with {label}", tested.variance[:, g])
                for g, label in enumerate(found.groups.labels)
            ),
        ),
        note="Linear in the scores: groups in an order are tested for one that rises or falls along it.",
    )


def _trend(cohort: Cohort, asked: Statements, about: Nothing) -> Workings:
    return trend_workings(_compared(cohort, asked)[0])


def _thresholds(cohort: Cohort, asked: Statements, about: Nothing) -> Workings:
    return threshold_workings(cohort, _compared(cohort, asked)[0])


def _log_rank(cohort: Cohort, asked: Statements, about: Nothing) -> Workings:
    found, statement = _compared(cohort, asked)
    return log_rank_workings(found, WORDS[statement.weight])


WORKINGS = (
    WorkedFigure("survival", GroupAtTime, _survival),
    WorkedFigure("median", OfGroup, _median),
    WorkedFigure("log-rank", Nothing, _log_rank),
    WorkedFigure("trend", Nothing, _trend),
    WorkedFigure("thresholds", Nothing, _thresholds),
    WorkedFigure("mean", OfGroup, _mean),
)
