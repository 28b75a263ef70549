"""A survival curve as it is read, drawn and reported."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from hourglass.analysis.shared.curve_form import CurveForm, Limits, limits_of, pointwise
from hourglass.analysis.shared.frozen_model import number
from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.curves.survival import SurvivalCurve, after, survival_curve
from hourglass.core.followup import FollowUp
from hourglass.core.risk_table import AtRisk, at_risk_over_time, risk_table


@dataclass(frozen=True, slots=True, eq=False, kw_only=True)
class CurveNumbers:
    """What is estimated of a curve.

    Attributes:
        estimate: survival at the event times; ``limits``: those that are drawn and read.
        at_risk: how many are at risk, and when that changes.
    """

    estimate: SurvivalCurve
    at_risk: AtRisk
    limits: Limits


@dataclass(frozen=True, slots=True, eq=False, weakref_slot=True, kw_only=True)
class Curve:
    """A group's curve with what belongs to it; tracks and readings share its arrays.

    Attributes:
        place: of its group among all, the reference first; ``tone``: how it is drawn.
        limits: those that are drawn and read.
        time: (K + 1,) where the curve begins, and the event times; ``survival``, ``lower``, ``upper``,
            ``events``: S, its limits and the events so far from each of these times on.
        followed: (m,) the number at risk up to and with each time of ``at_risk``.
    """

    label: str
    place: int
    tone: int
    data: FollowUp
    estimate: SurvivalCurve
    at_risk: AtRisk
    form: CurveForm
    limits: Limits
    time: FloatArray = field(init=False)
    survival: FloatArray = field(init=False)
    lower: FloatArray = field(init=False)
    upper: FloatArray = field(init=False)
    events: FloatArray = field(init=False)
    followed: FloatArray = field(init=False)

    def __post_init__(self) -> None:
        estimate, limits = self.estimate, self.limits
        # A band begins at the first event time.
        at_first = 1.0 if limits.critical is None else np.nan
        for name, first, rest in (
            ("time", self.begins, estimate.table.time),
            ("survival", 1.0, estimate.survival),
            ("lower", at_first, limits.lower),
            ("upper", at_first, limits.upper),
            ("events", 0.0, np.cumsum(estimate.table.events)),
        ):
            object.__setattr__(self, name, np.concatenate([[first], rest]))
        object.__setattr__(self, "followed", self.at_risk.number.astype(np.float64))

    @property
    def numbers(self) -> CurveNumbers:
        """What is estimated of it."""
        return CurveNumbers(estimate=self.estimate, at_risk=self.at_risk, limits=self.limits)

    @property
    def begins(self) -> float:
        """Where the curve begins at 1: at time 0, or where it is given."""
        return 0.0 if self.form.start is None else self.form.start

    @property
    def limits_name(self) -> str:
        """What its limits are called."""
        return self.limits.name(self.form.confidence)

    def limits_at(self, t: float) -> tuple[float | None, float | None]:
        """The limits at a time within the curve; None where there are none."""
        place = np.searchsorted(self.time, t, side="right") - 1
        return number(float(self.lower[place])), number(float(self.upper[place]))


def curve_numbers(data: FollowUp, form: CurveForm) -> CurveNumbers:
    """Estimate the curve of rows.

    Raises:
        NotEstimableError: when it is to start where nobody is free of the event any more.
    """
    table, how = risk_table(data), (form.confidence, form.estimator, form.scale)
    start = form.start
    estimate = survival_curve(table, *how) if start is None else after(table, start, *how)
    return CurveNumbers(
        estimate=estimate, at_risk=at_risk_over_time(data), limits=limits_of(data, estimate, form)
    )


def curve_of(
    data: FollowUp,
    form: CurveForm,
    label: str,
    tone: int,
    place: int = 0,
    known: CurveNumbers | None = None,
) -> Curve:
    """The curve of rows, estimated where it is not known; ``place`` is that of their group.

    Raises:
        NotEstimableError: as :func:`curve_numbers`.
    """
    found = curve_numbers(data, form) if known is None else known
    return Curve(
        label=label,
        place=place,
        tone=tone,
        data=data,
        estimate=found.estimate,
        at_risk=found.at_risk,
        form=form,
        limits=found.limits,
    )


def curves_of_groups(
    data: FollowUp,
    form: CurveForm,
    labels: Sequence[str],
    code: IntArray,
    tones: Sequence[int] = (),
    known: Sequence[CurveNumbers] = (),
) -> tuple[Curve, ...]:
    """The curve of every group that somebody is in, from the group (n,) of each row; −1 for none.

    All have limits of one kind: where a band is refused for one group, all are pointwise.

    Args:
        tones: those of the groups; blank for their order.
        known: what is estimated of each of these curves, where it is known.

    Raises:
        NotEstimableError: as :func:`curve_numbers`.
    """
    there = [k for k in range(len(labels)) if (code == k).any()]
    curves = tuple(
        curve_of(
            data.only(code == k),
            form,
            labels[k],
            tones[k] if tones else k,
            k,
            known[place] if known else None,
        )
        for place, k in enumerate(there)
    )
    refused = next((f"{c.limits.refused} ({c.label})" for c in curves if c.limits.refused), "")
    if not refused or known:
        return curves
    return tuple(replace(c, limits=pointwise(c.estimate, refused)) for c in curves)
