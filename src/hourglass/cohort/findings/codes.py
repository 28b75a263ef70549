"""Findings about the outcome: blank and unknown codes, counts, reversed codes."""

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from hourglass.cohort.derive import Derivation
from hourglass.cohort.findings.finding import (
    CORRECT,
    KEEP,
    Finding,
    Look,
    SmallCurve,
    count,
    set_aside,
)
from hourglass.cohort.findings.times import clock_columns
from hourglass.cohort.proposal import proposed_meaning
from hourglass.cohort.statement import BLANK
from hourglass.cohort.table import DateColumn, NumberColumn
from hourglass.core.followup import follow_up
from hourglass.core.risk_table import risk_table
from hourglass.core.survival import survival_curve

POINTS = 60
LONGER = 0.6
"""With this chance or more that an event's time is the longer one, the coding looks reversed."""
EVENT_DATES = ("death", "died", "event", "fail", "relapse", "rejection", "removed")


def code_findings(look: Look) -> Iterator[Finding]:
    """What is odd about the outcome's codes."""
    derived = look.derived
    if derived is None:
        return
    if look.statement.ended == "codes" and look.statement.clock.kind != "first of":
        yield from _blank(look, derived)
        yield from _unknown(look, derived)
        yield from _counts(look, derived)
    yield from _reversed(look, derived)
    yield from _everyone(look, derived)


def _blank(look: Look, derived: Derivation) -> Iterator[Finding]:
    if BLANK not in derived.codes or derived.meaning(BLANK) is not None:
        return
    hit = derived.code_of == derived.codes.index(BLANK)
    rows, outcome = look.numbers(hit), look.statement.outcome or ""
    yield Finding(
        "blank outcome",
        f"{outcome} is blank in {count(hit)}",
        "A blank is not taken for censored: nobody knows how these follow-ups ended. "
        "A blank can also be given a meaning in the sentence above.",
        rows,
        (outcome, *clock_columns(look.statement)),
        (set_aside(rows, "blank outcome"), CORRECT),
    )


def _unknown(look: Look, derived: Derivation) -> Iterator[Finding]:
    known = [m for m in derived.meanings if m is not None]
    if not known:
        return
    outcome = look.statement.outcome or ""
    for code in derived.codes:
        if code == BLANK or derived.meaning(code) is not None:
            continue
        hit = derived.code_of == derived.codes.index(code)
        rows = look.numbers(hit)
        yield Finding(
            f"unknown code: {code}",
            f"{outcome} is {code} in {count(hit)}, and nobody has said what that means",
            "A code without a meaning is neither an event nor a censoring. Give it one in the "
            "sentence above, or decide about the rows.",
            rows,
            (outcome, *clock_columns(look.statement)),
            (set_aside(rows, f"{outcome} is {code}"), CORRECT),
        )


def _counts(look: Look, derived: Derivation) -> Iterator[Finding]:
    """Whole numbers from 0 up, each rarer than the one before: counts, not codes."""
    outcome = look.statement.outcome or ""
    column = look.table.column(outcome)
    if not isinstance(column, NumberColumn):
        return
    values, n = np.unique(column.values[~column.missing], return_counts=True)
    whole = (values == np.floor(values)).all() and (values >= 0).all()
    if values.size < 4 or not whole or values.max() < 3 or values.size > 100:
        return
    falling = (np.diff(n) <= 0).mean() >= 0.6
    if not falling or values.max() > 3 * values.size:
        return
    hit = np.asarray(column.values > 1)
    shown = ", ".join(f"{v:g} ({k:,})" for v, k in zip(values[:6], n[:6], strict=True))
    yield Finding(
        "counts as events",
        f"{outcome} looks like counts, not codes: {shown}",
        "If each number says how many events there were, a row with 3 is not another kind of "
        "end. A column of 0 and 1, made with a formula step, would say whether there was any.",
        look.numbers(hit),
        (outcome,),
        (KEEP,),
    )


def _reversed(look: Look, derived: Derivation) -> Iterator[Finding]:
    proposed = all(m is None for m in derived.meanings)
    means = [m.meaning if m is not None else None for m in derived.meanings]
    if proposed:  # nothing is said yet: look at what would be proposed
        means = [proposed_meaning(look.statement.outcome or "", code) for code in derived.codes]
    events = np.array([m == "event" for m in means], dtype=bool)[derived.code_of]
    censored = np.array([m == "censored" for m in means], dtype=bool)[derived.code_of]
    usable = np.isfinite(derived.time) & (derived.time >= 0)
    a, b = derived.time[events & usable], derived.time[censored & usable]
    if a.size < 5 or b.size < 5:
        return
    clues = []
    chance = _longer(a, b)
    if chance >= LONGER:
        clues.append(
            f"in {100 * chance:.0f} % of pairs the row with the event has the longer time, where "
            "events usually end follow-up early"
        )
    if look.statement.ended == "codes" and look.statement.clock.kind != "first of":
        for column in look.table.columns:
            if not isinstance(column, DateColumn) or column.name in clock_columns(look.statement):
                continue
            if any(word in column.name.lower() for word in EVENT_DATES):
                with_date = ~column.missing
                if with_date[censored].mean() > 0.5 > with_date[events].mean():
                    clues.append(f"{column.name} has a date mostly in the rows taken for censored")
    if not clues:
        return
    yield Finding(
        "possibly reversed",
        "The proposed event may be the censored code"
        if proposed
        else "The event and the censored codes may be the wrong way round",
        f"{'; '.join(clues).capitalize()}. Compare both readings: if the second is right, exchange "
        "the meanings in the sentence above.",
        look.numbers(events),
        (look.statement.outcome or "",),
        (KEEP,),
        (
            _curve(
                "as proposed" if proposed else "as it stands", derived.time[usable], events[usable]
            ),
            _curve("the other way round", derived.time[usable], censored[usable]),
        ),
    )


def _longer(a: NDArray[np.float64], b: NDArray[np.float64]) -> float:
    """The chance that a time of ``a`` is longer than one of ``b``, ties counting half."""
    b = np.sort(b)
    below, above = np.searchsorted(b, a, "left"), np.searchsorted(b, a, "right")
    return float((below + above).mean() / 2 / b.size)


def _curve(name: str, time: NDArray[np.float64], events: NDArray[np.bool_]) -> SmallCurve:
    curve = survival_curve(risk_table(follow_up(time, events.astype(int))))
    pick = np.unique(
        np.linspace(0, curve.table.time.size - 1, min(POINTS, curve.table.time.size)).astype(int)
    )
    times = (0.0, *(float(t) for t in curve.table.time[pick]), float(time.max()))
    heights = (1.0, *(float(s) for s in curve.survival[pick]))
    return SmallCurve(name, times, (*heights, heights[-1]))


def _everyone(look: Look, derived: Derivation) -> Iterator[Finding]:
    if look.statement.ended != "codes" or look.statement.clock.kind == "first of":
        return
    meanings = {m.meaning for m in derived.meanings if m is not None}
    if meanings != {"event"} or None in derived.meanings or derived.time.size < 2:
        return
    every = np.ones(derived.time.size, dtype=bool)
    yield Finding(
        "everyone had the event",
        f"All {derived.time.size:,} rows have the event",
        "A file of events alone has lost everybody who was still waiting for one: times come out "
        "too short. If that is how it was, say so by keeping it.",
        look.numbers(every)[:400],
        (look.statement.outcome or "",),
        (KEEP,),
    )
