"""Findings about whole columns: constant, repeated, determined by the outcome, known too late, missing."""

from collections.abc import Iterator
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from hourglass.cohort.derive import Derivation
from hourglass.cohort.findings.finding import KEEP, Choice, Finding, FindingContext, count
from hourglass.cohort.findings.missing_words import give_back, listed_words
from hourglass.cohort.findings.text_cells import folded
from hourglass.cohort.findings.times import clock_columns
from hourglass.cohort.profile import profile_of
from hourglass.cohort.statement import Duration
from hourglass.cohort.steps.cells import SetAsideMissing, missing_words
from hourglass.cohort.steps.levels import ReadAsText
from hourglass.cohort.steps.step import keys_of
from hourglass.cohort.table import (
    MAX_NUMBERS_AS_LEVELS,
    Column,
    DateColumn,
    NumberColumn,
    TextColumn,
    few_values,
    once_for_each,
)
from hourglass.cohort.words import grouped, listed, share_of_rows
from hourglass.core.arrays import evenly_placed

MAX_LEVELS = 30
MIN_ROWS = 10
MIN_EVENTS = 5
SAMPLE = 2_000
SURE = 3.0
"""Standard errors by which shares must differ before missingness counts as different."""
LOOK = 500
"""Rows that settle whether a column can rise in step with the time at all."""


def column_findings(context: FindingContext) -> Iterator[Finding]:
    """What is odd about columns as a whole."""
    yield from _constant(context)
    yield from _repeated(context)
    if context.derived is not None:
        yield from _tracks_the_outcome(context, context.derived)
        yield from _tracks_the_time(context, context.derived)
        yield from _without_events(context)
        yield from _known_late(context, context.derived)
    yield from _few_numbers(context)
    yield from _missing(context)
    yield from _missing_together(context)


def _few_numbers(context: FindingContext) -> Iterator[Finding]:
    """A few whole numbers: grades, centres, or a quantity? Found once the codes have meanings."""
    if context.derived is None or not any(context.derived.meanings):
        return
    for column in _others(context):
        few = profile_of(column).distinct <= MAX_NUMBERS_AS_LEVELS
        if not isinstance(column, NumberColumn) or not few:
            continue
        distinct = few_values(column)
        enough = (~column.missing).sum() >= 5 * distinct.size
        if distinct.size < 3 or not enough or (distinct != np.floor(distinct)).any():
            continue
        shown = ", ".join(column.written(float(v)) for v in distinct)
        yield Finding(
            key=f"few numbers: {column.name}",
            title=f"{column.name} is {shown}: a category or a number?",
            why="As a number it has one ratio for each increase by 1, as if each step were alike; as a "
            "category each value has its own.",
            rows=_nothing_hit(context),
            columns=(column.name,),
            choices=(
                Choice(
                    name="category", label="Take it as a category", done="taken as a category",
                    steps=(ReadAsText(column=column.name),),
                ),
                replace(KEEP, label="Take it as a number", done="taken as a number"),
            ),
        )  # fmt: skip


def _others(context: FindingContext) -> list[Column]:
    spent = context.statement.spent
    return [c for c in context.columns if c.name not in spent]


def _nothing_hit(context: FindingContext) -> NDArray[np.int64]:
    return context.table.numbers[:0]


def _constant(context: FindingContext) -> Iterator[Finding]:
    if context.table.size < MIN_ROWS:
        return
    for column in _others(context):
        distinct = profile_of(column).distinct
        if distinct < 2:
            held = (
                "nothing at all"
                if distinct == 0
                else f"only “{column.cell(int(np.flatnonzero(~column.missing)[0]))}”"
            )
            yield Finding(
                key=f"constant: {column.name}",
                title=f"{column.name} holds {held}",
                why="It cannot tell rows apart, so no comparison or model can use it.",
                rows=_nothing_hit(context),
                columns=(column.name,),
                choices=(KEEP,),
            )


def _repeated(context: FindingContext) -> Iterator[Finding]:
    """Columns that hold the same as another, or name the same groups otherwise."""
    if context.table.size < MIN_ROWS:
        return
    size = context.table.size
    sample = evenly_placed(size, SAMPLE) if size > SAMPLE else None
    columns = [c for c in context.columns if profile_of(c).distinct]
    seen: dict[bytes, list[Column]] = {}
    for column in columns:
        part = column if sample is None else column.take(sample)
        key = _cells(part) if _names_rows(column) else _pattern(part)
        seen.setdefault(key, []).append(column)
    for family in seen.values():
        for other in family[1:]:
            first = family[0]
            alike = _equal if _names_rows(first) or _names_rows(other) else _same_pattern
            if _plain(first) or not alike(first, other):
                continue
            yield Finding(
                key=f"repeats: {other.name}",
                title=f"{other.name} says the same as {first.name}",
                why="Each value of one goes with one value of the other. In a model only one of them can "
                "be distinguished from the rest.",
                rows=_nothing_hit(context),
                columns=(first.name, other.name),
                choices=(KEEP,),
            )


def _equal(a: Column, b: Column) -> bool:
    if isinstance(a, TextColumn) or isinstance(b, TextColumn):
        return a.kind == b.kind and all(a.cell(k) == b.cell(k) for k in range(a.missing.size))
    return a.kind == b.kind and bool(((a.values == b.values) | (a.missing & b.missing)).all())


def _plain(column: Column) -> bool:
    return profile_of(column).distinct < 2


def _names_rows(column: Column) -> bool:
    """Whether most rows have a value of their own: that agrees with whatever else differs in every row."""
    return profile_of(column).distinct > column.missing.size / 2


def _cells(column: Column) -> bytes:
    """The cells themselves: equal for columns that hold the same."""
    if isinstance(column, TextColumn):
        return "\n".join(column.cell(k) for k in range(column.missing.size)).encode()
    values = column.values + 0.0 if isinstance(column, NumberColumn) else column.values
    return values.tobytes()


def _same_pattern(a: Column, b: Column) -> bool:
    return _pattern(a) == _pattern(b)


@once_for_each
def _pattern(column: Column) -> bytes:
    """Which rows share a value, whatever the values are called: equal for columns that agree."""
    if isinstance(column, TextColumn):
        place, levels = column.codes.astype(np.intp), len(column.levels)
    else:
        distinct, place = np.unique(column.values, return_inverse=True)
        levels = distinct.size
    first = np.full(levels + 1, place.size)  # one place more, for what is missing
    first[place[::-1]] = np.arange(place.size)[::-1]
    rank = np.empty(levels + 1, dtype=np.int64)
    rank[np.argsort(first, kind="stable")] = np.arange(levels + 1)
    named = rank[place]
    return np.where(column.missing, -1, named).tobytes()


def _tracks_the_outcome(context: FindingContext, derived: Derivation) -> Iterator[Finding]:
    """A category from which one could read off who had the event."""
    events = context.events()
    if events is None or not 0 < events.sum() < events.size or events.size < MIN_ROWS:
        return
    base = min(events.mean(), 1 - events.mean())
    for column in _others(context):
        if isinstance(column, DateColumn):
            code = (~column.missing).astype(np.int64)
            what = "whether it has a date"
        else:
            if profile_of(column).distinct > MAX_LEVELS:
                continue
            if isinstance(column, TextColumn):
                code = column.codes.astype(np.int64)
            else:
                code = keys_of(context.table, [column.name])
            what = "its value"
        known = code >= 0
        n = np.bincount(code[known])
        rows = int(n.sum())
        if not 2 <= np.count_nonzero(n) <= MAX_LEVELS or rows < 0.5 * events.size:
            continue
        d = np.bincount(code[known], weights=events[known])
        mixed = np.minimum(d, n - d).sum() / rows
        if base > 0.02 and mixed <= 0.01 * base:
            yield Finding(
                key=f"tells the outcome: {column.name}",
                title=f"{column.name} gives away who had the event",
                why=f"Whether a row had the event can be read off {what}. It was written down afterwards, "
                "or is another name for the outcome: it explains nothing.",
                rows=_nothing_hit(context),
                columns=(column.name,),
                choices=(KEEP,),
            )


def _correlation(x: NDArray[np.float64], t: NDArray[np.float64]) -> float:
    """The correlation of two columns; NaN where one of them does not vary."""
    x, t = x - x.mean(), t - t.mean()
    with np.errstate(invalid="ignore", divide="ignore"):
        return float((x @ t) / np.sqrt((x @ x) * (t @ t)))


def _tracks_the_time(context: FindingContext, derived: Derivation) -> Iterator[Finding]:
    clock = context.statement.clock
    time = derived.time
    timed = np.isfinite(time)
    some = np.flatnonzero(timed)[:: max(int(timed.sum()) // LOOK, 1)]
    for column in _others(context):
        if not isinstance(column, NumberColumn) or profile_of(column).distinct < MIN_ROWS:
            continue
        look = some[~np.isnan(column.values[some])]
        if look.size < MIN_ROWS or abs(_correlation(column.values[look], time[look])) <= 0.99:
            continue
        both = timed & ~column.missing
        if column.missing.mean() > 0.5 or both.sum() < MIN_ROWS:
            continue
        r = _correlation(column.values[both], time[both])
        if np.isfinite(r) and abs(r) > 0.999:
            named = clock.column if isinstance(clock, Duration) else "the time followed"
            yield Finding(
                key=f"tells the time: {column.name}",
                title=f"{column.name} is the follow-up time in other words",
                why=f"It rises in step with {named} (correlation {r:.4f}). In a model it would explain the "
                "time by itself.",
                rows=_nothing_hit(context),
                columns=(column.name,),
                choices=(KEEP,),
            )


def _without_events(context: FindingContext) -> Iterator[Finding]:
    events = context.events()
    if events is None or events.sum() < MIN_EVENTS:
        return
    for column in _others(context):
        if not isinstance(column, TextColumn):
            continue
        if not 2 <= profile_of(column).distinct <= MAX_LEVELS:
            continue
        n = np.bincount(column.codes[column.codes >= 0], minlength=len(column.levels))
        held = column.codes >= 0
        d = np.bincount(column.codes[held], weights=events[held], minlength=len(column.levels))
        if d[n > 0].all():
            continue
        # A slip of spelling is no level of its own: it has a finding already.
        family: dict[str, float] = {}
        for level, events_in in zip(column.levels, d, strict=True):
            family[folded(level)] = family.get(folded(level), 0) + events_in
        empty = [k for k, level in enumerate(column.levels) if n[k] and family[folded(level)] == 0]
        separates = all(d[k] in (0, n[k]) for k in range(len(column.levels)))
        if not empty or separates or len(empty) == np.count_nonzero(n):
            continue
        named = ", ".join(f"{column.levels[k]} ({grouped(n[k])} rows)" for k in empty[:5])
        yield Finding(
            key=f"no events: {column.name}",
            title=f"No event in {column.name} {named}",
            why="A ratio against a level without events has no finite value. Merge the level with another "
            "where that makes sense, or read only its limit.",
            rows=context.numbers(np.isin(column.codes, empty)),
            columns=(column.name,),
            choices=(KEEP,),
        )


def _known_late(context: FindingContext, derived: Derivation) -> Iterator[Finding]:
    """Dates between start and end, and groups by whether there is one."""
    clock = context.statement.clock
    if clock.kind == "duration" or clock.start is None or not context.table.has(clock.start):
        return
    start = context.table.column(clock.start)
    if not isinstance(start, DateColumn):
        return
    own = clock_columns(context.statement)
    for column in context.table.columns:
        if not isinstance(column, DateColumn) or column.name in (*own, *context.statement.spent):
            continue
        there = ~column.missing & ~start.missing
        later = there & (column.days > start.days)
        if there.sum() < 5 or later.sum() < 0.8 * there.sum():
            continue
        groups = [
            c.name
            for c in _others(context)
            if isinstance(c, TextColumn) and len(c.counts()) == 2
            and _pattern(c) == _pattern(TextColumn(name="", codes=there.astype(np.int32), levels=("a", "b")))
        ]  # fmt: skip
        named = f" and {', '.join(groups)}" if groups else ""
        yield Finding(
            key=f"known late: {column.name}",
            title=f"{column.name}{named} is known only after time zero",
            why="Whoever has it had to be followed long enough to get it, so a group made from it looks as "
            "if it lived longer. Use a landmark (“Add landmark” above), or let the value change over time.",
            rows=context.numbers(later),
            columns=(column.name, *groups),
            choices=(KEEP,),
        )


def _missing(context: FindingContext) -> Iterator[Finding]:
    # A blank in these columns states something else, and has its own finding.
    own = context.statement.spent
    events = context.events()
    for column in context.columns:
        gone = column.missing
        if column.name in own or not gone.any() or gone.all():
            continue
        away = Choice(
            name="set aside",
            label="Set aside",
            done="set aside",
            steps=(SetAsideMissing(columns=(column.name,)),),
        )
        words = missing_words(column)
        text = f", written as {listed_words(words)}" if words else ""
        yield Finding(
            key=f"missing: {column.name}",
            title=f"{column.name} is missing in {count(gone)}{text}",
            why="Kept, these rows count in every curve; a comparison or a model that uses the column "
            f"leaves them out and says so.{_differs(gone, events)}",
            rows=context.numbers(gone),
            columns=(column.name,),
            choices=(KEEP, away, *give_back(column, words)),
        )


def _differs(gone: NDArray[np.bool_], events: NDArray[np.bool_] | None) -> str:
    """Whether it is missing more often among those with the event, or without."""
    if events is None or not 0 < events.sum() < events.size:
        return ""
    a, b = gone[events].mean(), gone[~events].mean()
    error = np.sqrt(a * (1 - a) / events.sum() + b * (1 - b) / (~events).sum())
    if error == 0 or abs(a - b) < SURE * error:
        return ""
    return (
        f" It is missing in {share_of_rows(a)} of the rows with the event and {share_of_rows(b)} of the "
        "others: leaving them out would change who is compared."
    )


def _missing_together(context: FindingContext) -> Iterator[Finding]:
    """Several columns that are missing in just the same rows."""
    patterns: dict[bytes, list[Column]] = {}
    for column in _others(context):
        gone = column.missing
        if 2 <= gone.sum() < gone.size:
            patterns.setdefault(np.packbits(gone).tobytes(), []).append(column)
    for family in patterns.values():
        if len(family) < 2:
            continue
        names = tuple(c.name for c in family)
        hit = family[0].missing
        yield Finding(
            key=f"missing together: {', '.join(names)[:180]}",
            title=f"{listed(names, 4)} are missing in the same {count(hit)}",
            why="One cause took them all: a form not filled in, a centre that does not measure them.",
            rows=context.numbers(hit),
            columns=names[:6],
            choices=(
                KEEP,
                Choice(
                    name="set aside",
                    label="Set aside",
                    done="set aside",
                    steps=(SetAsideMissing(columns=names),),
                ),
            ),
        )
