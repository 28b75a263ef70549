"""Check: does each ratio stay the same over time (methods.md, section 6: Residuals and checks)."""

from typing import Literal

import numpy as np

from hourglass.analysis import wording
from hourglass.analysis.context import CohortSummary, event_times, summarise, time_label
from hourglass.analysis.figure import INK, Area, Axis, Figure, Line, Marks, Rule, Track
from hourglass.analysis.model import ChiSquared, FittedModel, chi_squared_reading, fit_model
from hourglass.analysis.sentence import Option, Sentence, Slot, sentence
from hourglass.analysis.statements import CheckStatement, ModelStatement
from hourglass.analysis.typed import Numbers, Typed, numbers, ratio_of
from hourglass.analysis.verdict import Verdict, course, term_verdicts, verdict, weakest
from hourglass.analysis.watch import Watch, unwatched
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import NoSuchColumnError
from hourglass.core.errors import NotEstimableError
from hourglass.core.regression.proportionality import (
    Clock,
    EventResiduals,
    ProportionalityTest,
    event_residuals,
    proportionality_test,
)
from hourglass.core.smooth import Smooth, spline_smooth

GRID = 80
MOST_DOTS = 4000
LARGEST_LOG_RATIO = 300.0
CLOCK_WORDS: dict[Clock, tuple[str, str]] = {
    "one minus survival": ("1 − survival", "events count alike, wherever they fall"),
    "time": ("time itself", "late events weigh more"),
    "log time": ("the logarithm of time", "early events weigh more"),
    "rank": ("the order of event times", "event times count alike"),
}


class RatioCourse(Typed):
    """A ratio as it moves over time: the smooth with its band, and the single ratio assumed."""

    column: int
    label: str
    against: str
    time: list[float]
    ratio: Numbers
    lower: Numbers
    upper: Numbers
    constant: float


class TermCheck(Typed):
    """A term's test of proportional hazards with its verdict."""

    label: str
    name: str
    test: ChiSquared
    verdict: Verdict
    course: str
    courses: list[RatioCourse]


class Remedy(Typed):
    """What could be done about a term in doubt; ``act`` is what the button does."""

    term: str
    sentence: str
    act: Literal["keep", "compare", "model"]
    label: str


class CheckResult(Typed):
    """The checks of the model; ``blank`` says why there are none."""

    cohort: CohortSummary
    sentence: Sentence
    model: str
    blank: str | None
    terms: list[TermCheck]
    together: ChiSquared | None
    verdict: Verdict
    remedies: list[Remedy]
    figure: Figure | None
    headline: str


def check(
    cohort: Cohort, asked: ModelStatement, statement: CheckStatement, watch: Watch = unwatched
) -> CheckResult:
    """Test and draw the course over time of every ratio of the model."""
    words = check_sentence(statement)
    watch("fitting the model", 0.1)
    try:
        fitted = fit_model(cohort, asked, watch)
        _require_showable(fitted)
        residuals = event_residuals(fitted.design.data, fitted.design.x, fitted.fit)
        tested = proportionality_test(
            fitted.design.data, fitted.design.x, fitted.fit, statement.clock
        )
    except (ValueError, NoSuchColumnError) as reason:
        return _blank(cohort, words, f"There is nothing to check: {reason}.")
    watch("smoothing residuals", 0.7)
    terms, tracks = [], []
    for k, found in enumerate(term_verdicts(fitted.design, tested)):
        label, positions = found.label, fitted.design.of_term(k)
        courses, moves = [], []
        for c in positions:
            smooth = _smooth(fitted, residuals, tested, int(c), asked.level)
            moves.append(course(smooth))
            column = fitted.design.columns[c]
            courses.append(_course(fitted, tested, smooth, int(c)))
            name = column.label if column.label != asked.terms[k].column else label
            said = _said(verdict(tested.column[c].p), moves[-1])
            tracks.append(_track(fitted, residuals, courses[-1], int(c), name, said))
        terms.append(
            TermCheck(
                label=label,
                name=asked.terms[k].column,
                test=chi_squared_reading(label, found.test),
                verdict=found.verdict,
                course=moves[int(np.argmin([_p(tested.column[c].p) for c in positions]))],
                courses=courses,
            )
        )
    together = chi_squared_reading("all together", tested.together)
    worst = weakest([t.test.p for t in terms])
    doubtful = [t for t in terms if t.verdict in ("in doubt", "fails")]
    return CheckResult(
        cohort=summarise(cohort),
        sentence=words,
        model="Rate of "
        + cohort.statement.event_name
        + " by "
        + wording.listed(list(fitted.design.terms)),
        blank=None,
        terms=terms,
        together=together,
        verdict=verdict(worst),
        remedies=[r for t in doubtful for r in _remedies(t, _is_category(asked, t.name))],
        figure=Figure(
            name=words.text,
            time_label=time_label(cohort),
            end=cohort.follow_up.end,
            events=event_times(cohort),
            tracks=tracks,
        ),
        headline=_headline(terms),
    )


def _require_showable(fitted: FittedModel) -> None:
    for column, beta in zip(fitted.design.columns, fitted.fit.beta, strict=True):
        if abs(beta) > LARGEST_LOG_RATIO:
            raise NotEstimableError(
                f"the ratio of {column.label} is too far from 1 to be drawn; tell it per another unit"
            )


def _is_category(asked: ModelStatement, column: str) -> bool:
    return any(t.column == column and t.kind == "category" for t in asked.terms)


def check_sentence(statement: CheckStatement) -> Sentence:
    """The check as a sentence."""
    slot = Slot(
        id="clock",
        label=CLOCK_WORDS[statement.clock][0],
        title="Measure time as",
        options=[
            Option(
                label=label, note=note, field="clock", value=clock, chosen=clock == statement.clock
            )
            for clock, (label, note) in CLOCK_WORDS.items()
        ],
    )
    return sentence(
        "Check the model: does each ratio stay the same over time, with time measured as ",
        slot,
        "?",
    )


def _p(p: float | None) -> float:
    return 1.0 if p is None else p


def _said(found: Verdict, move: str) -> str:
    return f"{found}, {move}" if found in ("in doubt", "fails") and move else found


def _smooth(
    fitted: FittedModel,
    residuals: EventResiduals,
    tested: ProportionalityTest,
    column: int,
    level: float,
) -> Smooth | None:
    """The smooth of the scaled residuals against the clock, at the grid's event times."""
    clock = tested.clock[np.searchsorted(tested.time, residuals.time)]
    variance = residuals.row.size * float(fitted.fit.covariance[column, column])
    at = tested.clock[_grid(tested)]
    return spline_smooth(clock, residuals.scaled[:, column], at, variance, level)


def _grid(tested: ProportionalityTest) -> np.ndarray:
    """Positions of event times, evenly placed among them, where smooths are drawn."""
    k = tested.time.size
    return np.unique(np.linspace(0, k - 1, min(GRID, k)).round().astype(int))


def _course(
    fitted: FittedModel, tested: ProportionalityTest, smooth: Smooth | None, k: int
) -> RatioCourse:
    column = fitted.design.columns[k]
    nothing = np.empty(0)
    time = nothing if smooth is None else tested.time[_grid(tested)]
    return RatioCourse(
        column=k,
        label=column.label,
        against=column.against,
        time=[float(t) for t in time],
        ratio=numbers(nothing if smooth is None else np.exp(np.clip(smooth.y, -700, 700))),
        lower=numbers(nothing if smooth is None else np.exp(np.clip(smooth.lower, -700, 700))),
        upper=numbers(nothing if smooth is None else np.exp(np.clip(smooth.upper, -700, 700))),
        constant=ratio_of(fitted.fit.beta[k]),
    )


def _track(
    fitted: FittedModel,
    residuals: EventResiduals,
    drawn: RatioCourse,
    column: int,
    name: str,
    said: str,
) -> Track:
    scaled = residuals.scaled[:, column]
    beta = float(fitted.fit.beta[column])
    low, high = _domain(scaled, drawn, beta)
    inside = np.flatnonzero((scaled >= low) & (scaled <= high))
    shown = inside if inside.size <= MOST_DOTS else inside[:: inside.size // MOST_DOTS + 1]
    outside = scaled.size - inside.size
    notes = [f"{wording.count(outside, 'dots')} beyond the edges"] if outside else []
    if shown.size < inside.size:
        notes.append(f"an even sample of {shown.size:,} dots is drawn")
    track_lines, areas = [], []
    if drawn.time:
        track_lines.append(
            Line(
                label="smooth", tone=INK, x=drawn.time, y=_held(drawn.ratio, low, high), step=False
            )
        )
        areas.append(
            Area(
                label="band of the smooth",
                tone=INK,
                x=drawn.time,
                low=_held(drawn.lower, low, high),
                high=_held(drawn.upper, low, high),
                step=False,
            )
        )
    against = fitted.design.columns[column].against
    per = against if against.startswith("per ") else f"against {against}"
    return Track(
        id=f"ratio-{column}",
        title=name,
        subtitle=f"hazard ratio {per}",
        verdict=said,
        axis=Axis(low=ratio_of(low), high=ratio_of(high), form="ratio"),
        lines=track_lines,
        areas=areas,
        marks=[
            Marks(
                label="events",
                tone=INK,
                glyph="dot",
                x=[float(t) for t in residuals.time[shown]],
                y=numbers(np.exp(scaled[shown])),
            )
        ],
        rules=[Rule(y=ratio_of(beta), label="the single ratio of the model", dashed=True)],
        note="; ".join(notes),
    )


def _held(ratios: Numbers, low: float, high: float) -> Numbers:
    """Ratios held within the track, so that a wide tail ends at its edge."""
    values = np.array([np.nan if r is None else r for r in ratios])
    return numbers(np.clip(values, np.exp(low), np.exp(high)))


def _domain(scaled: np.ndarray, drawn: RatioCourse, beta: float) -> tuple[float, float]:
    """Log-ratio limits that show the smooth whole and most dots, but not the farthest."""
    ends = [*np.quantile(scaled, [0.03, 0.97]), beta - 0.2, beta + 0.2]
    limits = [np.log(r) for r in drawn.lower + drawn.upper if r]
    if limits:
        ends += [min(limits), max(limits)]
        # A smooth that is all tail must not flatten the rest.
        reach = 4 * float(np.ptp(np.quantile(scaled, [0.1, 0.9]))) + 1
        ends = [float(np.clip(e, beta - reach, beta + reach)) for e in ends]
    return max(min(ends), -600.0), min(max(ends), 600.0)


def _remedies(term: TermCheck, category: bool) -> list[Remedy]:
    found = [
        Remedy(
            term=term.label,
            sentence=f"Keep one ratio for {term.label}, and report it as an average over the "
            "follow-up of this study.",
            act="keep",
            label="Keep, with a reason",
        )
    ]
    if category:
        found.append(
            Remedy(
                term=term.name,
                sentence=f"Show the curves by {term.name}, which assume nothing about the ratio.",
                act="compare",
                label=f"Compare by {term.name}",
            )
        )
    found.append(
        Remedy(
            term=term.label,
            sentence=f"If {term.name} is there only to adjust for, see in Model whether the other "
            "ratios stay as they are without it.",
            act="model",
            label="Open Model",
        )
    )
    return found


def _headline(terms: list[TermCheck]) -> str:
    doubtful = sum(t.verdict in ("in doubt", "fails") for t in terms)
    if doubtful == 0:
        return "no ratio in doubt"
    return f"{doubtful} of {len(terms)} in doubt"


def _blank(cohort: Cohort, words: Sentence, why: str) -> CheckResult:
    return CheckResult(
        cohort=summarise(cohort),
        sentence=words,
        model="",
        blank=why,
        terms=[],
        together=None,
        verdict="unknown",
        remedies=[],
        figure=None,
        headline="nothing to check yet",
    )
