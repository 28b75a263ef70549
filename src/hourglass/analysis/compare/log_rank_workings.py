"""Workings of the test: observed less expected at every event time, the statistic, its trend."""

from collections.abc import Sequence

import numpy as np

from hourglass.analysis.catalogue.weights import WeightEntry
from hourglass.analysis.compare.groups import Comparison
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.subject_workings import subjects_of
from hourglass.analysis.shared.workings import (
    NoWorkingsError,
    TermColumn,
    Workings,
    decimal,
    digits,
    squared,
    whole,
)
from hourglass.core.comparison.log_rank import LogRank


def log_rank_workings(found: Comparison, words: WeightEntry) -> Workings:
    """The workings of the test of a comparison."""
    return workings_of_groups(found.groups.labels, found.groups.column, found.log_rank, words)


def workings_of_groups(
    labels: Sequence[str], column: str | None, tested: LogRank, words: WeightEntry
) -> Workings:
    """Observed less expected at every event time, their sums, and the statistic from them.

    Args:
        labels: of the groups of ``tested``, in their order; ``column``: what makes them.
    """
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
        title=f"{words.heading}: χ² {formatting.statistic(tested.test.statistic)}",
        formula=(*formula, *_statistic(labels, tested, weighted=weighted)),
        columns=_terms(labels, column, tested, weighted=weighted),
        note=words.rests_on,
    )


def _statistic(labels: Sequence[str], tested: LogRank, *, weighted: bool) -> list[str]:
    test = tested.test
    if test.statistic is None:
        return [f"There is no statistic: {test.blank}."]
    shown = f"{digits(test.statistic)}, {formatting.count(test.df, 'degrees')} of freedom, "
    shown += formatting.exact_p(test.p)
    if len(labels) == 2:
        u = "U" if weighted else "(O − E)"
        return [
            f"χ² = {u}² / V = {squared(tested.excess[0])} / {digits(tested.variance[0, 0])} = {shown}"
        ]
    meant = "U as above" if weighted else "U = observed − expected"
    return [
        f"χ² = Uᵀ V⁻ U with {meant} of all groups but the first, and V:",
        *(
            f"V of {label}: " + ", ".join(digits(v) for v in tested.variance[g])
            for g, label in enumerate(labels)
        ),
        f"χ² = {shown}",
    ]


def _terms(
    labels: Sequence[str], column: str | None, tested: LogRank, *, weighted: bool
) -> tuple[TermColumn, ...]:
    pooled = tested.pooled
    n, d = pooled.at_risk.astype(np.float64), pooled.events.astype(np.float64)
    spread = tested.weight**2 * tested.variation
    columns = [
        decimal("time", "time", pooled.time, subjects_of(None)),
        whole("at_risk", "at risk n", pooled.at_risk),
        whole("events", "events d", pooled.events),
    ]
    if weighted:
        columns.append(decimal("weight", "weight W", tested.weight))
    for g, level in enumerate(labels):
        label = level if level.startswith(f"{column} ") else f"{column} {level}"
        share = tested.at_risk[:, g] / n
        columns += [
            whole(f"at risk, {label}", f"at risk, {label}", tested.at_risk[:, g]),
            whole(f"events, {label}", f"events, {label}", tested.events[:, g]),
            decimal(f"expected, {label}", f"expected, {label}", share * d),
            decimal(f"variance, {label}", f"variance, {label}", spread * share * (1 - share)),
        ]
    return tuple(columns)


def trend_workings(found: Comparison) -> Workings:
    """(aᵀU)² / aᵀVa, group by group."""
    tested, statement = found.log_rank, found.statement
    scores = np.array(statement.scores or range(1, len(found.groups.labels) + 1), dtype=np.float64)
    if scores.size != tested.excess.size:
        raise NoWorkingsError("there is not one score a group")
    test = tested.trend(scores)
    product, variance = float(scores @ tested.excess), float(scores @ tested.variance @ scores)
    return Workings(
        title=f"Trend: χ² {formatting.statistic(test.statistic)}",
        formula=(
            "χ² = (Σ a U)² / Σ Σ a V a, a the scores, on 1 degree of freedom",
            f"Σ a U = {digits(product)}, Σ Σ a V a = {digits(variance)}",
            f"χ² = {squared(product)} / {digits(variance)} = {digits(test.statistic)}, "
            f"{formatting.exact_p(test.p)}",
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
