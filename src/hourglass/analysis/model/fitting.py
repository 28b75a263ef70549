"""Fitting the model that a statement states."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from hourglass.analysis.model.design import Design, design
from hourglass.analysis.model.statement import HazardsModel
from hourglass.cohort.followup import Cohort
from hourglass.core.arrays import FloatArray
from hourglass.core.comparison.chi_squared import no_test
from hourglass.core.errors import NotEstimableError
from hourglass.core.regression.columns import scores_of
from hourglass.core.regression.firth import PenalisedFit, fit_penalised
from hourglass.core.regression.fit import fit
from hourglass.core.regression.fitted import Fate, HazardsFit
from hourglass.core.regression.profile import profile_interval
from hourglass.core.regression.risk_sets import RiskSets, risk_sets
from hourglass.core.regression.robust import robust_covariance
from hourglass.core.regression.ties import EXACT, TIE_METHODS
from hourglass.core.variants import variant
from hourglass.core.watch import Watch, unwatched


@dataclass(frozen=True, slots=True)
class FittedModel:
    """A design with its fit; shared by Model, Check and their workings.

    Attributes:
        model: what was asked for.
        fit: the estimates; with a penalty its coefficients, errors and likelihood are those of
            ``penalised``, and where errors are robust its covariance is.
        plain: the same fit with the errors of the model itself.
        sets: its risk sets, which serve other columns of the same rows.
    """

    model: HazardsModel
    design: Design
    fit: HazardsFit
    plain: HazardsFit
    sets: RiskSets
    penalised: PenalisedFit | None = None

    def require_unpenalised(self) -> None:
        """Refuse what the penalty has no place in.

        Raises:
            NotEstimableError: where the model is penalised.
        """
        if self.penalised is not None:
            raise NotEstimableError(
                "residuals, checks and predictions are those of the likelihood without penalty"
            )

    def limits(self, column: int, confidence: float) -> tuple[float, float]:
        """The limits of a coefficient, as the model asks for them; an end may be infinite.

        Raises:
            NotEstimableError: when a profile does not settle.
        """
        if self.penalised is not None:
            return self.penalised.interval(column, confidence)
        if self.model.intervals == "profile":
            return profile_interval(self.design.data, self.design.x, self.plain, column, confidence)
        lower, upper = self.fit.interval(confidence)
        return float(lower[column]), float(upper[column])

    def p(self, column: int) -> float | None:
        """The p-value of a coefficient that has an estimate; None where a search does not settle."""
        if self.penalised is not None:
            return self.penalised.test_of(np.array([column])).p
        return float(self.fit.p[column])


def fit_model(cohort: Cohort, model: HazardsModel, watch: Watch = unwatched) -> FittedModel:
    """Fit a model.

    Raises:
        NotEstimableError, UnusableTermError, NoSuchColumnError: when there is no such model.
    """
    coded = design(cohort, model)
    if coded.x.shape[1] == 0:
        raise NotEstimableError("add a term to fit a model")
    return fit_design(coded, model, watch)


def fit_design(
    coded: Design, model: HazardsModel, watch: Watch = unwatched, known: RiskSets | None = None
) -> FittedModel:
    """Fit the columns of a design as a model asks; ``known`` are its risk sets, where there are any.

    Raises:
        NotEstimableError: as for :func:`fit`, and for what does not go together.
    """
    ties = variant(TIE_METHODS, model.ties)
    if ties is EXACT and model.robust is not None:
        raise NotEstimableError(
            "robust errors are made of residuals, which exact ties do not have: choose other ties"
        )
    sets = risk_sets(coded.data, ties, coded.stratum) if known is None else known
    told = steps(watch, 0.1)
    plain = fit(coded.data, coded.x, watch=told, ties=ties, stratum=coded.stratum, sets=sets)
    if model.penalised:
        if model.robust is not None:
            raise NotEstimableError("robust errors are not known for the penalised likelihood")
        penalised = fit_penalised(coded.data, coded.x, ties=ties, stratum=coded.stratum)
        own = _of_penalised(plain, penalised, coded.x)
        return FittedModel(model, coded, own, plain, sets, penalised)
    if model.robust is None:
        return FittedModel(model, coded, plain, plain, sets)
    watch("robust errors", 0.4)
    errors = robust_covariance(coded.data, coded.x, plain, coded.cluster)
    own = replace(plain, covariance=errors)
    every = np.flatnonzero(np.array(plain.fate) != "aliased")
    return FittedModel(model, coded, replace(own, wald=own.wald_of(every)), plain, sets)


def _of_penalised(plain: HazardsFit, found: PenalisedFit, x: FloatArray) -> HazardsFit:
    """The penalised estimates in the form of a fit; every column that is not aliased has one."""
    aliased = np.isnan(found.beta)
    fate: tuple[Fate, ...] = tuple("aliased" if a else "finite" for a in aliased)
    kept = np.flatnonzero(~aliased)
    own = replace(
        plain,
        beta=found.beta,
        covariance=found.covariance,
        fate=fate,
        value_at_zero=found.value_at_zero,
        value=found.value,
        likelihood_ratio=found.likelihood_ratio,
        score=no_test("not known for the penalised likelihood"),
        iterations=found.iterations,
        linear=scores_of((x[:, kept] - x[:, kept].mean(axis=0)).T, found.beta[kept]),
    )
    return replace(own, wald=own.wald_of(kept))


def steps(watch: Watch, start: float) -> Callable[[float], None]:
    """Reports each step of a fit, and parts of one, to a watch, from a share of the work on."""
    return lambda done: watch(f"fitting, step {int(done)}", min(start + 0.05 * done, 0.5))
