"""Fitting the model that a statement states."""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from hourglass.analysis.catalogue.ties import TIE_METHODS
from hourglass.analysis.model.design import Design, design
from hourglass.analysis.model.statement import HazardsModel
from hourglass.cohort.followup import Cohort
from hourglass.cohort.words import listed
from hourglass.core.arrays import FloatArray
from hourglass.core.comparison.chi_squared import no_test
from hourglass.core.errors import NotEstimableError, singular_refused
from hourglass.core.progress import ProgressCallback, no_progress
from hourglass.core.regression.changing_checks import (
    changing_baselines,
    changing_concordance,
    changing_proportionality,
)
from hourglass.core.regression.changing_fit import fit_changing
from hourglass.core.regression.columns import scores_of
from hourglass.core.regression.concordance import Concordance, concordance
from hourglass.core.regression.firth import PenalisedFit, fit_penalised
from hourglass.core.regression.fit import fit
from hourglass.core.regression.fitted import CoefficientStatus, HazardsFit
from hourglass.core.regression.prediction import Baseline, baselines_of
from hourglass.core.regression.profile import finite_limit, profile_interval
from hourglass.core.regression.proportionality import ProportionalityTest, proportionality_test
from hourglass.core.regression.risk_sets import RiskSets, risk_sets
from hourglass.core.regression.robust import robust_covariance
from hourglass.core.regression.ties import TieMethod
from hourglass.core.regression.time_functions import TimeFunction


@dataclass(frozen=True, slots=True)
class Searched:
    """What is found of a coefficient by fitting again and again.

    Attributes:
        lower, upper: its limits; NaN where a search does not settle, ``why`` is the reason. Of one that runs
            away, the one limit that there may be.
        p: None where there is none.
    """

    lower: float
    upper: float
    p: float | None
    why: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class FittedModel:
    """A design with its fit; shared by Model, Check and their workings.

    Attributes:
        model: what was requested.
        fit: the estimates; with a penalty its coefficients, errors and likelihood are those of
            ``penalised``, and where errors are robust its covariance is.
        plain: the same fit with the errors of the model itself.
        known_sets: its risk sets, where they are known; they serve other columns of the same rows.
        searched: what has been searched for already, by the place of the coefficient.
    """

    model: HazardsModel
    design: Design
    fit: HazardsFit
    plain: HazardsFit
    known_sets: RiskSets | None = None
    penalised: PenalisedFit | None = None
    searched: Mapping[int, Searched] = field(default_factory=dict)

    @property
    def sets(self) -> RiskSets:
        """Its risk sets."""
        return self.known_sets or _risk_sets(self.design, self.plain.ties)

    def require_unpenalised(self) -> None:
        """Refuse a penalised model, for what is not defined with a penalty.

        Raises:
            NotEstimableError: where the model is penalised.
        """
        if self.model.penalised:
            raise NotEstimableError(
                "residuals, checks and predictions are those of the likelihood without penalty"
            )

    def require_constant_values(self) -> None:
        """Refuse covariates that change in time, for what puts each subject at one value throughout.

        Raises:
            NotEstimableError: naming the columns whose values change during follow-up (section 11).
        """
        varying = self.design.time_varying
        if varying:
            verb = "changes" if len(varying) == 1 else "change"
            raise NotEstimableError(
                f"{listed(varying)} {verb} during follow-up, so that no one value stands for all of it: "
                "to predict, take the value at entry or at a landmark"
            )

    def parted(self) -> "FittedModel":
        """The same fit of pieces of rows, where rows are whole: what residuals and checks are made of.

        Raises:
            NotEstimableError: when that would make too many pieces.
        """
        if not self.design.whole:
            return self
        coded = self.design.parted()
        centred = coded.x - coded.x.mean(axis=0)
        own = replace(
            self.plain,
            linear=scores_of(centred.T, self.plain.beta),
            offset=np.zeros(coded.data.exit.size),
            stratum=coded.stratum,
        )
        return FittedModel(
            model=self.model,
            design=coded,
            fit=own,
            plain=own,
            known_sets=_risk_sets(coded, own.ties),
        )

    def baselines(self) -> dict[int, Baseline]:
        """The baseline of each stratum that has an event, by its code.

        Raises:
            NotEstimableError: as for :func:`hourglass.core.regression.residuals.at_estimate`.
        """
        coded = self.design
        if coded.changing is not None:
            return changing_baselines(coded.data, self.sets, coded.x, coded.changing, self.plain)
        return baselines_of(coded.data, coded.x, self.plain)

    def concordance(self) -> Concordance:
        """The concordance of its linear predictor in its own rows."""
        coded = self.design
        if coded.changing is not None:
            return changing_concordance(coded.data, self.sets, coded.x, coded.changing, self.plain)
        return concordance(coded.data, self.fit.linear, coded.stratum)

    def proportionality(self, time_function: TimeFunction) -> ProportionalityTest:
        """Whether each coefficient stays the same along a function of time.

        Raises:
            NotEstimableError: when a coefficient has no finite estimate, or the function of time is not
                defined at an event.
        """
        coded = self.design
        if coded.changing is not None:
            return changing_proportionality(
                coded.data, self.sets, coded.x, coded.changing, self.plain, time_function
            )
        return proportionality_test(coded.data, coded.x, self.plain, time_function)

    def limits(self, column: int, confidence: float) -> tuple[float, float]:
        """The limits of a coefficient, as the model states them; an end may be infinite.

        Raises:
            NotEstimableError: when a profile does not settle.
        """
        if column in self.searched:
            known = self.searched[column]
            if known.why:
                raise NotEstimableError(known.why)
            return known.lower, known.upper
        if self.penalised is not None:
            return self.penalised.interval(column, confidence)
        if self.model.intervals == "profile":
            return profile_interval(self.design.data, self.design.x, self.plain, column, confidence)
        lower, upper = self.fit.interval(confidence)
        return float(lower[column]), float(upper[column])

    def finite_limit(self, column: int, confidence: float) -> float | None:
        """The one limit of a coefficient that runs away; None where none is found within reach."""
        if column in self.searched:
            known = self.searched[column]
            end = known.lower if self.fit.status[column] == "to +infinity" else known.upper
            return None if math.isnan(end) else end
        return finite_limit(self.design.data, self.design.x, self.plain, column, confidence)

    def p(self, column: int) -> float | None:
        """The p-value of a coefficient that has an estimate; None where a search does not settle."""
        if column in self.searched:
            return self.searched[column].p
        if self.penalised is not None:
            return self.penalised.test_of(np.array([column])).p
        return float(self.fit.p[column])


def fit_model(
    cohort: Cohort, model: HazardsModel, progress: ProgressCallback = no_progress
) -> FittedModel:
    """Fit a model.

    Raises:
        NotEstimableError, UnusableTermError, NoSuchColumnError: when there is no such model.
    """
    coded = design(cohort, model)
    if coded.x.shape[1] == 0:
        raise NotEstimableError("add a term to fit a model")
    return fit_design(coded, model, progress)


def fit_parted(
    cohort: Cohort, model: HazardsModel, progress: ProgressCallback = no_progress
) -> FittedModel:
    """Fit a model, on pieces of rows where columns change: what residuals and checks are made of.

    Raises:
        NotEstimableError, UnusableTermError, NoSuchColumnError: as for :func:`fit_model`, and when there
            would be too many pieces.
    """
    return fit_model(cohort, model, progress).parted()


def fit_columns(
    coded: Design, ties: TieMethod, sets: RiskSets, progress: ProgressCallback = no_progress
) -> tuple[Design, HazardsFit, RiskSets]:
    """Fit the columns of a design as they are, with the rows and risk sets that served.

    Raises:
        NotEstimableError: as for :func:`hourglass.core.regression.fit.fit`.
    """
    every_step = steps(progress, 0.1)
    if coded.changing is not None:
        found = fit_changing(
            coded.data, coded.x, coded.changing, ties, coded.stratum, sets, every_step
        )
        if found is not None:
            return coded, found, sets
        coded = coded.parted()
        sets = _risk_sets(coded, ties)
    found = fit(
        coded.data, coded.x, on_iteration=every_step, ties=ties, stratum=coded.stratum, sets=sets
    )
    return coded, found, sets


def _risk_sets(coded: Design, ties: TieMethod) -> RiskSets:
    return risk_sets(coded.data, ties, coded.stratum)


@singular_refused()
def fit_design(
    coded: Design,
    model: HazardsModel,
    progress: ProgressCallback = no_progress,
    known: RiskSets | None = None,
) -> FittedModel:
    """Fit the columns of a design as a model states; ``known`` are its risk sets, where there are any.

    Raises:
        NotEstimableError: as for :func:`fit`, and for what does not go together.
    """
    rule = TIE_METHODS[model.ties]
    ties = rule.method
    if not rule.has_residuals and model.robust is not None:
        raise NotEstimableError(
            "robust errors are made of residuals, which exact ties do not have: choose other ties"
        )
    if model.penalised or model.robust is not None or model.intervals == "profile":
        # These are made of the fit of parted rows.
        known = None if coded.whole else known
        coded = coded.parted()
    sets = _risk_sets(coded, ties) if known is None else known
    coded, plain, sets = fit_columns(coded, ties, sets, progress)
    if model.penalised:
        if model.robust is not None:
            raise NotEstimableError("robust errors are not known for the penalised likelihood")
        penalised = fit_penalised(coded.data, coded.x, ties=ties, stratum=coded.stratum)
        own = _of_penalised(plain, penalised, coded.x)
        return FittedModel(
            model=model, design=coded, fit=own, plain=plain, known_sets=sets, penalised=penalised
        )
    if model.robust is None:
        return FittedModel(model=model, design=coded, fit=plain, plain=plain, known_sets=sets)
    progress("robust errors", 0.4)
    errors = robust_covariance(coded.data, coded.x, plain, coded.cluster)
    own = replace(plain, covariance=errors)
    every = np.flatnonzero(np.array(plain.status) != "aliased")
    return FittedModel(
        model=model,
        design=coded,
        fit=replace(own, wald=own.wald_of(every)),
        plain=plain,
        known_sets=sets,
    )


def _of_penalised(plain: HazardsFit, found: PenalisedFit, x: FloatArray) -> HazardsFit:
    """The penalised estimates in the form of a fit; every column that is not aliased has one."""
    aliased = np.isnan(found.beta)
    status: tuple[CoefficientStatus, ...] = tuple("aliased" if a else "finite" for a in aliased)
    kept = np.flatnonzero(~aliased)
    own = replace(
        plain,
        beta=found.beta,
        covariance=found.covariance,
        status=status,
        value_at_zero=found.value_at_zero,
        value=found.value,
        likelihood_ratio=found.likelihood_ratio,
        score=no_test("not known for the penalised likelihood"),
        iterations=found.iterations,
        linear=scores_of((x[:, kept] - x[:, kept].mean(axis=0)).T, found.beta[kept]),
    )
    return replace(own, wald=own.wald_of(kept))


def steps(progress: ProgressCallback, start: float) -> Callable[[float], None]:
    """Reports each step of a fit, and parts of one, to a callback, from a share of the work on."""
    return lambda done: progress(f"fitting, step {int(done)}", min(start + 0.05 * done, 0.5))
