"""Workings of survival at a time, and of a median."""

import numpy as np

from hourglass.analysis.shared import wording
from hourglass.analysis.shared.curves import Curve, QuantileReading
from hourglass.analysis.shared.workings import TermColumn, Workings, decimal, digits, whole
from hourglass.core.curves.quantiles import quantile
from hourglass.core.normal import normal_quantile

SOURCE = (
    "Kaplan & Meier (1958); variance by Greenwood (1926); interval on the log–log scale "
    "(Borgan & Liestøl 1990). A row censored at a time is at risk for events at that time."
)


def survival_workings(curve: Curve, t: float, unit: str, event: str = "the event") -> Workings:
    """S(t) as the product over the event times up to t."""
    estimate = curve.estimate
    up_to = int(np.searchsorted(estimate.table.time, t, side="right"))
    at = estimate.at(t)
    when = f"{wording.plain(t)} {unit}"
    if at is None:
        formula = [f"Nobody is followed to {when}: the curve ends at {digits(curve.data.end)}."]
        value = "not defined"
    else:
        value = wording.percent(at.survival)
        n, d = estimate.table.at_risk[:up_to], estimate.table.events[:up_to]
        shown = [f"(1 − {e}/{r})" for r, e in zip(n, d, strict=True)]
        if len(shown) > 8:
            shown = [*shown[:4], "…", *shown[-3:]]
        formula = [
            "S(t) = Π (1 − d/n), over the event times up to t",
            f"S({wording.plain(t)}) = {' × '.join(shown) or '1'} = {digits(at.survival)}",
        ]
        formula += _interval_lines(curve, at.survival, at.sigma2, at.lower, at.upper)
    return Workings(
        title=f"Free of {event} at {when}, {curve.label}: {value}",
        formula=tuple(formula),
        columns=_terms(curve),
        marked=up_to - 1 if up_to else None,
        note=SOURCE,
    )


def median_workings(curve: Curve, unit: str, decimals: int) -> Workings:
    """The median with its interval, read off the curve and its limits."""
    found = quantile(curve.estimate, 0.5)
    value = QuantileReading.model_validate(found).worded(decimals)
    formula = ["median = the first time at which S(t) ≤ 0.5"]
    if found.rule == "midpoint":
        formula.append(
            "S equals 0.5 over a whole step, so the median is the midpoint of that step: "
            f"{digits(found.time)}"
        )
    elif found.time is None:
        formula.append(f"S never falls to 0.5 within {digits(curve.data.end)} {unit}: not reached")
    else:
        formula.append(f"S first reaches 0.5 or less at {digits(found.time)}")
    formula += [
        f"lower limit = the first time at which the lower limit of S ≤ 0.5: "
        f"{'not reached' if found.lower is None else digits(found.lower)}",
        f"upper limit = the first time at which the upper limit of S ≤ 0.5: "
        f"{'not reached' if found.upper is None else digits(found.upper)}",
    ]
    marked = np.flatnonzero(curve.estimate.survival <= 0.5 + 1e-12)
    return Workings(
        title=f"Median, {curve.label}: {value}{'' if found.time is None else ' ' + unit}",
        formula=tuple(formula),
        columns=_terms(curve),
        marked=int(marked[0]) if marked.size else None,
        note="It is the median over everyone followed, not over those who had the event alone. "
        "Interval by inverting the pointwise interval (Brookmeyer & Crowley 1982).",
    )


def _interval_lines(
    curve: Curve, s: float, sigma2: float | None, lower: float | None, upper: float | None
) -> list[str]:
    if sigma2 is None or lower is None:
        return ["S is 0 here, where there is no interval."]
    if s == 1:
        return ["Before the first event the interval is 1 to 1."]
    z = normal_quantile(curve.estimate.confidence)
    exponent = z * np.sqrt(sigma2) / abs(np.log(s))
    return [
        f"σ² = Σ d / (n (n − d)) = {digits(sigma2)}",
        f"limits = S ^ exp(± z σ / ln S), z = {digits(z)}: "
        f"{digits(s)} ^ exp(± {digits(float(exponent))}) = {digits(lower)} to {digits(upper)}",
    ]


def _terms(curve: Curve) -> tuple[TermColumn, ...]:
    estimate = curve.estimate
    n, d = estimate.table.at_risk, estimate.table.events
    with np.errstate(divide="ignore"):
        term = np.where(n > d, d / (n * (n - d).astype(np.float64)), np.nan)
    return (
        decimal("time", "time", estimate.table.time),
        whole("at_risk", "at risk n", n),
        whole("events", "events d", d),
        decimal("factor", "1 − d/n", (n - d) / n),
        decimal("survival", "S", estimate.survival),
        decimal("term", "d / (n (n − d))", term),
        decimal("sigma2", "σ²", estimate.sigma2),
        decimal("lower", "lower limit", estimate.lower),
        decimal("upper", "upper limit", estimate.upper),
    )
