"""Workings of the tests beside the planned one: other weights, several at once, pairs, incidence."""

from dataclasses import replace

import numpy as np

from hourglass.analysis.catalogue.adjustments import ADJUSTMENTS
from hourglass.analysis.catalogue.weights import WEIGHTS
from hourglass.analysis.compare.groups import Comparison, tested_pairs
from hourglass.analysis.compare.log_rank_workings import log_rank_workings
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.groups import Groups
from hourglass.analysis.shared.subject_workings import subjects_of
from hourglass.analysis.shared.workings import (
    NoWorkingsError,
    WordColumn,
    Workings,
    decimal,
    digits,
    whole,
)
from hourglass.core.comparison.combined import combined
from hourglass.core.comparison.log_rank import log_rank
from hourglass.core.comparison.pairs import Pair
from hourglass.core.competing.gray import gray_test
from hourglass.core.errors import NotEstimableError


def weight_workings(found: Comparison, key: str) -> Workings:
    """The test with another weight.

    Raises:
        NoWorkingsError: when there is no such weight.
    """
    weight = WEIGHTS.get(key)
    if weight is None:
        raise NoWorkingsError(f"there is no weight called “{key}”")
    return log_rank_workings(replace(found, log_rank=found.tested(weight.method)), weight)


def pair_workings(found: Comparison, a: int, b: int) -> Workings:
    """The test of two groups on their own rows, and how its p was adjusted among all pairs.

    Raises:
        NoWorkingsError: when these two are not tested.
    """
    tested = tested_pairs(found)
    if not any((pair.a, pair.b) == (a, b) for pair in tested):
        raise NoWorkingsError("these groups are not tested as a pair")
    labels = (found.groups.labels[a], found.groups.labels[b])
    rows = (found.code == a) | (found.code == b)
    code = (found.code[rows] == b).astype(np.int64)
    data = found.data.only(rows)
    stratum = None if found.stratum is None else found.stratum[rows]
    two = replace(
        found,
        groups=Groups(found.groups.column, labels, code),
        data=data,
        code=code,
        stratum=stratum,
        log_rank=log_rank(data, code, 2, found.weight, stratum),
    )
    made = log_rank_workings(two, WEIGHTS[found.statement.weight])
    adjustment = found.statement.adjustment
    return replace(
        made,
        title=f"{labels[0]} and {labels[1]}: {made.title}",
        formula=(
            *made.formula,
            f"p adjusted ({adjustment}): {ADJUSTMENTS[adjustment].rule}",
            *(_adjusted(found, pair) for pair in tested),
        ),
        note=f"{made.note} The pair is tested on its own rows alone.",
    )


def _adjusted(found: Comparison, pair: Pair) -> str:
    labels = found.groups.labels
    shown = (
        pair.test.blank if pair.p is None else f"{digits(pair.test.p)}, adjusted {digits(pair.p)}"
    )
    return f"{labels[pair.a]} and {labels[pair.b]}: {shown}"


def combined_workings(found: Comparison) -> Workings:
    """The largest |Z| of several weights, and the chance of one so large.

    Raises:
        NoWorkingsError: when there are not two groups, or they could differ at no time.
    """
    if len(found.groups.labels) != 2:
        raise NoWorkingsError("several weights at once are for two groups")
    test = combined(found.data, found.code, found.stratum)
    if test.largest is None or test.p is None:
        raise NoWorkingsError(test.blank or "there is no test")
    names = [weight.key for weight in test.weights]
    return Workings(
        title=f"By the largest of {len(names)} weights: {formatting.p_phrase(test.p)}",
        formula=(
            "W = S(t−) ^ early × (1 − S(t−)) ^ late, Z = Σ W (observed − expected) / √Σ W² v",
            f"largest |Z| = {digits(test.largest)}",
            "p = the chance that a normal vector with these correlations has a component so far from 0 "
            f"= {digits(test.p)}",
        ),
        columns=(
            WordColumn("weight", "weight", np.arange(len(names)), tuple(names)),
            decimal("z", "Z", np.array(test.z)),
            *(
                decimal(f"correlation_{k + 1}", f"correlation with {name}", test.correlation[:, k])
                for k, name in enumerate(names)
            ),
        ),
        note="Lee (2007). The chance is an integral over directions, and can be redone by drawing "
        "normal vectors with the correlations shown.",
    )


def gray_workings(found: Comparison) -> Workings:
    """The test of cumulative incidence: events less those expected by weight, time by time.

    Raises:
        NoWorkingsError: with delayed entry, where the test is not known.
    """
    labels = found.groups.labels
    try:
        tested = gray_test(found.data, found.code, len(labels))
    except NotEstimableError as reason:
        raise NoWorkingsError(str(reason)) from None
    test = tested.test
    if test.p is None:
        raise NoWorkingsError(test.blank or "there is no test")
    return Workings(
        title=f"Gray, cumulative incidence: χ² {formatting.statistic(test.statistic)}",
        formula=(
            "expected in a group at a time = d × its share of Σ h (1 − F(t−)), h = n / S(t−), with d the "
            "events of the cause, n at risk, S free of all causes and F the group's incidence before it",
            *(
                f"{label}: observed {digits(float(tested.observed[g].sum()))} − expected "
                f"{digits(float(tested.expected[g].sum()))} = {digits(float(tested.excess[g]))}"
                for g, label in enumerate(labels)
            ),
            "covariance of these: "
            + "; ".join(", ".join(digits(float(v)) for v in row) for row in tested.variance),
            f"χ² = zᵀ V⁻ z = {digits(test.statistic)}, {formatting.count(test.df, 'degrees')} of freedom, "
            f"{formatting.exact_p(test.p)}",
        ),
        columns=(
            decimal("time", "time", tested.time, subjects_of(None)),
            *(
                column
                for g, label in enumerate(labels)
                for column in (
                    whole(
                        f"events_{g + 1}", f"events, {label}", tested.observed[g].astype(np.int64)
                    ),
                    decimal(f"expected_{g + 1}", f"expected, {label}", tested.expected[g]),
                )
            ),
        ),
        note="Gray (1988). It takes no account of strata. The covariance sums what each time adds to "
        "that of the incidences.",
    )
