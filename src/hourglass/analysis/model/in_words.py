"""What the ratios of a model state, in words."""

from hourglass.analysis.model.fitting import FittedModel
from hourglass.analysis.model.readouts import RatioReadout, TermReadout
from hourglass.analysis.model.term_readouts import ComparedRatios
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.curve_form import ci
from hourglass.cohort.followup import Cohort


def in_words(
    cohort: Cohort,
    fitted: FittedModel,
    compared: ComparedRatios,
    terms: list[TermReadout],
    confidence: float,
) -> list[str]:
    """The first ratio as a comparison of rates, then each of the others with its limits and p."""
    found = [
        (one.compared, c.adjusted)
        for ratios, term in zip(compared, terms, strict=True)
        for one, c in zip(ratios, term.coefficients, strict=True)
        if c.adjusted.ratio is not None
    ]
    if not found:
        return []
    others = ", all other terms being equal" if len(terms) > 1 else ""
    (first, ratio), *rest = found
    higher = first.higher.format(rows=cohort.rows_are)
    sentences = [
        f"{_when(first.within)}, the rate of {fitted.design.event} was {ratio.shown} times as high {higher} "
        f"({_limits(ratio, ci(confidence))}){others}."
    ]
    if rest:
        named = [
            f"{one.shown} ({_limits(one, ci(confidence) if k == 0 else '')}) {of.briefly}"
            + (f" {of.within}" if of.within else "")
            for k, (of, one) in enumerate(rest)
        ]
        sentences.append(f"The hazard ratio was {formatting.listed(named)}.")
    return sentences


def _when(within: str) -> str:
    if not within:
        return "At any moment"
    return (
        f"At any moment, {within}" if within.startswith("within ") else formatting.capital(within)
    )


def _limits(ratio: RatioReadout, level: str) -> str:
    p = "" if ratio.p is None else f"; {formatting.p_phrase(ratio.p)}"
    return f"{level} {ratio.interval}{p}".strip()
