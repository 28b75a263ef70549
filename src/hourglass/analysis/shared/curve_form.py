"""The form of a curve: how it is estimated, and which limits are drawn and read of it
(methods.md, section 2: Survival curve)."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from hourglass.analysis.catalogue.estimators import ESTIMATORS
from hourglass.analysis.catalogue.intervals import INTERVALS, POINTWISE
from hourglass.analysis.catalogue.scales import INTERVAL_SCALES
from hourglass.analysis.shared import naming
from hourglass.analysis.shared.statement import USUAL_LEVEL, Confidence, StageStatement, one_of
from hourglass.core.arrays import FloatArray
from hourglass.core.curves.bands import simultaneous_band
from hourglass.core.curves.estimators import PRODUCT_LIMIT, Estimator
from hourglass.core.curves.scales import LOG_LOG, IntervalScale
from hourglass.core.curves.survival import SurvivalCurve
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import FollowUp


@dataclass(frozen=True, slots=True)
class CurveForm:
    """How curves are estimated: the level, scale and kind of their limits, and since when free of the
    event."""

    confidence: float
    estimator: Estimator = PRODUCT_LIMIT
    scale: IntervalScale = LOG_LOG
    start: float | None = None
    intervals: str = POINTWISE

    @property
    def from_the_beginning(self) -> "CurveForm":
        """The same form of a curve that is not given anything."""
        return replace(self, start=None)

    def at_level(self, confidence: float | None) -> "CurveForm":
        """The same form at a level that is stated otherwise."""
        return self if confidence is None else replace(self, confidence=confidence)

    @property
    def ci(self) -> str:
        """What a confidence interval of one number is called."""
        return ci(self.confidence)


USUAL = CurveForm(USUAL_LEVEL)
"""The form of curves where nobody has stated another."""


class CurveFormStatement(StageStatement):
    """A statement that sets the form of the study's curves.

    Attributes:
        confidence: the level of limits; ``intervals``: their kind; ``scale``: what they are made on.
        estimator: how survival is estimated.
    """

    confidence: Confidence = USUAL_LEVEL
    intervals: one_of(INTERVALS) = POINTWISE  # type: ignore[valid-type]
    scale: one_of(INTERVAL_SCALES) = LOG_LOG.key  # type: ignore[valid-type]
    estimator: one_of(ESTIMATORS) = PRODUCT_LIMIT.key  # type: ignore[valid-type]

    @property
    def study_form(self) -> CurveForm:
        """The form of every curve of the study for which nothing else is stated."""
        return CurveForm(
            self.confidence,
            ESTIMATORS[self.estimator].method,
            INTERVAL_SCALES[self.scale].method,
            intervals=self.intervals,
        )


FORM_FIELDS = tuple(
    name for name in CurveFormStatement.model_fields if name not in StageStatement.model_fields
)
"""The fields that make the form of the study's curves."""


def study_form(stated: Mapping[str, StageStatement]) -> CurveForm:
    """The form of the study's curves, as Estimate states it."""
    found = stated["estimate"]
    assert isinstance(found, CurveFormStatement)
    return found.study_form


def ci(confidence: float) -> str:
    """What a confidence interval of that level is called."""
    return f"{naming.level_percent(confidence)} CI"


@dataclass(frozen=True, slots=True)
class Limits:
    """The limits that are drawn and read of a curve, at its K event times.

    Attributes:
        kind: pointwise, or which band.
        lower, upper: (K,) NaN where there are none.
        critical: what takes the place of z, of a band.
        refused: why the band that was requested is not there; blank where none was refused.
    """

    kind: str
    lower: FloatArray
    upper: FloatArray
    critical: float | None = None
    refused: str = ""

    def name(self, confidence: float) -> str:
        """What they are called wherever they are shown."""
        kind = INTERVALS[self.kind]
        if kind.band is not None:
            return f"{naming.level_percent(confidence)} band ({kind.called})"
        return f"{ci(confidence)} (pointwise)"


def limits_of(data: FollowUp, estimate: SurvivalCurve, form: CurveForm) -> Limits:
    """The limits that a form requests; pointwise ones in the place of a band that is refused, and of
    what is no limit: bars, or nothing drawn."""
    kind = INTERVALS[form.intervals].band
    if kind is None:
        return pointwise(estimate)
    if form.start is not None:
        return pointwise(estimate, "a band over the whole curve begins at time 0")
    try:
        band = simultaneous_band(data, estimate, kind, form.scale)
    except NotEstimableError as reason:
        return pointwise(estimate, str(reason))
    beyond = np.full(estimate.table.time.size - band.time.size, np.nan)
    lower, upper = (np.concatenate([side, beyond]) for side in (band.lower, band.upper))
    return Limits(form.intervals, lower, upper, band.critical)


def pointwise(estimate: SurvivalCurve, refused: str = "") -> Limits:
    """The pointwise limits of a curve, and why no band stands in their place."""
    return Limits(POINTWISE, estimate.lower, estimate.upper, refused=refused)
