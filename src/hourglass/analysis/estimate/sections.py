"""The readings of Estimate."""

from hourglass.analysis.shared import wording
from hourglass.analysis.shared.cell import Cell, WorkingsOf, figure, whole, words
from hourglass.analysis.shared.cohort_summary import CohortSummary
from hourglass.analysis.shared.curves import Curve, CurvePoint, CurveReading, at_the_sand_line
from hourglass.analysis.shared.sections import Cautions, Section, Table

QUARTERS = ((0.25, "a quarter"), (0.5, "half: median"), (0.75, "three quarters"))


def estimate_sections(cohort: CohortSummary, curve: Curve, read: CurveReading) -> list[Section]:
    """At the sand line, quartiles, chosen times, follow-up."""
    timed = at_the_sand_line((curve,), cohort.rows_are, events=True, grouped=False)
    return [
        Section(id="at-time", blocks=[timed]),
        Section(
            id="quartiles",
            title=f"Time to {cohort.event_name}, {cohort.unit}",
            blocks=[_quartiles(read, cohort.decimals)],
        ),
        Section(id="chosen-times", title="At chosen times", blocks=[_chosen_times(cohort, read)]),
        Section(id="follow-up", title="Follow-up", blocks=[_follow_up(cohort), Cautions()]),
    ]


def _quartiles(read: CurveReading, decimals: int) -> Table:
    rows = []
    for q, name in QUARTERS:
        found = next(one for one in read.quartiles if one.q == q)
        median = q == 0.5
        rows.append(
            [
                words(name, strong=median),
                figure(
                    found.worded(decimals),
                    found.time,
                    workings=WorkingsOf(figure="median") if median else None,
                ),
                words(found.interval(decimals)),
            ]
        )
    return Table(
        label="Quartiles",
        head=["by then", "time", "interval"],
        keys=["share", "time", "interval"],
        rows=rows,
    )


def _chosen_times(cohort: CohortSummary, read: CurveReading) -> Table:
    return Table(
        label="At chosen times",
        head=[cohort.unit, "free", "interval", "at risk"],
        keys=["time", "free", "interval", "at_risk"],
        rows=[
            [
                figure(wording.plain(p.time), p.time),
                _free(p),
                words(share_interval(p.lower, p.upper)),
                whole(p.at_risk),
            ]
            for p in read.points
        ],
    )


def _free(p: CurvePoint) -> Cell:
    if p.survival is None:
        return words("not so long")
    opens = WorkingsOf(figure="survival", about={"t": p.time})
    return figure(wording.percent(p.survival), p.survival, workings=opens)


def share_interval(lower: float | None, upper: float | None) -> str:
    """Limits in percent, without the sign."""
    if lower is None or upper is None:
        return "none"
    return wording.interval(wording.share_of_100(lower), wording.share_of_100(upper))


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
            words(f"median follow-up, {cohort.unit}"),
            figure(wording.computed_time(followed.time, cohort.decimals), followed.time),
        ],
        [words(f"time followed in all, {cohort.unit}"), figure(wording.rounded(time, 0), time)],
    ]
    if cohort.near_ties:
        rows.append([words("times merged as near-ties"), whole(cohort.near_ties)])
    return Table(label="Follow-up", keys=["what", "number"], rows=rows)
