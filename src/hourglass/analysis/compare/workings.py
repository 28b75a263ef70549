"""The workings of Compare: those of its curves, and of its tests."""

from typing import Annotated

import numpy as np
from pydantic import Field

from hourglass.analysis.catalogue.weights import WEIGHTS
from hourglass.analysis.compare.groups import Comparison, comparison, strata_of
from hourglass.analysis.compare.log_rank_workings import (
    log_rank_workings,
    trend_workings,
    workings_of_groups,
)
from hourglass.analysis.compare.other_workings import (
    combined_workings,
    gray_workings,
    pair_workings,
    weight_workings,
)
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.compare.threshold import threshold_workings
from hourglass.analysis.compare.variables import variables_of
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.shared.curve_figures import WorkedCurves, curve_figures
from hourglass.analysis.shared.curve_form import study_form
from hourglass.analysis.shared.declared import Statements, statement_of
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.analysis.shared.mean_section import Means
from hourglass.analysis.shared.workings import ExplainedNumber, Nothing, NoWorkingsError, Workings
from hourglass.cohort.followup import Cohort
from hourglass.core.comparison.groups_tested import compared
from hourglass.core.errors import NotEstimableError


class OfWeight(FrozenModel):
    """The test with a weight; the planned one when none is named."""

    weight: Annotated[str | None, Field(max_length=100)] = None


class OfVariable(FrozenModel):
    """A variable that is tested in turn."""

    variable: Annotated[str, Field(max_length=300)]


class OfPair(FrozenModel):
    """Two groups, by their places."""

    a: Annotated[int, Field(ge=0)]
    b: Annotated[int, Field(ge=0)]


def _compared(cohort: Cohort, stated: Statements) -> Comparison:
    statement = statement_of(stated, CompareStatement)
    if statement.by is None or statement.each:
        raise NoWorkingsError("no groups are compared")
    try:
        return comparison(cohort, statement, study_form(stated))
    except NotEstimableError as reason:
        raise NoWorkingsError(str(reason)) from None


def _screened(cohort: Cohort, stated: Statements, about: OfVariable) -> Workings:
    statement = statement_of(stated, CompareStatement)
    variables = variables_of(cohort, statement) if statement.each else ()
    one = next((v for v in variables if v.name == about.variable and v.grouped), None)
    if one is None or not one.drawn.complete.any():
        raise NoWorkingsError("no groups of it are tested")
    rows = one.drawn.complete
    data = cohort.follow_up.only(rows)
    strata = strata_of(cohort, statement)[rows] if statement.within else None
    weight = WEIGHTS[statement.weight]
    there, tested = compared(data, one.drawn.groups(data), weight.method, strata)
    if tested is None:
        raise NoWorkingsError("all rows are in one group")
    return workings_of_groups([one.labels[k] for k in there], one.name, tested, weight)


def _curves(cohort: Cohort, stated: Statements) -> WorkedCurves:
    found = _compared(cohort, stated)
    limit = statement_of(stated, EstimateStatement).limit
    code = np.full(found.rows.size, -1, dtype=np.int64)
    code[found.rows] = found.code
    until = Means(found.curves, found.form.confidence, limit).limit
    return WorkedCurves(cohort, found.curves, code, until, found.statement.seed)


def _log_rank(cohort: Cohort, stated: Statements, about: OfWeight) -> Workings:
    found = _compared(cohort, stated)
    if about.weight is not None:
        return weight_workings(found, about.weight)
    return log_rank_workings(found, WEIGHTS[found.statement.weight])


def _trend(cohort: Cohort, stated: Statements, about: Nothing) -> Workings:
    return trend_workings(_compared(cohort, stated))


def _thresholds(cohort: Cohort, stated: Statements, about: Nothing) -> Workings:
    return threshold_workings(cohort, _compared(cohort, stated))


def _pair(cohort: Cohort, stated: Statements, about: OfPair) -> Workings:
    return pair_workings(_compared(cohort, stated), about.a, about.b)


def _combined(cohort: Cohort, stated: Statements, about: Nothing) -> Workings:
    return combined_workings(_compared(cohort, stated))


def _gray(cohort: Cohort, stated: Statements, about: Nothing) -> Workings:
    return gray_workings(_compared(cohort, stated))


WORKINGS = (
    *curve_figures(_curves),
    ExplainedNumber("log-rank", OfWeight, _log_rank),
    ExplainedNumber("trend", Nothing, _trend),
    ExplainedNumber("thresholds", Nothing, _thresholds),
    ExplainedNumber("pair", OfPair, _pair),
    ExplainedNumber("combined", Nothing, _combined),
    ExplainedNumber("gray", Nothing, _gray),
    ExplainedNumber("screened", OfVariable, _screened),
)
