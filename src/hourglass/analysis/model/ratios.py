"""A ratio of the model with its interval, or why there is none."""

import math

import numpy as np

from hourglass.analysis.model.compared_ratios import ComparedRatio
from hourglass.analysis.model.design import Design
from hourglass.analysis.model.fit_numbers import RUNNING
from hourglass.analysis.model.fitting import FittedModel
from hourglass.analysis.model.readouts import RatioReadout
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.frozen_model import number, ratio_of
from hourglass.core.contrast import two_sided
from hourglass.core.errors import NotEstimableError
from hourglass.core.normal import normal_quantile
from hourglass.core.regression.fitted import CoefficientStatus, HazardsFit


def ratio_readout(fitted: FittedModel, shown: ComparedRatio, confidence: float) -> RatioReadout:
    """A ratio: that of one coefficient, or of a sum of several."""
    if shown.column is not None:
        return of_column(fitted, shown.column, confidence, float(shown.weights[shown.column]))
    return _of_sum(fitted, shown.weights, confidence)


def of_column(
    fitted: FittedModel, column: int, confidence: float, unit: float = 1.0
) -> RatioReadout:
    """The ratio of a column of the model, with its interval as the model states it.

    Args:
        unit: how much more of the column the ratio is for; above 0.

    Where it runs away there is no ratio, but the end of its interval that profile likelihood gives.
    """
    coded, found = fitted.design, fitted.fit
    status = found.status[column]
    if status == "finite":
        try:
            lower, upper = fitted.limits(column, confidence)
            note = ""
        except NotEstimableError as why:
            lower, upper, note = math.nan, math.nan, str(why)
        beta = unit * float(found.beta[column])
        error = unit * float(found.standard_error[column])
        return RatioReadout(
            ratio=ratio_of(beta),
            lower=_limit(unit * lower),
            upper=_limit(unit * upper),
            p=number(fitted.p(column)),
            beta=beta,
            standard_error=error,
            z=beta / error if error > 0 else None,
            status=status,
            note=note,
        )
    if status == "aliased":
        why_aliased = next(a.reason for a in found.aliased if a.column == column)
        return no_ratio(status, f"left out: {why_aliased}")
    undetermined = "not determined: these rows fit any ratio equally well"
    if status == "undetermined":
        return no_ratio(status, undetermined)
    limit = fitted.finite_limit(column, confidence)
    end = None if limit is None else ratio_of(unit * limit)
    return no_ratio(
        status,
        _running_words(coded, found, column),
        lower=end if status == "to +infinity" else None,
        upper=end if status == "to -infinity" else None,
    )


def _limit(value: float) -> float | None:
    """A limit as a ratio; 0 and infinity are ends, too."""
    if math.isnan(value):
        return None
    if math.isinf(value):
        return 0.0 if value < 0 else None
    return ratio_of(value)


def _of_sum(fitted: FittedModel, weights: np.ndarray, confidence: float) -> RatioReadout:
    """exp(w β̂) with its interval by Var(w β̂) = w V wᵀ."""
    found = fitted.fit
    there = np.flatnonzero(weights)
    statuses = [found.status[k] for k in there]
    if not there.size or any(f != "finite" for f in statuses):
        names = [fitted.design.columns[k].named for k in there if found.status[k] != "finite"]
        status: CoefficientStatus = next((f for f in statuses if f != "finite"), "aliased")
        return no_ratio(status, f"rests on {formatting.listed(names)}: not estimated")
    own = weights[there]
    beta = float(own @ found.beta[there])
    error = math.sqrt(max(float(own @ found.covariance[np.ix_(there, there)] @ own), 0.0))
    half = normal_quantile(confidence) * error
    return RatioReadout(
        ratio=ratio_of(beta),
        lower=ratio_of(beta - half),
        upper=ratio_of(beta + half),
        p=two_sided(beta / error) if error > 0 else None,
        beta=beta,
        standard_error=error,
        z=beta / error if error > 0 else None,
        status="finite",
        note="",
    )


def _running_words(coded: Design, found: HazardsFit, column: int) -> str:
    """Why a ratio runs away: by itself, or with others whose ratios do."""
    others = [
        coded.columns[k].named
        for k, status in enumerate(found.status)
        if status in RUNNING and k != column
    ]
    rising = found.status[column] == "to +infinity"
    end = "the ratio grows without bound" if rising else "the ratio falls to 0"
    if others:
        named = formatting.listed(others)
        return f"a combination with {named} puts every event first among those at risk: {end}"
    extreme = "larger" if rising else "smaller"
    return f"at every event nobody at risk has a {extreme} value: {end}"


def no_ratio(
    status: CoefficientStatus, note: str, lower: float | None = None, upper: float | None = None
) -> RatioReadout:
    """Why there is no ratio, with the one limit that there may be."""
    return RatioReadout(
        ratio=None,
        lower=lower,
        upper=upper,
        p=None,
        beta=None,
        standard_error=None,
        z=None,
        status=status,
        note=note,
    )
