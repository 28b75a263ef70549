"""What a fit maximises: risk sets, scaled columns and an offset, and its value at coefficients of 0."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from hourglass.core.arrays import BoolArray, FloatArray, IntArray
from hourglass.core.errors import NotEstimableError, Refusal, RefusedRowsError
from hourglass.core.followup import FollowUp
from hourglass.core.regression.columns import NO_DIFFERENCE, Columns, usable_columns
from hourglass.core.regression.exact import exact_likelihood, refuse_too_much
from hourglass.core.regression.likelihood import Likelihood, likelihood, seen_at_events
from hourglass.core.regression.one_by_one import one_by_one_likelihood
from hourglass.core.regression.risk_sets import RiskSets, risk_sets
from hourglass.core.regression.ties import EXACT, TieMethod
from hourglass.core.streams import refuse_too_many

NO_EVENTS = "no event was observed, so no rate can be compared"


@dataclass(frozen=True, slots=True, kw_only=True)
class Problem:
    """What is maximised: ``evaluate``, the likelihood at coefficients of the scaled columns.

    ``added`` (n,) is the offset of each data row, ``offset`` (n,) the same in the order of the risk sets.
    """

    data: FollowUp
    sets: RiskSets
    columns: Columns
    added: FloatArray
    offset: FloatArray
    ties: TieMethod
    stratum: IntArray | None
    within: Callable[[float], None]
    evaluate: Callable[[FloatArray], Likelihood]


def prepare(
    data: FollowUp,
    x: FloatArray,
    offset: FloatArray | None,
    ties: TieMethod,
    stratum: IntArray | None,
    sets: RiskSets | None = None,
    within: Callable[[float], None] = lambda share: None,
) -> tuple[Problem, Likelihood]:
    """What is maximised, and the likelihood where all coefficients are 0; ``sets`` where they are known.

    ``within`` is given the share of an evaluation that is done, where one takes its time.
    """
    added = np.zeros(data.exit.size) if offset is None else offset
    strange = np.flatnonzero(~np.isfinite(added))
    if strange.size:
        raise RefusedRowsError((Refusal("the offset is missing or infinite", strange),))
    if ties is EXACT:
        refuse_too_many(data.size)
    sets = risk_sets(data, ties, stratum) if sets is None else sets
    if ties is EXACT:
        refuse_too_much(sets, x.shape[1])
    columns = usable_columns(x, sets.order, sets.counted)
    ordered = added if offset is None else sets.ordered(added)
    evaluate = evaluation(sets, columns.z, ordered, ties, within)
    problem = Problem(
        data=data,
        sets=sets,
        columns=columns,
        added=added,
        offset=ordered,
        ties=ties,
        stratum=stratum,
        within=within,
        evaluate=evaluate,
    )
    at_zero = evaluate(np.zeros(columns.kept.size))
    if not np.isfinite(at_zero.value):
        raise NotEstimableError("the offsets are too far apart to compute with")
    informative = _informative(at_zero.information, float(sets.events.sum()))
    if informative.all():
        return problem, at_zero
    left = columns.without(~informative, NO_DIFFERENCE)
    at_zero = Likelihood(
        at_zero.value,
        at_zero.gradient[informative],
        at_zero.information[np.ix_(informative, informative)],
    )
    evaluate = evaluation(sets, left.z, ordered, ties, within)
    return replace(problem, columns=left, evaluate=evaluate), at_zero


def evaluation(
    sets: RiskSets,
    z: FloatArray,
    offset: FloatArray,
    ties: TieMethod,
    within: Callable[[float], None] = lambda share: None,
) -> Callable[[FloatArray], Likelihood]:
    """The likelihood of columns (q, n), beside an offset (n,), as a function of their coefficients."""
    seen = seen_at_events(sets, z)
    if ties is EXACT:
        return lambda b: exact_likelihood(sets, z, seen, b, offset, within)
    if not sets.one_by_one:
        return lambda b: likelihood(sets, z, seen, b, offset)
    entered = np.take(z, sets.entering, axis=1) if sets.entering.size else None

    def quickly(b: FloatArray) -> Likelihood:
        found = one_by_one_likelihood(sets, z, seen, b @ z + offset, entered)
        return likelihood(sets, z, seen, b, offset) if found is None else found

    return quickly


def _informative(information: FloatArray, events: float) -> BoolArray:
    """(q,) False for columns that never differ, beyond those before, among those at risk at an event."""
    informative = np.ones(information.shape[0], dtype=bool)
    for k in range(informative.size):
        before = np.flatnonzero(informative[:k])
        inner = information[np.ix_(before, before)]
        cross = information[before, k]
        explained = cross @ np.linalg.solve(inner, cross) if before.size else 0.0
        informative[k] = information[k, k] - explained > 1e-12 * events
    return informative
