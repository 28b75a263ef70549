"""The baseline hazard, and survival of a profile
(methods.md, section 4: Proportional hazards regression)."""

from dataclasses import dataclass, replace

import numpy as np

from hourglass.core.arrays import BoolArray, FloatArray, IntArray
from hourglass.core.curves.quantiles import Quantile, of_steps
from hourglass.core.curves.restricted_mean import areas
from hourglass.core.followup import FollowUp
from hourglass.core.normal import normal_quantile
from hourglass.core.regression.effects import OverTime
from hourglass.core.regression.fitted import HazardsFit
from hourglass.core.regression.likelihood import means_over_hazard
from hourglass.core.regression.residuals import AtEstimate, at_estimate


@dataclass(frozen=True, slots=True, kw_only=True)
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
        """(K,) Λ at covariates on their original scale: ``profile`` (p,), or (K, p) where they change
        over the event times; at 0 of all when absent."""
        at = np.zeros(self.beta.size) if profile is None else profile
        return np.cumsum(self.steps * self.scores(at, offset))

    def hazard_at(self, time: FloatArray) -> FloatArray:
        """(m,) Λ at times, for the columns' means; held after the last event."""
        return self._upto(np.cumsum(self.steps), time)

    def scores(self, x: FloatArray, offset: FloatArray | float) -> FloatArray:
        """What the hazard of each row (n, p), or of one (p,), is multiplied with."""
        return np.asarray(np.exp((x - self.centre) @ self.beta + offset - self.shift))

    def hazards(
        self, x: FloatArray, offset: FloatArray, time: FloatArray, over_time: OverTime | None = None
    ) -> FloatArray:
        """(n, m) Λ of rows at times; with changing effects from the values ``x`` (n, p) of the rows."""
        if over_time is None:
            return np.multiply.outer(self.scores(x, offset), self.hazard_at(time))
        effects = np.zeros((x.shape[1], self.time.size))
        np.add.at(effects, over_time.source, (over_time.at(self.time) * self.beta).T)
        linear = x @ effects + (offset - self.centre @ self.beta - self.shift)[:, None]
        return self._upto(np.cumsum(self.steps * np.exp(linear), axis=1), time)

    def _upto(self, hazard: FloatArray, time: FloatArray) -> FloatArray:
        """A cumulative hazard (…, K) at m times, (…, m): 0 before the first event, then steps."""
        before = np.zeros((*hazard.shape[:-1], 1))
        place = np.searchsorted(self.time, time, side="right")
        return np.concatenate([before, hazard], axis=-1)[..., place]

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
        """Survival exp(−Λ) of a profile (p,) or (K, p), with its interval on the log–log scale.

        Var Λ = Σ_j r² Σ_l 1/φ_l² + hᵀ Var(β̂) h, h = Σ_j r Σ_l (x − x̄_l)/φ_l, r and x at each time.
        """
        score = np.broadcast_to(self.scores(profile, offset), self.time.shape)
        away = np.broadcast_to(profile - self.centre, (self.time.size, self.beta.size)).T
        apart = np.cumsum(score * (away * self.steps - self.means), axis=1)
        own = np.einsum("pk,pq,qk->k", apart, self.covariance, apart)
        variance = np.cumsum(score**2 * self.squares) + own
        cumulative = self.cumulative(profile, offset)
        stretch = np.exp(normal_quantile(confidence) * np.sqrt(variance) / cumulative)
        return Predicted(
            time=self.time,
            cumulative=cumulative,
            survival=np.exp(-cumulative),
            variance=variance,
            lower=np.exp(-cumulative * stretch),
            upper=np.exp(-cumulative / stretch),
            last=self.last,
        )


@dataclass(frozen=True, slots=True, kw_only=True)
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


def baselines_of(data: FollowUp, x: FloatArray, fitted: HazardsFit) -> dict[int, Baseline]:
    """The same from the columns (n, p) that were fitted.

    Raises:
        NotEstimableError: as for :func:`at_estimate`.
    """
    return baselines(data, fitted, at_estimate(data, x, fitted))


def shared_end(data: FollowUp, stratum: IntArray | None) -> float:
    """The smallest of the strata's largest observed times, those of strata without events too."""
    if stratum is None:
        return data.end
    code, place = np.unique(stratum, return_inverse=True)
    ends = np.zeros(code.size)
    np.maximum.at(ends, place, data.exit)
    return float(ends.min())


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
            time=sets.time[start:end],
            last=float(data.exit[rows].max()),
            steps=m.sums.inverse[start:end],
            squares=squares[start:end],
            means=means[:, start:end],
            shift=float(at.linear[place] - m.linear[place]),
            centre=at.centre,
            beta=at.beta,
            covariance=at.covariance,
        ).among(at.kept)
    return found
