"""Compare: do groups differ, by how much, and when
(methods.md, section 2: Survival curve; section 3: Comparing groups)."""

from dataclasses import dataclass

import numpy as np

from hourglass.analysis import cautions, wording
from hourglass.analysis.context import CohortSummary, event_times, summarise, time_label
from hourglass.analysis.curves import (
    Curve,
    CurveReading,
    censoring_marks,
    count_row,
    curve_line,
    curve_of,
    interval_area,
    reading,
)
from hourglass.analysis.estimate import level_slot
from hourglass.analysis.figure import INK, Axis, Figure, Line, Rule, Track, area, line, symmetric
from hourglass.analysis.groups import MOST_LEVELS, Groups, categories, group_by, level_counts
from hourglass.analysis.sentence import Option, Sentence, Slot, sentence
from hourglass.analysis.statements import CompareStatement
from hourglass.analysis.typed import Numbers, Typed, numbers
from hourglass.analysis.watch import Watch, unwatched
from hourglass.cohort.followup import Cohort
from hourglass.core.comparison import CurveDifference, LogRank, crossing, curve_difference, log_rank
from hourglass.core.errors import NotEstimableError


class TestReading(Typed):
    """A test; without a statistic ``blank`` says why."""

    __test__ = False

    statistic: float | None
    df: int
    p: float | None
    blank: str | None


class ObservedExpected(Typed):
    """A group's events, seen and expected were there no difference."""

    label: str
    tone: int
    observed: int
    expected: float


class DifferenceReading(Typed):
    """The difference of two curves at each time where either steps (B − A, A the reference)."""

    label: str
    time: list[float]
    difference: Numbers
    lower: Numbers
    upper: Numbers
    end: float


class CompareResult(Typed):
    """Curves by group, their difference and the test.

    ``asked`` is false while there is no category to compare by; then only the sentence counts.
    """

    cohort: CohortSummary
    sentence: Sentence
    asked: bool
    curves: list[CurveReading]
    groups: list[ObservedExpected]
    test: TestReading
    difference: DifferenceReading | None
    left_out: int
    figure: Figure | None
    cautions: list[cautions.Caution]
    headline: str


@dataclass(frozen=True, slots=True)
class Comparison:
    """What the comparison is computed from; shared with its workings."""

    groups: Groups
    curves: tuple[Curve, ...]
    log_rank: LogRank
    left_out: int


def comparison(cohort: Cohort, statement: CompareStatement) -> Comparison:
    """Curves and log-rank test by the statement's category, rows without one left out.

    Raises:
        NotEstimableError: when no row has a group.
    """
    assert statement.by is not None
    groups = group_by(cohort.table, statement.by, statement.reference)
    known = groups.code >= 0
    if not known.any():
        raise NotEstimableError(f"no row has a value of {statement.by}")
    data = cohort.follow_up if known.all() else cohort.follow_up.only(known)
    code = groups.code[known]
    curves = tuple(
        curve_of(data, statement.level, label, tone, code == tone)
        for tone, label in enumerate(groups.labels)
    )
    test = log_rank(data, code, len(groups.labels))
    return Comparison(groups, curves, test, int((~known).sum()))


def compare(
    cohort: Cohort,
    statement: CompareStatement,
    times: tuple[float, ...] = (),
    watch: Watch = unwatched,
) -> CompareResult:
    """Compare groups; ``times`` are those at which curves are read, besides the sand line."""
    if statement.by is not None and not cohort.table.has(statement.by):
        statement = CompareStatement(level=statement.level)  # its column is gone: ask again
    words = compare_sentence(cohort, statement)
    if statement.by is None:
        return _unasked(cohort, words)
    watch("comparing groups", 0.1)
    levels = group_by(cohort.table, statement.by, statement.reference).labels
    if not 2 <= len(levels) <= MOST_LEVELS:
        return _unasked(cohort, words)
    found = comparison(cohort, statement)
    watch("drawing", 0.7)
    contrast = _contrast(found.groups, statement)
    apart = curve_difference(found.curves[0].estimate, found.curves[contrast].estimate)
    readings = [reading(curve, times) for curve in found.curves]
    test = TestReading.model_validate(found.log_rank.test)
    return CompareResult(
        cohort=summarise(cohort),
        sentence=words,
        asked=True,
        curves=readings,
        groups=[
            ObservedExpected(
                label=curve.label,
                tone=curve.tone,
                observed=int(found.log_rank.observed[curve.tone]),
                expected=float(found.log_rank.expected[curve.tone]),
            )
            for curve in found.curves
        ],
        test=test,
        difference=DifferenceReading(
            label=f"{found.groups.labels[contrast]} − {found.groups.labels[0]}",
            time=[float(t) for t in apart.time],
            difference=numbers(apart.difference),
            lower=numbers(apart.lower),
            upper=numbers(apart.upper),
            end=_end(found.curves[0], found.curves[contrast]),
        ),
        left_out=found.left_out,
        figure=_figure(cohort, words, found, apart, contrast, statement.level),
        cautions=[
            *cautions.made_by_decision(cohort),
            *cautions.several_rows(cohort),
            *cautions.competing(cohort, "curve"),
            *cautions.few_at_risk(cohort, [(r.label, r.thin_from) for r in readings]),
            *cautions.crossing(cohort, _crossing(found, contrast), test.p),
        ],
        headline=f"log-rank {wording.p_phrase(test.p)}" if test.p is not None else "no test",
    )


def compare_sentence(cohort: Cohort, statement: CompareStatement) -> Sentence:
    """The comparison as a sentence."""
    table = cohort.table
    named = categories(cohort)
    by_options = [
        Option(
            label=name,
            note=" · ".join(f"{v} {n:,}" for v, n in level_counts(cohort, name).items()),
            field="",
            value=CompareStatement(by=name, level=statement.level).model_dump(mode="json"),
            chosen=name == statement.by,
        )
        for name in named
    ]
    by = Slot(
        id="by",
        label=statement.by or "a category",
        title="Compare by",
        state="filled" if statement.by else "open",
        options=by_options,
    )
    start = f"Compare time to {cohort.statement.event_name} by "
    if statement.by is None:
        return sentence(start, by, ".")
    counts = level_counts(cohort, statement.by)
    groups = group_by(table, statement.by, statement.reference)
    reference = Slot(
        id="reference",
        label=groups.labels[0] if groups.labels else "nothing",
        title="Reference group",
        options=[
            Option(
                label=level,
                note=wording.count(n, cohort.rows_are),
                field="reference",
                value=level,
                chosen=level == (groups.labels[0] if groups.labels else None),
            )
            for level, n in counts.items()
        ],
    )
    parts: list[str | Slot] = [start, by, ", against ", reference]
    if len(groups.labels) > 2:
        parts += [", showing the difference for ", _contrast_slot(groups, statement)]
    return sentence(
        *parts, ", weighting all times equally, with ", level_slot(statement.level), " intervals."
    )


def _contrast_slot(groups: Groups, statement: CompareStatement) -> Slot:
    chosen = groups.labels[_contrast(groups, statement)]
    options = [
        Option(label=level, field="contrast", value=level, chosen=level == chosen)
        for level in groups.labels[1:]
    ]
    return Slot(id="contrast", label=chosen, title="Difference shown for", options=options)


def _contrast(groups: Groups, statement: CompareStatement) -> int:
    return groups.labels.index(statement.contrast) if statement.contrast in groups.labels[1:] else 1


def _end(a: Curve, b: Curve) -> float:
    return min(a.data.end, b.data.end)


def _figure(
    cohort: Cohort,
    words: Sentence,
    found: Comparison,
    apart: CurveDifference,
    contrast: int,
    level: float,
) -> Figure:
    curves, labels = found.curves, found.groups.labels
    end = _end(curves[0], curves[contrast])
    band = area(
        f"difference band, {labels[contrast]} and {labels[0]}",
        INK,
        apart.time,
        apart.band_low,
        apart.band_high,
        end,
    )
    low, high = symmetric(apart.lower, apart.upper)
    quiet = [interval_area(curve) for curve in curves]
    return Figure(
        name=words.text,
        time_label=time_label(cohort),
        end=cohort.follow_up.end,
        events=event_times(cohort),
        tracks=[
            Track(
                id="survival",
                title=f"Free of {cohort.statement.event_name}",
                axis=Axis(low=0, high=1, form="percent"),
                lines=[curve_line(curve) for curve in curves],
                areas=[band],
                marks=[censoring_marks(curve) for curve in curves],
                note=f"Shaded: {labels[contrast]} and {labels[0]} lie outside it wherever the "
                f"{wording.level_percent(level)} interval of their difference leaves out 0, "
                "one time at a time.",
            ),
            Track(
                id="intervals",
                title="Each with its interval",
                axis=Axis(low=0, high=1, form="percent"),
                lines=[curve_line(curve) for curve in curves],
                areas=quiet,
                note="Intervals of two curves may overlap where the curves differ: "
                "read the difference, not the overlap.",
            ),
            Track(
                id="at_risk", title="Number at risk", counts=[count_row(curve) for curve in curves]
            ),
            _evidence(cohort, found, level),
            Track(
                id="difference",
                title="Difference",
                subtitle=f"{labels[contrast]} − {labels[0]}, percentage points",
                axis=Axis(low=low, high=high, form="points"),
                lines=[line("difference", contrast, apart.time, apart.difference, end)],
                areas=[
                    area(
                        "interval of the difference",
                        contrast,
                        apart.time,
                        apart.lower,
                        apart.upper,
                        end,
                    )
                ],
                rules=[Rule(y=0, label="no difference")],
            ),
        ],
    )


def _evidence(cohort: Cohort, found: Comparison, level: float) -> Track:
    """Excess events of the reference group as they add up (of every group, when more than two)."""
    shown = range(1) if len(found.curves) == 2 else range(len(found.curves))
    time = np.concatenate([[0.0], found.log_rank.pooled.time])
    lines: list[Line] = []
    spread = np.zeros(time.size)
    for tone in shown:
        course, limit = found.log_rank.evidence(tone, level)
        if tone == 0:
            spread = np.concatenate([[0.0], limit])
        end = found.curves[tone].data.end
        course = np.concatenate([[0.0], course])
        lines.append(line(found.groups.labels[tone], tone, time, course, end))
    low, high = symmetric(spread, *(np.array(one.y, dtype=np.float64) for one in lines))
    whose = found.groups.labels[0]
    return Track(
        id="evidence",
        title="Evidence",
        subtitle=f"excess events{' in ' + whose if len(lines) == 1 else ''}",
        axis=Axis(low=low, high=high, form="number"),
        lines=lines,
        areas=[area(f"limits for {whose}", INK, time, -spread, spread, cohort.follow_up.end)],
        rules=[Rule(y=0, label="as expected")],
        note=f"Events observed less expected, added up over time. Shaded: limits for {whose} "
        f"at each single time ({wording.level_percent(level)}), not for the whole course.",
    )


def _crossing(found: Comparison, contrast: int) -> cautions.Crossed | None:
    a, b = found.curves[0], found.curves[contrast]
    crossed = crossing(a.data, b.data, a.estimate, b.estimate)
    if crossed is None:
        return None
    return cautions.Crossed(a.label, b.label, crossed.above, crossed.below)


def _unasked(cohort: Cohort, words: Sentence) -> CompareResult:
    why = f"choose a category with 2 to {MOST_LEVELS} levels"
    return CompareResult(
        cohort=summarise(cohort),
        sentence=words,
        asked=False,
        curves=[],
        groups=[],
        test=TestReading(statistic=None, df=0, p=None, blank=why),
        difference=None,
        left_out=0,
        figure=None,
        cautions=[],
        headline="no category chosen",
    )
