"""How groups differ by other measures than the test: at chosen times, in rates, in medians."""

import math

from hourglass.analysis.compare.groups import Comparison
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import (
    Cell,
    WorkingsOf,
    count_with_share,
    estimate,
    number_cell,
    p_cell,
    words,
)
from hourglass.analysis.shared.cohort_summary import CohortSummary
from hourglass.analysis.shared.contrast_cells import difference_cells, rate_cell
from hourglass.analysis.shared.curves import Curve
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import ContentBlock, Section, Table, Words, quiet
from hourglass.core.contrast import Contrast
from hourglass.core.curves.chosen_time import NumberNeeded, difference_at, number_needed
from hourglass.core.errors import NotEstimableError
from hourglass.core.rates import rate, rate_ratio
from hourglass.core.risk_table import person_time
from hourglass.core.subjects import count_subjects

NUMBER_NEEDED = (
    "Number needed to treat: how many must have the group instead of the reference for one more to be free "
    "of the event at that time; for harm, for one more to have it. It holds for that time alone."
)


def chosen_times_section(
    cohort: CohortSummary, found: Comparison, times: tuple[float, ...]
) -> Section:
    """Differences at chosen times, with the number needed to treat where it is known."""
    if not times:
        return Section(
            id=SectionId.CHOSEN_TIMES,
            title="At chosen times",
            place="main",
            blocks=[Words(text="No times are chosen in Estimate.", quiet=True, for_screen=True)],
        )
    compete = bool((found.data.status > 1).any())
    rows = [_at(found, curve, t, needed=not compete) for t in times for curve in found.curves[1:]]
    needed = [] if compete else ["number needed to treat"]
    notes = [
        "With competing events there is no number needed to treat: 1 − S is not the cumulative incidence."
        if compete
        else NUMBER_NEEDED,
        "The interval is plain, the p-value on the log–log scale: close to 0.05 they may disagree.",
    ]
    return Section(
        id=SectionId.CHOSEN_TIMES,
        title="Differences at chosen times",
        place="main",
        blocks=[
            Table(
                label="Differences at chosen times",
                head=[
                    f"against {found.reference}",
                    cohort.unit,
                    "percentage points",
                    found.form.ci,
                    "p",
                    *needed,
                ],
                keys=["group", "time", "difference", "interval", "p", *needed],
                rows=rows,
            ),
            quiet(" ".join(notes)),
        ],
    )


def _at(found: Comparison, curve: Curve, t: float, *, needed: bool) -> list[Cell]:
    reference = found.curves[0]
    return [
        words(curve.label, tone=curve.tone),
        number_cell(formatting.plain(t), t),
        *difference_cells(reference, curve, t),
        *([_needed(found, reference, curve, t)] if needed else []),
    ]


def _needed(found: Comparison, reference: Curve, curve: Curve, t: float) -> Cell:
    try:
        needed = number_needed(found.data, reference.estimate, curve.estimate, t)
    except NotEstimableError:
        return words(formatting.BLANK)
    below = _course(needed)
    if needed.estimate is None:
        return words("no difference", below=below)
    kind = "for harm" if needed.estimate < 0 else ""
    return estimate(
        f"{formatting.rounded(abs(needed.estimate), 1)} {kind}".strip(),
        needed.estimate,
        needed.at_upper,
        needed.at_lower,
        note=f"number needed: {below}",
        below=below,
    )


def _course(needed: NumberNeeded) -> str:
    """Its limits in words; they are those of the difference, turned over."""
    one, other = (_limit(v) for v in (needed.at_upper, needed.at_lower))
    match needed.course:
        case "benefit":
            return f"{one} to {other}"
        case "harm":
            return f"{_limit(needed.at_lower)} to {_limit(needed.at_upper)}, for harm"
        case _:
            return f"benefit from {one} through no difference to harm from {other}"


def _limit(value: float | None) -> str:
    return "no difference" if value is None else formatting.rounded(abs(value), 1)


def rates_section(cohort: CohortSummary, found: Comparison) -> Section:
    """The censored, events over the time at risk, and the ratio of each rate to the reference's."""
    confidence = found.form.confidence
    counts = [count_subjects(curve.data) for curve in found.curves]
    rates = [
        rate(own.events, person_time(curve.data), confidence)
        for curve, own in zip(found.curves, counts, strict=True)
    ]
    rows = []
    for curve, who, own in zip(found.curves, counts, rates, strict=True):
        ratio = Contrast(None, blank="reference")
        if curve.place:
            ratio = rate_ratio(rates[0], own, confidence)
        rows.append(
            [
                words(curve.label, tone=curve.tone),
                count_with_share(who.censored, who.subjects),
                rate_cell(own, _rates("rate", curve)),
                *_ratio(ratio, _rates("rate-ratio", curve)),
            ]
        )
    blocks: list[ContentBlock] = [
        Table(
            label="Rates and their ratios",
            head=[
                "",
                "censored",
                f"events per 100 {cohort.unit} ({found.form.ci})",
                f"ratio ({found.form.ci})",
                "p",
            ],
            keys=["group", "censored", "rate", "ratio", "p"],
            rows=rows,
        ),
        quiet(
            "The intervals are exact if the rate of a group is constant throughout its follow-up."
        ),
    ]
    return Section(
        id=SectionId.RATES, title="Censored, and rates of the event", place="main", blocks=blocks
    )


def _rates(name: str, curve: Curve) -> WorkingsOf:
    return WorkingsOf(figure=name, about={"group": curve.place})


def _ratio(ratio: Contrast, opens: WorkingsOf) -> list[Cell]:
    if ratio.estimate is None or ratio.lower is None or ratio.upper is None:
        return [words(ratio.blank or formatting.BLANK), words("")]
    shown, lower, upper = formatting.ratios(ratio.estimate, ratio.lower, ratio.upper)
    infinite = {"ratio": ratio.estimate, "ratio_upper": ratio.upper}
    return [
        estimate(
            shown,
            ratio.estimate,
            ratio.lower,
            ratio.upper,
            note="; ".join(f"{k} infinite" for k, v in infinite.items() if v == math.inf),
            below=formatting.interval(lower, upper),
            workings=opens,
        ),
        p_cell(ratio.p),
    ]


def margin_section(cohort: CohortSummary, found: Comparison) -> Section | None:
    """Whether the contrasted group is not worse than the reference by more than the margin."""
    margin = found.statement.margin
    if margin is None:
        return None
    apart = difference_at(
        found.curves[0].estimate, found.curves[found.contrast].estimate, margin.at
    )
    at = formatting.stated_time(margin.at, cohort.unit)
    if apart.estimate is None or apart.lower is None or apart.upper is None:
        words = f"Nothing can be estimated at {at}: {apart.blank}."
    else:
        limits = formatting.interval(formatting.points(apart.lower), formatting.points(apart.upper))
        shown = (
            f"At {at} {found.contrasted} less {found.reference} is "
            f"{formatting.points(apart.estimate)} points ({found.form.ci} {limits})."
        )
        size = formatting.points(-margin.size)
        if apart.lower > -margin.size:
            words = (
                f"{shown} The interval lies above the margin of {size}: not worse by that margin."
            )
        elif apart.upper < -margin.size:
            words = f"{shown} The interval lies below the margin of {size}: worse by more than the margin."
        else:
            words = f"{shown} The interval holds the margin of {size}: “not worse” is not shown."
    return Section(id=SectionId.MARGIN, title="Margin", blocks=[Words(text=words)])
