"""Findings about the outcome: blank and unknown codes, counts, reversed codes."""

from collections.abc import Iterable, Iterator

import numpy as np
from numpy.typing import NDArray

from hourglass.cohort.code_meanings import (
    CHANCE,
    EVENT_DATES,
    MAX_LABELS,
    is_digits,
    meaning_of_word,
    probable_meanings,
)
from hourglass.cohort.derive import Derivation
from hourglass.cohort.findings.finding import (
    CORRECT,
    KEEP,
    Choice,
    Finding,
    FindingContext,
    SmallCurve,
    count,
    set_aside,
)
from hourglass.cohort.findings.missing_words import give_back, listed_words
from hourglass.cohort.findings.times import clock_columns
from hourglass.cohort.findings.two_columns import outcome_in_two_columns
from hourglass.cohort.profile import profile_of
from hourglass.cohort.statement import BLANK
from hourglass.cohort.steps.cells import missing_words
from hourglass.cohort.steps.step import keys_of
from hourglass.cohort.table import DateColumn, NumberColumn, TextColumn
from hourglass.cohort.words import grouped, listed, share_of_rows
from hourglass.core.arrays import evenly_placed
from hourglass.core.chance import longer_than, so_many_among
from hourglass.core.curves.survival import SurvivalCurve, survival_curve
from hourglass.core.followup import follow_up
from hourglass.core.risk_table import risk_table

POINTS = 60
LONGER = 0.6
"""With this chance or more that an event's time is the longer one, the coding looks reversed."""
MIN_ROWS = 5


def code_findings(context: FindingContext) -> Iterator[Finding]:
    """What is odd about the outcome's codes."""
    derived = context.derived
    if derived is None:
        return
    if context.statement.ended == "codes" and context.statement.clock.kind != "first of":
        both = list(_which_is_the_event(context, derived))
        if not both or BLANK not in (_two_codes(derived) or ()):
            yield from _blank(context, derived)
        yield from _unknown(context, derived)
        yield from _counts(context, derived)
        yield from both
        yield from _all_by_words(context, derived)
        yield from outcome_in_two_columns(context, derived)
    yield from _reversed(context, derived)
    yield from _everyone(context, derived)


def _blank(context: FindingContext, derived: Derivation) -> Iterator[Finding]:
    if BLANK not in derived.codes or derived.meaning(BLANK) is not None:
        return
    hit = derived.code_of == derived.codes.index(BLANK)
    rows, outcome = context.numbers(hit), context.statement.outcome or ""
    column = context.table.column(outcome)
    words = missing_words(column)
    text = f", written as {listed_words(words)}" if words else ""
    yield Finding(
        key="blank outcome",
        title=f"{outcome} is blank in {count(hit)}{text}",
        why="A blank is not taken for censored: nobody knows how these follow-ups ended. "
        "A blank can also be given a meaning in the sentence above.",
        rows=rows,
        columns=(outcome, *clock_columns(context.statement)),
        choices=(set_aside(rows, "blank outcome"), CORRECT, *give_back(column, words)),
    )


def _unknown(context: FindingContext, derived: Derivation) -> Iterator[Finding]:
    known = [m for m in derived.meanings if m is not None]
    if not known:
        return
    outcome = context.statement.outcome or ""
    for code in derived.codes:
        if code == BLANK or derived.meaning(code) is not None:
            continue
        hit = derived.code_of == derived.codes.index(code)
        rows = context.numbers(hit)
        yield Finding(
            key=f"unknown code: {code}",
            title=f"{outcome} is {code} in {count(hit)}, and its meaning is not stated",
            why="A code without a meaning is neither an event nor a censoring. Give it one in the "
            "sentence above, or decide about the rows.",
            rows=rows,
            columns=(outcome, *clock_columns(context.statement)),
            choices=(set_aside(rows, f"{outcome} is {code}"), CORRECT),
        )


def _counts(context: FindingContext, derived: Derivation) -> Iterator[Finding]:
    """Whole numbers from 0 up, each rarer than the one before: counts, not codes."""
    outcome = context.statement.outcome or ""
    column = context.table.column(outcome)
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
    shown = ", ".join(f"{v:g} ({grouped(k)})" for v, k in zip(values[:6], n[:6], strict=True))
    yield Finding(
        key="counts as events",
        title=f"{outcome} looks like counts, not codes: {shown}",
        why="If each number says how many events there were, a row with 3 is not another kind of "
        "end. A column of 0 and 1, made with a formula step, would say whether there was any.",
        rows=context.numbers(hit),
        columns=(outcome,),
        choices=(KEEP,),
    )


def _which_is_the_event(context: FindingContext, derived: Derivation) -> Iterator[Finding]:
    """Two codes without a meaning, of which one may be a blank: both readings, and what speaks for them."""
    codes = _two_codes(derived)
    if codes is None or any(derived.meanings):
        return
    usable = np.isfinite(derived.time) & (derived.time >= 0)
    if usable.sum() < MIN_ROWS:
        return
    outcome = context.statement.outcome or ""
    probable = probable_meanings(context.table, context.statement)
    events = [code for code, one in probable.items() if one.meaning == "event"]
    others = [code for code in codes if probable and code not in probable]
    if not events and len(others) == 1:  # the one that is not the censored code
        events = others
    speaks = "No other column speaks for one of them."
    if len(events) == 1 and probable:
        because = probable.get(events[0], next(iter(probable.values()))).because
        speaks = f"Its words speak for {_shown(events[0])}."
        if is_digits(derived.codes):
            speaks = f"{because}: that speaks for {_shown(events[0])}."
        if codes[1] == events[0]:
            codes = codes[1], codes[0]
    a, b = map(_shown, codes)
    alone = "Digits alone do not show it. " if is_digits(derived.codes) else ""
    if BLANK in codes:
        alone = "A blank is not taken for censored by itself: it may as well not be known. "
    at = derived.codes.index
    yield Finding(
        key=f"which is the event: {outcome}",
        title=f"{outcome} is {a} or {b}: which is the event?",
        why=f"{alone}{speaks} Compare both readings, and choose the one that those who made the file "
        "confirm.",
        rows=context.numbers(derived.code_of == at(codes[1])),
        columns=(outcome, *clock_columns(context.statement)),
        choices=tuple(
            Choice(
                name=f"event {_shown(event)}",
                label=f"{_capital(_shown(event))} is the event, {_shown(other)} is censored",
                done=f"{_shown(event)} is the event, {_shown(other)} is censored",
                codes=((event, "event"), (other, "censored")),
            )
            for event, other in (codes, codes[::-1])
        ),
        picture=_curves(
            derived.time[usable],
            (
                (
                    f"{_shown(code)} is the event",
                    (derived.code_of == at(code))[usable],
                    f"event {_shown(code)}",
                )
                for code in codes
            ),
        ),
    )


def _all_by_words(context: FindingContext, derived: Derivation) -> Iterator[Finding]:
    """More than two codes of which the words of every one speak for themselves."""
    codes = [code for code in derived.codes if code != BLANK]
    if len(codes) < 3 or is_digits(derived.codes) or any(derived.meanings):
        return
    probable = probable_meanings(context.table, context.statement)
    if set(probable) < set(codes) or "event" not in {p.meaning for p in probable.values()}:
        return
    outcome = context.statement.outcome or ""
    events = [code for code in codes if probable[code].meaning == "event"]
    others = [code for code in codes if code not in events]
    label = f"{listed(events)}: the event" + (f"; {listed(others)}: censored" if others else "")
    hit = np.isin(derived.code_of, [derived.codes.index(code) for code in events])
    usable = np.isfinite(derived.time) & (derived.time >= 0)
    name = "as the words are"
    picture = _curves(derived.time[usable], [(label, hit[usable], name)]) if usable.any() else ()
    yield Finding(
        key=f"which is the event: {outcome}",
        title=f"{outcome} has {len(codes)} codes: do they mean what their words are?",
        why="Words are often right and sometimes not: “lost” may be lost to follow-up or a lost graft. "
        "Another "
        "event that keeps this one from happening is stated in the sentence above.",
        rows=context.numbers(hit),
        columns=(outcome, *clock_columns(context.statement)),
        choices=(
            Choice(
                name=name,
                label=label,
                done=label,
                codes=tuple((code, probable[code].meaning) for code in codes),
            ),
        ),
        picture=picture,
    )


def _two_codes(derived: Derivation) -> tuple[str, str] | None:
    """The two codes of an outcome, a blank being one beside a single other; None where there are others."""
    known = [code for code in derived.codes if code != BLANK]
    if len(known) == 1 and BLANK in derived.codes:
        return known[0], BLANK
    return (known[0], known[1]) if len(known) == 2 else None


def _shown(code: str) -> str:
    return code or "blank"


def _capital(words: str) -> str:
    return words[:1].upper() + words[1:] if words == "blank" else words


def _reversed(context: FindingContext, derived: Derivation) -> Iterator[Finding]:
    proposed = all(m is None for m in derived.meanings)
    means = [m.meaning if m is not None else None for m in derived.meanings]
    if proposed:  # nothing is stated yet: the proposal is examined
        probable = probable_meanings(context.table, context.statement)
        means = [probable[c].meaning if c in probable else None for c in derived.codes]
    events = np.array([m == "event" for m in means], dtype=bool)[derived.code_of]
    censored = np.array([m == "censored" for m in means], dtype=bool)[derived.code_of]
    usable = np.isfinite(derived.time) & (derived.time >= 0) & _last_rows(context, derived)
    if (events & usable).sum() < MIN_ROWS or (censored & usable).sum() < MIN_ROWS:
        return
    clues = [
        *_longer(derived.time[events & usable], derived.time[censored & usable]),
        *_dated_without(context, events, censored),
        *(() if proposed else _labelled_otherwise(context, events, censored)),
    ]
    if not clues:
        return
    yield Finding(
        key="possibly reversed",
        title="The proposed event may be the censored code"
        if proposed
        else "The event and the censored codes may be the wrong way round",
        why=f"{'; '.join(clues)}. Compare both readings: if the second is right, exchange the meanings in "
        "the sentence above.",
        rows=context.numbers(events),
        columns=(context.statement.outcome or "",),
        choices=(KEEP,),
        picture=_curves(
            derived.time[usable],
            (
                ("as proposed" if proposed else "as it stands", events[usable], ""),
                ("the other way round", censored[usable], ""),
            ),
        ),
    )


def _last_rows(context: FindingContext, derived: Derivation) -> NDArray[np.bool_]:
    """(n,) True for the last row of each subject: a row that its subject goes on after has ended nothing."""
    subject = context.statement.subject
    if subject is None or not context.table.has(subject):
        return np.ones(derived.time.size, dtype=bool)
    if profile_of(context.table.column(subject)).distinct == context.table.size:
        return np.ones(derived.time.size, dtype=bool)
    key = keys_of(context.table, [subject])
    order = np.lexsort((derived.time, key))
    last = np.ones(key.size, dtype=bool)
    last[order[:-1]] = (key[order[1:]] != key[order[:-1]]) | (key[order[:-1]] < 0)
    return last


def _longer(a: NDArray[np.float64], b: NDArray[np.float64]) -> Iterator[str]:
    """Times ``a`` of events longer than times ``b`` of the censored, by more than chance."""
    share, p = longer_than(a, b)
    if share >= LONGER and p < CHANCE:
        yield (
            f"In {share_of_rows(share)} of pairs the row with the event has the longer time, where events "
            f"usually end follow-up early; by chance it would be 50%, and so many in {_one_in(p)}"
        )


def _dated_without(
    context: FindingContext, events: NDArray[np.bool_], censored: NDArray[np.bool_]
) -> Iterator[str]:
    """A date named for the event that stands with the censored more often than with the event."""
    if context.statement.ended != "codes" or context.statement.clock.kind == "first of":
        return
    for column in context.table.columns:
        if not isinstance(column, DateColumn) or column.name in context.statement.spent:
            continue
        there = ~column.missing
        if not any(word in column.name.lower() for word in EVENT_DATES):
            continue
        a, b = int((there & events).sum()), int((there & censored).sum())
        shares = a / events.sum(), b / censored.sum()
        if not shares[0] < 0.5 < shares[1]:
            continue
        both = int(events.sum() + censored.sum())
        p = so_many_among(b, a + b, int(censored.sum()), both)
        if p < CHANCE:
            yield (
                f"{column.name} has a date in {share_of_rows(shares[1])} of the rows taken for censored and "
                f"{share_of_rows(shares[0])} of those with the event, by chance so far apart in {_one_in(p)}"
            )


def _labelled_otherwise(
    context: FindingContext, events: NDArray[np.bool_], censored: NDArray[np.bool_]
) -> Iterator[str]:
    """A column that holds the outcome under other names, and the opposite of it."""
    for column in context.columns:
        if not isinstance(column, TextColumn) or column.name in context.statement.spent:
            continue
        if not 2 <= len(column.levels) <= MAX_LABELS:
            continue
        meant = [meaning_of_word(column.name, level) for level in column.levels]
        if not {"event", "censored"} <= set(meant):
            continue
        marks_event = np.array([*(s == "event" for s in meant), False])[column.codes]
        marks_censored = np.array([*(s == "censored" for s in meant), False])[column.codes]
        known = (events | censored) & (marks_event | marks_censored)
        against = ((events & marks_censored) | (censored & marks_event)).sum()
        if known.sum() >= MIN_ROWS and against > 0.9 * known.sum():
            yield (
                f"{column.name} says the opposite in {grouped(int(against))} of "
                f"{grouped(int(known.sum()))} rows, such as “{column.levels[meant.index('censored')]}” "
                "where the event is recorded"
            )


def _one_in(p: float) -> str:
    return (
        f"1 of {grouped(round(1 / p))} studies" if p > 1e-6 else "fewer than 1 of a million studies"
    )


def _curves(
    time: NDArray[np.float64], readings: Iterable[tuple[str, NDArray[np.bool_], str]]
) -> tuple[SmallCurve, ...]:
    """A small curve for each reading: its name, who had the event, the choice that leads to it."""
    read = list(readings)
    status = np.zeros(time.size, dtype=np.int64)
    for k, (_, events, _) in enumerate(read, start=1):
        status[events] = k
    data = follow_up(time, status)
    return tuple(
        _small(name, survival_curve(risk_table(data, data.event(k))), float(time.max()), choice)
        for k, (name, _, choice) in enumerate(read, start=1)
    )


def _small(name: str, curve: SurvivalCurve, last: float, choice: str) -> SmallCurve:
    pick = evenly_placed(curve.table.time.size, POINTS)
    times = (0.0, *(float(t) for t in curve.table.time[pick]), last)
    heights = (1.0, *(float(s) for s in curve.survival[pick]))
    return SmallCurve(name, times, (*heights, heights[-1]), choice)


def _everyone(context: FindingContext, derived: Derivation) -> Iterator[Finding]:
    if context.statement.ended != "codes" or context.statement.clock.kind == "first of":
        return
    meanings = {m.meaning for m in derived.meanings if m is not None}
    if meanings != {"event"} or None in derived.meanings or derived.time.size < 2:
        return
    every = np.ones(derived.time.size, dtype=bool)
    yield Finding(
        key="everyone had the event",
        title=f"All {grouped(derived.time.size)} rows have the event",
        why="A file of events alone has lost everybody who was still waiting for one: times come out "
        "too short. If that is how it was, keep it.",
        rows=context.numbers(every)[:400],
        columns=(context.statement.outcome or "",),
        choices=(KEEP,),
    )
