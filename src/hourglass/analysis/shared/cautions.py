"""Cautions: when a reading would mislead, and why. They never block."""

from dataclasses import dataclass

from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.cohort.followup import Cohort
from hourglass.core.risk_table import AtRisk
from hourglass.core.subjects import count_subjects, delayed_entry

CAUTION_BELOW_AT_RISK = 10
CAUTION_BELOW_EVENTS_PER_COEFFICIENT = 10
ALPHA_OF_CAUTIONS = 0.05


class Caution(FrozenModel):
    """A sentence to be read before the number; ``key`` names it in the decisions log."""

    key: str
    lead: str
    sentence: str


def thin_from(at_risk: AtRisk) -> float | None:
    """The time past which fewer than ten are at risk for good; None if that never comes."""
    enough = (at_risk.number >= CAUTION_BELOW_AT_RISK).nonzero()[0]
    if enough.size == 0:
        return 0.0
    last = enough[-1]
    return None if last == at_risk.time.size - 1 else float(at_risk.time[last])


def few_at_risk(cohort: Cohort, where: list[tuple[str, float | None]]) -> list[Caution]:
    """Curves read where few are left; ``where`` pairs a group's label with its thin_from."""
    unit = cohort.statement.unit
    reached = [(label, t) for label, t in where if t is not None]
    if not reached:
        return []
    label, t = min(reached, key=lambda pair: pair[1])
    whose = f" in {label}" if len(where) > 1 else ""
    # At the precision shown, "past 0.0" would be the whole of the follow-up.
    throughout = round(t, cohort.decimals.data) == 0
    when = "Throughout" if throughout else f"Past {formatting.time(t, cohort.decimals)} {unit}"
    return [
        Caution(
            key="few at risk",
            lead="Read with care.",
            sentence=f"{when} fewer than {CAUTION_BELOW_AT_RISK} {cohort.rows_are} are at risk{whose}: one "
            "event more or less would move the curve far.",
        )
    ]


@dataclass(frozen=True, slots=True)
class Crossed:
    """Curve B lies above A at one time and below it at another, each by more than chance."""

    a: str
    b: str
    above: float
    below: float


def crossing(cohort: Cohort, crossed: Crossed | None, p: float | None) -> list[Caution]:
    """Curves that cross, with what the test's p-value states about them and what it does not."""
    if crossed is None:
        return []
    unit = cohort.statement.unit
    above, below = formatting.times_apart((crossed.above, crossed.below), cohort.decimals)
    first, then = (
        (f"above that of {crossed.a} at {above}", f"below it at {below}")
        if crossed.above < crossed.below
        else (f"below that of {crossed.a} at {below}", f"above it at {above}")
    )
    if p is None:
        test = "There is no test of them."
    elif p < ALPHA_OF_CAUTIONS:
        test = (
            f"The test ({formatting.p_phrase(p)}) says that the curves differ, not that one group does "
            "better throughout."
        )
    else:
        test = (
            "Early and late differences cancel in a test that adds them up over time: "
            f"{formatting.p_phrase(p)} does not say that the curves are alike."
        )
    return [
        Caution(
            key="curves cross",
            lead="The curves cross.",
            sentence=f"The curve of {crossed.b} lies {first} {unit} and {then} {unit}, each by more "
            f"than chance would have it. {test}",
        )
    ]


def competing(cohort: Cohort, place: str) -> list[Caution]:
    """Competing events treated as censored."""
    if not cohort.competing:
        return []
    data = cohort.follow_up
    n = count_subjects(data).competing
    names = formatting.listed(list(cohort.competing))
    rows, event = cohort.rows_are, cohort.statement.event_name
    one = len(cohort.competing) == 1
    what = (
        f"These curves take {names} ({formatting.count(n, rows)}) as censoring; 100% less the curve is "
        f"not the cumulative incidence of {event}."
        if place == "curve"
        else f"{formatting.capital(names)} ({formatting.count(n, rows)}) {'is' if one else 'are'} treated as "
        f"censoring: a ratio compares rates of {event} among those free of "
        f"{'both' if one else 'all'}, not shares of {rows} who have it."
    )
    return [Caution(key=f"competing events: {place}", lead="Competing events.", sentence=what)]


def made_by_decision(cohort: Cohort) -> list[Caution]:
    """What the follow-up statement decided that no data can show."""
    statement = cohort.statement
    found = []
    if statement.ended == "everyone":
        found.append(
            Caution(
                key="everyone had the event",
                lead="All had the event.",
                sentence="That was stated, not read from the data. If anybody was still waiting for "
                f"{statement.event_name}, these times are too short.",
            )
        )
    if statement.landmark is not None:
        found.append(
            Caution(
                key="landmark",
                lead="Landmark.",
                sentence=f"Time 0 is {statement.landmark:g} {statement.unit} after the start, and only "
                f"{statement.rows_are} still at risk then are counted; the others are not described here.",
            )
        )
    return found


def close_times(cohort: Cohort) -> list[Caution]:
    """Neighbouring times so close that they may be one, kept apart."""
    n = cohort.follow_up.close
    if n == 0:
        return []
    pairs = "1 pair" if n == 1 else f"{formatting.grouped(n)} pairs"
    return [
        Caution(
            key="close times",
            lead="Times that are almost equal.",
            sentence=f"{pairs} of neighbouring times differ by at most a billionth of their size and "
            f"{'counts' if n == 1 else 'count'} as two times each. If that is rounding, as in years with "
            "decimals, they are ties: choose the tolerance of equal times in Prepare.",
        )
    ]


def several_rows(cohort: Cohort) -> list[Caution]:
    """Subjects who go on after an event: the curve then counts events, not people."""
    n = count_subjects(cohort.follow_up).before_last
    if n == 0:
        return []
    return [
        Caution(
            key="followed after the event",
            lead="Followed after the event.",
            sentence=f"{formatting.count(n, 'events')} lie before the last row of their subject: the curve "
            f"is then no share of {cohort.rows_are} free of {cohort.statement.event_name}.",
        )
    ]


def time_varying_groups(cohort: Cohort, *columns: str | None) -> list[Caution]:
    """Groups that subjects go from one to another of: a curve of such a group follows nobody."""
    names = [name for name in columns if name in cohort.time_varying]
    if not names:
        return []
    return [
        Caution(
            key="time-varying groups",
            lead="Groups of the moment.",
            sentence=f"{formatting.listed(names)} may change during follow-up: {cohort.rows_are} count in "
            "the group that they are in at the moment. A test compares the rates of the moment; a curve, its "
            "median and its mean describe no group of subjects that was followed from the start.",
        )
    ]


def late_entry(cohort: Cohort, first_risk: int) -> list[Caution]:
    """A risk set that empties early drives the curve to 0 for good."""
    if not delayed_entry(cohort.follow_up) or first_risk >= CAUTION_BELOW_AT_RISK:
        return []
    return [
        Caution(
            key="late entry",
            lead="Delayed entry (left truncation).",
            sentence=f"At the first event only {first_risk} {cohort.rows_are} are at "
            "risk, so early steps are large, and a curve that reaches 0 there stays at 0.",
        )
    ]


def nobody_at_first(cohort: Cohort, start: float) -> list[Caution]:
    """Before the first entry nobody is under observation: a curve from ``start`` cannot fall there."""
    entry = cohort.follow_up.entry
    first = 0.0 if entry is None else float(entry.min())
    if first <= start:
        return []
    event, unit = cohort.statement.event_name, cohort.statement.unit
    return [
        Caution(
            key="nobody at first",
            lead="Nobody is followed at first.",
            sentence=f"Before {formatting.time(first, cohort.decimals)} {unit} nobody is under observation: "
            f"the curve says nothing of that time, and is the share of those free of {event} then.",
        )
    ]


def few_events(events: int, coefficients: int) -> list[Caution]:
    """Too many coefficients for the events."""
    if coefficients == 0 or events / coefficients >= CAUTION_BELOW_EVENTS_PER_COEFFICIENT:
        return []
    return [
        Caution(
            key="few events",
            lead="Few events.",
            sentence=f"{events} events for {formatting.count(coefficients, 'coefficients')} is fewer "
            f"than {CAUTION_BELOW_EVENTS_PER_COEFFICIENT} each: "
            "ratios may be far off and intervals too narrow.",
        )
    ]
