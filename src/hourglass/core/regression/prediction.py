"""The baseline hazard, and survival of a profile
(methods.md, section 4: Proportional hazards regression)."""

from dataclasses import dataclass, replace

import numpy as np

from hourglass.core.arrays import BoolArray, FloatArray
from hourglass.core.curves.quantiles import Quantile, of_steps
from hourglass.core.curves.restricted_mean import areas
from hourglass.core.followup import FollowUp
from hourglass.core.normal import normal_quantile
from hourglass.core.regression.fitted import HazardsFit
from hourglass.core.regression.likelihood import means_over_hazard
from hourglass.core.regression.residuals import AtEstimate


@dataclass(frozen=True, slots=True)
class Baseline:
    """The hazard of one stratum at K event times, for the columns' means and no offset.

    Attributes:
        time: (K,) event times; ``last``: the largest observed time of the stratum.
        steps: (K,) Σ_l 1/φ_l; ``squares``: (K,) Σ_l 1/φ_l²; ``means``: (p, K) Σ_l x̄_l/φ_l, columns
            less their means: each φ divided by exp(``shift``).
        centre: (p,) the columns' means; ``beta``: (p,) and ``covariance``: (p, p) of the fit.
    """

    time: FloatArray
    last: float
    steps: FloatArray
    squares: FloatArray
    means: FloatArray
    shift: float
    centre: FloatArray
    beta: FloatArray
    covariance: FloatArray

    def cumulative(self, profile: FloatArray | None = None, offset: float = 0.0) -> FloatArray:
        """(K,) Λ at covariates ``profile`` (p,) on their original scale; at 0 of all when absent."""
        return np.cumsum(self.steps) * self._score(profile, offset)

    def hazard_at(self, time: FloatArray) -> FloatArray:
        """(m,) Λ at times, for the columns' means; held after the last event."""
        upto = np.concatenate([[0.0], np.cumsum(self.steps)])
        return np.asarray(upto[np.searchsorted(self.time, time, side="right")])

    def scores(self, x: FloatArray, offset: FloatArray | float) -> FloatArray:
        """What the hazard of each row (n, p), or of one (p,), is multiplied with."""
        return np.asarray(np.exp((x - self.centre) @ self.beta + offset - self.shift))

    def among(self, kept: BoolArray) -> "Baseline":
        """The same baseline for all columns, of which it knows those kept: the others' coefficient is 0."""
        centre, beta = np.zeros(kept.size), np.zeros(kept.size)
        centre[kept], beta[kept] = self.centre, self.beta
        means, covariance = np.zeros((kept.size, self.time.size)), np.zeros((kept.size, kept.size))
        means[kept], covariance[np.ix_(kept, kept)] = self.means, self.covariance
        return replace(self, centre=centre, beta=beta, means=means, covariance=covariance)

    def survival(
        self, profile: FloatArray, confidence: float = 0.95, offset: float = 0.0
    ) -> "Predicted":
        """Survival exp(−Λ) of a profile, with its interval on the log–log scale."""
        score = self._score(profile, offset)
        hazard = np.cumsum(self.steps)
        apart = np.multiply.outer(profile - self.centre, hazard) - np.cumsum(self.means, axis=1)
        own = np.einsum("pk,pq,qk->k", apart, self.covariance, apart)
        variance = score**2 * (np.cumsum(self.squares) + own)
        cumulative = score * hazard
        stretch = np.exp(normal_quantile(confidence) * np.sqrt(variance) / cumulative)
        return Predicted(
            self.time,
            cumulative,
            np.exp(-cumulative),
            variance,
            np.exp(-cumulative * stretch),
            np.exp(-cumulative / stretch),
            self.last,
        )

    def _score(self, profile: FloatArray | None, offset: float) -> float:
        at = np.zeros(self.beta.size) if profile is None else profile
        return float(self.scores(at, offset))


@dataclass(frozen=True, slots=True)
class Predicted:
    """Survival of a profile at K event times, up to the largest observed time of its stratum.

    Attributes:
        cumulative: (K,) Λ, ``variance``: (K,) its variance (Tsiatis 1981; Link 1984).
        survival, lower, upper: (K,) exp(−Λ) with its interval.
    """

    time: FloatArray
    cumulative: FloatArray
    survival: FloatArray
    variance: FloatArray
    lower: FloatArray
    upper: FloatArray
    last: float

    def quantile(self, q: float) -> Quantile:
        """The time by which a share q has had the event, by the rule of section 2."""
        return of_steps(self.time, self.survival, self.lower, self.upper, q)

    def restricted_mean(self, limit: float) -> float:
        """∫₀^τ exp(−Λ).

        Raises:
            NotEstimableError: when the limit is not above 0, or past the largest observed time.
        """
        return float(areas(self.time, self.survival, self.last, limit).sum())


def baselines(data: FollowUp, fitted: HazardsFit, at: AtEstimate) -> dict[int, Baseline]:
    """The baseline of each stratum that has an event, by its code (0 without strata)."""
    sets, m = at.sets, at.m
    squares, _ = sets.factors.squares(m.rest, m.tied)
    means, _ = means_over_hazard(sets, m)
    found = {}
    for start, end in zip(sets.starts, sets.ends, strict=True):
        code = int(sets.stratum[start])
        rows = slice(None) if fitted.stratum is None else fitted.stratum == code
        place = sets.event_rows[np.searchsorted(sets.event_time, start)]
        found[code] = Baseline(
            sets.time[start:end],
            float(data.exit[rows].max()),
            m.sums.inverse[start:end],
            squares[start:end],
            means[:, start:end],
            float(at.linear[place] - m.linear[place]),
            at.centre,
            at.beta,
            at.covariance,
        ).among(at.kept)
    return found
