"""The figures of curves that can be worked out, in Estimate and in Compare alike."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from hourglass.analysis.shared.contrast_workings import (
    difference_workings,
    mean_contrast_workings,
    median_ratio_workings,
    rate_ratio_workings,
    rate_workings,
)
from hourglass.analysis.shared.curve_workings import (
    follow_up_workings,
    quantile_workings,
    survival_workings,
    table_workings,
    tables_workings,
)
from hourglass.analysis.shared.curves import Curve
from hourglass.analysis.shared.declared import Statements
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.analysis.shared.mean_workings import mean_workings
from hourglass.analysis.shared.subject_workings import (
    FIGURE,
    Followed,
    SubjectsAt,
    subjects_workings,
)
from hourglass.analysis.shared.workings import ExplainedNumber, NoWorkingsError, Workings
from hourglass.cohort.followup import Cohort
from hourglass.core.arrays import IntArray

Place = Annotated[int, Field(ge=0)]


class OfCurve(FrozenModel):
    """A curve, by its place; 0 where there is one of everyone."""

    group: Place = 0


class OfAllCurves(FrozenModel):
    """All curves together."""


class AtTime(OfCurve):
    """Survival at time ``t``."""

    t: Annotated[float, Field(ge=0, allow_inf_nan=False)]


class OfQuantile(OfCurve):
    """The time by which a share ``q`` has had the event."""

    q: Annotated[float, Field(gt=0, lt=1)] = 0.5


class OfContrast(FrozenModel):
    """A group against the first, by its place."""

    group: Annotated[int, Field(ge=1)] = 1


class ContrastAtTime(OfContrast):
    """The same at time ``t``."""

    t: Annotated[float, Field(ge=0, allow_inf_nan=False)]


@dataclass(frozen=True, slots=True)
class WorkedCurves:
    """The curves of a stage, and what their workings need besides.

    Attributes:
        code: (n,) the group of each of the cohort's rows, −1 where it is in none.
        limit: up to where means are restricted; ``seed``: of what is drawn.
    """

    cohort: Cohort
    curves: tuple[Curve, ...]
    code: IntArray
    limit: float
    seed: int = 1

    @property
    def unit(self) -> str:
        """The unit of time."""
        return self.cohort.statement.unit

    def curve(self, place: int) -> Curve:
        """A curve, by its place.

        Raises:
            NoWorkingsError: when there is none.
        """
        if place >= len(self.curves):
            raise NoWorkingsError(f"there is no group {place}")
        return self.curves[place]

    def pair(self, place: int) -> tuple[Curve, Curve]:
        """The first curve, and another."""
        return self.curves[0], self.curve(place)


def _survival(found: WorkedCurves, about: AtTime) -> Workings:
    event = found.cohort.statement.event_name
    return survival_workings(found.curve(about.group), about.t, found.unit, event)


def _quantile(found: WorkedCurves, about: OfQuantile) -> Workings:
    return quantile_workings(found.curve(about.group), about.q, found.unit, found.cohort.decimals)


def _table(found: WorkedCurves, about: OfCurve) -> Workings:
    return table_workings(found.curve(about.group), found.unit)


def _tables(found: WorkedCurves, about: OfAllCurves) -> Workings:
    return tables_workings(found.curves, found.unit)


def _mean(found: WorkedCurves, about: OfCurve) -> Workings:
    return mean_workings(found.curve(about.group), found.limit, found.unit, found.cohort.decimals)


def _rate(found: WorkedCurves, about: OfCurve) -> Workings:
    return rate_workings(found.curve(about.group), found.unit)


def _follow_up(found: WorkedCurves, about: OfCurve) -> Workings:
    return follow_up_workings(found.curve(about.group), found.unit, found.cohort.decimals)


def _subjects(found: WorkedCurves, about: SubjectsAt) -> Workings:
    cohort, labels = found.cohort, tuple(curve.label for curve in found.curves)
    event = cohort.statement.event_name
    followed = Followed(cohort, cohort.follow_up, event, found.code, labels)
    return subjects_workings(followed, about)


def _difference(found: WorkedCurves, about: ContrastAtTime) -> Workings:
    return difference_workings(*found.pair(about.group), about.t, found.unit)


def _means(found: WorkedCurves, about: OfContrast) -> Workings:
    return mean_contrast_workings(*found.pair(about.group), found.limit, found.unit)


def _rate_ratio(found: WorkedCurves, about: OfContrast) -> Workings:
    return rate_ratio_workings(*found.pair(about.group), found.unit)


def _median_ratio(found: WorkedCurves, about: OfContrast) -> Workings:
    return median_ratio_workings(*found.pair(about.group), found.seed)


FIGURES: tuple[tuple[str, type[FrozenModel], Callable[..., Workings]], ...] = (
    ("survival", AtTime, _survival),
    ("quantile", OfQuantile, _quantile),
    ("table", OfCurve, _table),
    ("tables", OfAllCurves, _tables),
    ("mean", OfCurve, _mean),
    ("rate", OfCurve, _rate),
    ("follow-up", OfCurve, _follow_up),
    (FIGURE, SubjectsAt, _subjects),
    ("difference", ContrastAtTime, _difference),
    ("means", OfContrast, _means),
    ("rate-ratio", OfContrast, _rate_ratio),
    ("median-ratio", OfContrast, _median_ratio),
)
"""The figures by their keys, with the parameters of each."""


def curve_figures(
    curves_of: Callable[[Cohort, Statements], WorkedCurves],
) -> tuple[ExplainedNumber, ...]:
    """The figures of a stage that has such curves."""
    return tuple(
        ExplainedNumber(key, about, _Work(curves_of, work)) for key, about, work in FIGURES
    )


@dataclass(frozen=True, slots=True)
class _Work:
    """Works out a figure of a stage's curves; it can be sent to another process."""

    curves_of: Callable[[Cohort, Statements], WorkedCurves]
    work: Callable[..., Workings]

    def __call__(self, cohort: Cohort, stated: Statements, about: FrozenModel) -> Workings:
        return self.work(self.curves_of(cohort, stated), about)
