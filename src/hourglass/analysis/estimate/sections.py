"""The readings of Estimate."""

from typing import Literal

from hourglass.analysis.catalogue.scales import INTERVAL_SCALES
from hourglass.analysis.estimate.chosen_times import chosen_times
from hourglass.analysis.estimate.curves import Estimated
from hourglass.analysis.estimate.ignoring import ignoring_section
from hourglass.analysis.estimate.means import means_of
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import (
    Cell,
    WorkingsOf,
    count_with_share,
    estimate,
    limits_shown,
    missing_note,
    number_cell,
    whole,
    words,
)
from hourglass.analysis.shared.cohort_summary import CohortSummary
from hourglass.analysis.shared.contrast_cells import difference_cells, rate_cell
from hourglass.analysis.shared.curve_readouts import CurvePoint, CurveReadout
from hourglass.analysis.shared.curves import Curve
from hourglass.analysis.shared.mean_section import mean_section
from hourglass.analysis.shared.sand_line import at_the_sand_line
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import Cautions, ContentBlock, Section, Table, Words, quiet
from hourglass.cohort.time_decimals import TimeDecimals
from hourglass.core.curves.quantiles import median_follow_up
from hourglass.core.rates import rate
from hourglass.core.risk_table import person_time
from hourglass.core.subjects import count_subjects

QUARTERS = ((0.25, "lower quartile"), (0.5, "median"), (0.75, "upper quartile"))


def estimate_sections(
    cohort: CohortSummary, found: Estimated, read: list[CurveReadout]
) -> list[Section]:
    """At the sand line, quartiles, restricted means, chosen times, follow-up."""
    timed = at_the_sand_line(
        found.curves,
        cohort.rows_are,
        chosen_times(found.statement),
        events=not found.grouped,
        grouped=found.grouped,
    )
    title = f"Time to {cohort.event_name}, {cohort.unit}"
    quartiles: list[ContentBlock] = [
        _by_group(read, cohort.decimals)
        if found.grouped
        else _quartiles(read[0], cohort.decimals, found.statement.form.ci),
        quiet(_named(found)),
    ]
    place: Literal["side", "main"] = "main" if found.grouped else "side"
    sections = [
        Section(id=SectionId.AT_TIME, blocks=[timed]),
        Section(id=SectionId.QUARTILES, title=title, place=place, blocks=quartiles),
        mean_section(cohort, means_of(found)),
        Section(
            id=SectionId.CHOSEN_TIMES,
            title="At chosen times",
            place=place,
            blocks=_chosen_times(cohort, found, read),
        ),
    ]
    if found.statement.ignoring:
        sections.append(ignoring_section(cohort, found, read))
    sections.append(
        Section(id=SectionId.FOLLOW_UP, title="Follow-up", blocks=[_follow_up(cohort), Cautions()])
    )
    sections.append(_groups(cohort, found))
    return sections


def _named(found: Estimated) -> str:
    """What the limits of the quartiles are."""
    scale = INTERVAL_SCALES[found.statement.scale].name
    return (
        f"Limits: {found.statement.form.ci}, where the pointwise limits of the curve ({scale} scale) reach "
        "the share (Brookmeyer & Crowley 1982)."
    )


def _quartiles(read: CurveReadout, decimals: TimeDecimals, interval: str) -> Table:
    rows = []
    for q, name in QUARTERS:
        found = next(one for one in read.quartiles if one.q == q)
        median = q == 0.5
        rows.append(
            [
                words(name, strong=median),
                estimate(
                    found.worded(decimals),
                    found.time,
                    found.lower,
                    found.upper,
                    workings=_opens("quantile", read, q=q),
                    note=found.note,
                ),
                limits_shown(found.interval(decimals)),
            ]
        )
    return Table(
        label="Quartiles",
        head=["", "time", interval],
        keys=["share", "time", "interval"],
        rows=rows,
    )


def _by_group(read: list[CurveReadout], decimals: TimeDecimals) -> Table:
    """A line a group: its quartiles, each with its limits under it."""
    return Table(
        label="Quartiles by group",
        head=["", "lower quartile", "median", "upper quartile"],
        keys=["group", "first_quartile", "median", "third_quartile"],
        rows=[
            [
                words(one.label, tone=one.tone),
                *(
                    estimate(
                        q.worded(decimals),
                        q.time,
                        q.lower,
                        q.upper,
                        note=q.note,
                        below=q.interval(decimals),
                        workings=_opens("quantile", one, q=q.q),
                    )
                    for q in one.quartiles
                ),
            ]
            for one in read
        ],
    )


def _opens(name: str, read: CurveReadout, **about: float) -> WorkingsOf:
    return WorkingsOf(figure=name, about={"group": read.place, **about})


def _chosen_times(
    cohort: CohortSummary, found: Estimated, read: list[CurveReadout]
) -> list[ContentBlock]:
    if not found.statement.times:
        text = "No times are chosen in the sentence above."
        return [Words(text=text, quiet=True, for_screen=True)]
    blocks: list[ContentBlock] = [
        Table(
            label="At chosen times",
            head=[
                *(["", ""] if found.grouped else [cohort.unit]),
                "survival",
                found.curves[0].limits_name,
                "at risk",
            ],
            keys=[*(["group"] if found.grouped else []), "time", "free", "interval", "at_risk"],
            rows=[
                [
                    *([words(one.label, tone=one.tone)] if found.grouped else []),
                    number_cell(
                        f"at {formatting.plain(one.points[k].time)} {cohort.unit}"
                        if found.grouped
                        else formatting.plain(one.points[k].time),
                        one.points[k].time,
                    ),
                    _free(one.points[k], one),
                    limits_shown(share_interval(one.points[k].lower, one.points[k].upper)),
                    whole(
                        one.points[k].at_risk,
                        workings=_opens("subjects", one, t=one.points[k].time),
                    ),
                ]
                for k in range(len(found.statement.times))
                for one in read
            ],
        )
    ]
    if len(found.curves) == 2:
        blocks += _differences(cohort, found)
    return blocks


def _differences(cohort: CohortSummary, found: Estimated) -> list[ContentBlock]:
    a, b = found.curves
    rows = [
        [number_cell(formatting.plain(t), t), *difference_cells(a, b, t)]
        for t in found.statement.times
        if t >= a.begins
    ]
    return [
        Table(
            label="Differences at chosen times",
            head=[cohort.unit, "difference, points", found.statement.form.ci, "p"],
            keys=["time", "difference", "interval", "p"],
            rows=rows,
        ),
        quiet(
            f"{b.label} less {a.label}. The interval is plain, the p-value on the log–log scale: close "
            "to 0.05 they may part ways."
        ),
    ]


def _free(p: CurvePoint, read: CurveReadout) -> Cell:
    if p.survival is None:
        return number_cell("not read there", None, note="past the end of the curve")
    return estimate(
        formatting.percent(p.survival),
        p.survival,
        p.lower,
        p.upper,
        workings=_opens("survival", read, t=p.time),
    )


def share_interval(lower: float | None, upper: float | None) -> str:
    """Limits in percent, without the sign."""
    if lower is None or upper is None:
        return "none"
    return formatting.interval(formatting.share_of_100(lower), formatting.share_of_100(upper))


def _follow_up(cohort: CohortSummary) -> Table:
    rows = [[words(cohort.rows_are), whole(cohort.subjects)]]
    if cohort.rows != cohort.subjects:
        rows.append([words("rows"), whole(cohort.rows)])
    rows += [[words("events"), whole(cohort.events)], [words("censored"), whole(cohort.censored)]]
    if cohort.competing:
        rows.append([words("competing events"), whole(cohort.competing)])
    followed, time = cohort.median_follow_up, cohort.person_time
    rows += [
        [
            words(f"median follow-up (reverse Kaplan–Meier), {cohort.unit}"),
            number_cell(formatting.computed_time(followed.time, cohort.decimals), followed.time),
        ],
        [words(f"total follow-up, {cohort.unit}"), _time(cohort, time)],
    ]
    if cohort.near_ties:
        rows.append([words("times merged as near-ties"), whole(cohort.near_ties)])
    return Table(label="Follow-up", keys=["what", "number"], rows=rows)


def _groups(cohort: CohortSummary, found: Estimated) -> Section:
    """A line a group: who was followed, for how long, what came of it, and the survival table."""
    blocks: list[ContentBlock] = [
        Table(
            label="Groups" if found.grouped else formatting.capital(f"all {cohort.rows_are}"),
            head=[
                "",
                cohort.rows_are,
                "events",
                "censored",
                *(["competing"] if cohort.competing else []),
                f"total follow-up, {cohort.unit}",
                f"events per 100 {cohort.unit}",
                f"median follow-up (reverse Kaplan–Meier), {cohort.unit}",
            ],
            keys=[
                "group",
                "subjects",
                "events",
                "censored",
                *(["competing"] if cohort.competing else []),
                "person_time",
                "rate",
                "median_follow_up",
            ],
            rows=[
                *(_group_row(cohort, curve, grouped=found.grouped) for curve in found.curves),
                *([_all_groups(cohort, found)] if len(found.curves) > 1 else []),
            ],
        ),
        Words(
            text="Choose a number of events for the survival table: every event time with the number at "
            "risk, those censored before the next, and the running arithmetic.",
            quiet=True,
            for_screen=True,
        ),
    ]
    if found.left_out:
        blocks.append(
            Words(text=f"{formatting.count(found.left_out, 'rows')} without a group left out.")
        )
    return Section(
        id=SectionId.GROUPS,
        title="Groups" if found.grouped else formatting.capital(f"all {cohort.rows_are}"),
        place="main",
        blocks=blocks,
    )


def _time(cohort: CohortSummary, time: float) -> Cell:
    return number_cell(formatting.person_time(time, cohort.decimals), time)


def _all_groups(cohort: CohortSummary, found: Estimated) -> list[Cell]:
    """All groups together, whose events open the survival tables of all in one."""
    assert found.groups is not None
    data = found.cohort.follow_up.only(found.groups.code >= 0)
    counts, time = count_subjects(data), person_time(data)
    return [
        words("all groups"),
        whole(counts.subjects),
        whole(counts.events, workings=WorkingsOf(figure="tables")),
        count_with_share(counts.censored, counts.subjects),
        *([whole(counts.competing)] if cohort.competing else []),
        _time(cohort, time),
        rate_cell(rate(counts.events, time)),
        words(""),
    ]


def _group_row(cohort: CohortSummary, curve: Curve, *, grouped: bool) -> list[Cell]:
    counts, time = count_subjects(curve.data), person_time(curve.data)
    followed = median_follow_up(curve.data)
    about = {"group": curve.place}
    return [
        words(curve.label, tone=curve.tone if grouped else None),
        whole(counts.subjects),
        whole(counts.events, workings=WorkingsOf(figure="table", about=dict(about))),
        count_with_share(counts.censored, counts.subjects),
        *([whole(counts.competing)] if cohort.competing else []),
        _time(cohort, time),
        rate_cell(rate(counts.events, time), WorkingsOf(figure="rate", about=dict(about))),
        estimate(
            formatting.computed_time(followed.time, cohort.decimals),
            followed.time,
            followed.lower,
            followed.upper,
            note=missing_note(
                median_follow_up=followed.time,
                median_follow_up_lower=followed.lower,
                median_follow_up_upper=followed.upper,
            ),
            workings=WorkingsOf(figure="follow-up", about=dict(about)),
        ),
    ]
