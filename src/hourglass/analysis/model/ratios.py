"""A coefficient as a hazard ratio, or why there is none."""

from dataclasses import replace

import numpy as np

from hourglass.analysis.model.design import Design
from hourglass.analysis.model.readings import RatioReading
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.typed import number, ratio_of
from hourglass.core.regression.fitted import Fate, HazardsFit
from hourglass.core.regression.profile import finite_limit

RUNNING = ("to +infinity", "to -infinity")


def ratio_reading(coded: Design, found: HazardsFit, column: int, confidence: float) -> RatioReading:
    """The ratio of a column of the model, with its Wald interval.

    Where it runs away there is no ratio, but the end of its interval that profile likelihood gives.
    """
    fate = found.fate[column]
    if fate == "finite":
        lower, upper = found.interval(confidence)
        beta = float(found.beta[column])
        return RatioReading(
            ratio=ratio_of(beta),
            lower=ratio_of(lower[column]),
            upper=ratio_of(upper[column]),
            p=number(float(found.p[column])),
            beta=beta,
            standard_error=float(found.standard_error[column]),
            fate=fate,
            note="",
        )
    if fate == "aliased":
        why = next(a.reason for a in found.aliased if a.column == column)
        return _no_ratio(fate, f"left out: {why}")
    undetermined = "not determined: these rows fit any ratio equally well"
    if fate == "undetermined":
        return _no_ratio(fate, undetermined)
    limit = finite_limit(coded.data, coded.x, found, column, confidence)
    end = None if limit is None else ratio_of(limit)
    return _no_ratio(
        fate,
        _running_words(coded, found, column),
        lower=end if fate == "to +infinity" else None,
        upper=end if fate == "to -infinity" else None,
    )


def _running_words(coded: Design, found: HazardsFit, column: int) -> str:
    """Why a ratio runs away: by itself, or with others whose ratios do."""
    others = [
        coded.columns[k].named
        for k, fate in enumerate(found.fate)
        if fate in RUNNING and k != column
    ]
    rising = found.fate[column] == "to +infinity"
    end = "the ratio grows without bound" if rising else "the ratio falls to 0"
    if others:
        named = wording.listed(others)
        return f"a combination with {named} puts every event first among those at risk: {end}"
    extreme = "larger" if rising else "smaller"
    return f"at every event nobody at risk has a {extreme} value: {end}"


def alone_reading(
    coded: Design, alone: HazardsFit | None, positions: np.ndarray, column: int, confidence: float
) -> RatioReading:
    if alone is None:
        return _no_ratio("aliased", "not estimable")
    columns = tuple(coded.columns[k] for k in positions)
    own = replace(coded, x=coded.x[:, positions], columns=columns)
    return ratio_reading(own, alone, int(np.flatnonzero(positions == column)[0]), confidence)


def _no_ratio(
    fate: Fate, note: str, lower: float | None = None, upper: float | None = None
) -> RatioReading:
    return RatioReading(
        ratio=None,
        lower=lower,
        upper=upper,
        p=None,
        beta=None,
        standard_error=None,
        fate=fate,
        note=note,
    )
