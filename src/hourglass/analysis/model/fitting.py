"""Fitting the model that a statement states."""

from collections.abc import Callable
from dataclasses import dataclass

from hourglass.analysis.model.design import Design, design
from hourglass.analysis.model.statement import ModelStatement
from hourglass.cohort.followup import Cohort
from hourglass.core.errors import NotEstimableError
from hourglass.core.regression.fit import fit
from hourglass.core.regression.fitted import HazardsFit
from hourglass.core.watch import Watch, unwatched


@dataclass(frozen=True, slots=True)
class FittedModel:
    """A design with its fit; shared by Model, Check and their workings."""

    design: Design
    fit: HazardsFit


def fit_model(cohort: Cohort, statement: ModelStatement, watch: Watch = unwatched) -> FittedModel:
    """Fit the statement's model.

    Raises:
        NotEstimableError, UnusableTermError, NoSuchColumnError: when there is no such model.
    """
    coded = design(cohort, statement)
    if coded.x.shape[1] == 0:
        raise NotEstimableError("add a term to fit a model")
    return FittedModel(coded, fit(coded.data, coded.x, watch=steps(watch, 0.1)))


def steps(watch: Watch, start: float) -> Callable[[int], None]:
    """Tells a watch each step of a fit, from a share of the work on."""
    return lambda step: watch(f"fitting, step {step}", min(start + 0.05 * step, 0.5))
