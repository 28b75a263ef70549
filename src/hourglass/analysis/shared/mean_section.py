"""Restricted means of curves, with their differences and ratios."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import (
    Cell,
    WorkingsOf,
    estimate,
    limits_shown,
    number_cell,
    p_cell,
    words,
)
from hourglass.analysis.shared.cohort_summary import CohortSummary
from hourglass.analysis.shared.curve_form import ci
from hourglass.analysis.shared.curves import Curve
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import ContentBlock, Section, Table, Words, quiet
from hourglass.core.contrast import Contrast
from hourglass.core.curves.restricted_mean import (
    RestrictedMean,
    mean_difference,
    mean_ratio,
    restricted_mean,
)
from hourglass.core.errors import NotEstimableError
from hourglass.core.normal import normal_quantile


@dataclass(frozen=True, slots=True)
class Means:
    """Curves whose means are shown: up to a limit, or as far as all are followed."""

    curves: tuple[Curve, ...]
    confidence: float
    stated_limit: float | None
    grouped: bool = True

    @property
    def limit(self) -> float:
        """Up to where means are restricted."""
        shortest = min(curve.data.end for curve in self.curves)
        return shortest if self.stated_limit is None else self.stated_limit


def mean_section(
    cohort: CohortSummary, found: Means, place: Literal["side", "main"] = "side"
) -> Section:
    """The mean time free of the event up to a limit, of each curve, and how the groups differ in it."""
    limit = found.limit
    stated = found.stated_limit is not None
    until = formatting.plain(limit) if stated else formatting.computed_time(limit, cohort.decimals)
    title = f"Restricted mean survival time to {until} {cohort.unit}"
    short = [c.label for c in found.curves if c.data.end < limit]
    if short:
        words = (
            f"No restricted mean survival time to {until} {cohort.unit}: {formatting.listed(short)} "
            f"{'is' if len(short) == 1 else 'are'} not followed so long."
        )
        return Section(id=SectionId.MEAN, title=title, place=place, blocks=[Words(text=words)])
    try:
        means = [restricted_mean(c.estimate, limit) for c in found.curves]
    except NotEstimableError as reason:
        return Section(
            id=SectionId.MEAN, title=title, place=place, blocks=[Words(text=f"No mean: {reason}.")]
        )
    blocks: list[ContentBlock] = [_means(cohort, found, means)]
    if found.grouped and len(means) > 1:
        blocks += _contrasts(cohort, found, means)
    blocks.append(
        quiet(
            "The area under the survival curve to that time: the mean time free of "
            f"{cohort.event_name} within it. What comes after does not count."
        )
    )
    return Section(id=SectionId.MEAN, title=title, place=place, blocks=blocks)


def _means(cohort: CohortSummary, found: Means, means: list[RestrictedMean]) -> Table:
    z = normal_quantile(found.confidence)
    return Table(
        label="Restricted means",
        head=["", "restricted mean", "SE", ci(found.confidence)],
        keys=["group", "mean", "standard_error", "interval"],
        rows=[
            [
                words(curve.label, tone=curve.tone if found.grouped else None),
                estimate(
                    formatting.computed_time(mean.mean, cohort.decimals),
                    mean.mean,
                    mean.mean - z * mean.standard_error,
                    mean.mean + z * mean.standard_error,
                    workings=WorkingsOf(figure="mean", about={"group": curve.place}),
                ),
                number_cell(
                    formatting.coefficient(mean.standard_error, mean.standard_error),
                    mean.standard_error,
                ),
                limits_shown(
                    formatting.interval(
                        formatting.computed_time(
                            mean.mean - z * mean.standard_error, cohort.decimals
                        ),
                        formatting.computed_time(
                            mean.mean + z * mean.standard_error, cohort.decimals
                        ),
                    )
                ),
            ]
            for curve, mean in zip(found.curves, means, strict=True)
        ],
    )


def _contrasts(
    cohort: CohortSummary, found: Means, means: list[RestrictedMean]
) -> list[ContentBlock]:
    """The differences from the first group, and the ratios to it."""

    def times(values: Sequence[float]) -> list[str]:
        return [formatting.computed_time(value, cohort.decimals) for value in values]

    def ratios(values: Sequence[float]) -> list[str]:
        return formatting.ratios(*values)

    kinds = (("difference", mean_difference, times), ("ratio", mean_ratio, ratios))
    return [
        Table(
            label=f"{formatting.capital(name)}s of restricted means",
            head=[f"against {found.curves[0].label}", name, ci(found.confidence), "p"],
            keys=["group", name, "interval", "p"],
            rows=[
                _contrast(name, curve, contrast(means[0], mean, found.confidence), worded)
                for curve, mean in zip(found.curves[1:], means[1:], strict=True)
            ],
        )
        for name, contrast, worded in kinds
    ]


def _contrast(
    name: str, curve: Curve, found: Contrast, worded: Callable[[Sequence[float]], list[str]]
) -> list[Cell]:
    label = words(curve.label, tone=curve.tone)
    if found.estimate is None or found.lower is None or found.upper is None:
        why = f"{found.blank}"
        none = number_cell(formatting.BLANK, None, below=why, note=f"{name}: {why}")
        return [label, none, words(""), words("")]
    shown, lower, upper = worded((found.estimate, found.lower, found.upper))
    return [
        label,
        estimate(
            shown,
            found.estimate,
            found.lower,
            found.upper,
            workings=WorkingsOf(figure="means", about={"group": curve.place}),
        ),
        limits_shown(formatting.interval(lower, upper)),
        p_cell(found.p),
    ]
