"""Which layout a table has: recognised with a reason, and confirmed by a person, never assumed."""

from collections.abc import Iterator
from itertools import islice, product

import numpy as np
from numpy.typing import NDArray

from hourglass.cohort.condition import Clause, Condition
from hourglass.cohort.counts_at_times import counts_at_times, whole_numbers
from hourglass.cohort.layout_guess import LayoutGuess, unit_in
from hourglass.cohort.profile import profile_of
from hourglass.cohort.proposal.outcome import could_be_outcome
from hourglass.cohort.proposal.propose import proposal
from hourglass.cohort.statement import (
    UNSTATED,
    BetweenDates,
    CodeMeaning,
    Duration,
    OtherFollowUp,
    Unit,
)
from hourglass.cohort.steps.layouts import FirstBySubject, GatherRecords, StackGroups
from hourglass.cohort.steps.rows import SetAsideWhere
from hourglass.cohort.steps.spread_counts import ENDED, HOW_MANY, STILL
from hourglass.cohort.steps.step import keys_of
from hourglass.cohort.table import Column, DateColumn, NumberColumn, Table, TextColumn
from hourglass.cohort.units import UNIT_WORDS, clock_unit, words_of
from hourglass.cohort.visit_layouts import visits, wide_visits
from hourglass.cohort.words import grouped, share_of_rows

COUNT_WORDS = (
    "count", "freq", "weight", "how_many", "how many", "number_of", "number of", "n_units", "n_subjects",
    "units", "anzahl", "qty", "quantit", "effectif",
)  # fmt: skip
COUNT_NAMES = ("n", "cases", "number", "num", "nb", "no. of cases")
TIME_WORDS = ("time", "duration", "day", "week", "month", "year", "hour", "cycle")
NO_STEM = (
    "time",
    "to",
    "status",
    "state",
    "event",
    "outcome",
    "of",
    "the",
    "in",
    "until",
    "t",
    "cens",
)
MAX_KINDS = 40
DATED_KIND = ("event", "what", "kind", "type", "happening", "code", "visit")
START_WORDS = (
    "enrol", "random", "diagnos", "surgery", "operat", "graft", "install", "start", "admi", "baseline",
)  # fmt: skip
EVENT_WORDS = ("death", "died", "relapse", "reject", "fail", "event", "progress", "burnt", "broke")


def recognise(table: Table) -> tuple[LayoutGuess, ...]:
    """The layouts that a table may have, the most specific first, "one row each" last."""
    recognisers = (
        _parameters, _counts_at_times, _status_columns, _dated_records, _periods, wide_visits, _visits,
        _outcomes, _counts,
    )  # fmt: skip
    found = [guess for guesses in recognisers if table.size for guess in guesses(table)]
    plain = LayoutGuess("one row each", "every row is one subject, followed once")
    return (*found, plain)


def _named(table: Table, *words: str, kind: type | None = None) -> list[str]:
    return [
        c.name
        for c in table.columns
        if (kind is None or isinstance(c, kind)) and any(w in c.name.lower() for w in words)
    ]


def _unit_in_cells(column: TextColumn, rows: NDArray[np.bool_]) -> Unit:
    """The unit that a column of units gives some rows, where it is one and known."""
    named = {
        clock_unit(column.levels[k]) or UNSTATED for k in np.unique(column.codes[rows]) if k >= 0
    }
    return named.pop() if len(named) == 1 else UNSTATED


def _parameters(table: Table) -> Iterator[LayoutGuess]:
    """The analysis layout of clinical trials: a parameter, its value, a censoring flag."""
    by_name = {c.name.upper(): c for c in table.columns}
    parameter = by_name.get("PARAMCD") or by_name.get("PARAM")
    value, flag = by_name.get("AVAL"), by_name.get("CNSR")
    if not (isinstance(parameter, TextColumn) and isinstance(value, NumberColumn)):
        return
    if not isinstance(flag, NumberColumn):
        return
    counts = parameter.counts()
    chosen = max(counts, key=lambda level: (level.upper() == "OS", counts[level], level))
    units = by_name.get("AVALU")
    if isinstance(units, TextColumn):
        unit = _unit_in_cells(units, parameter.codes == parameter.levels.index(chosen))
    else:
        unit = unit_in(table, value.name)
    flags = np.unique(flag.values[~flag.missing])
    meanings = {
        flag.written(float(v)): CodeMeaning(meaning="event" if v == 0 else "censored")
        for v in flags
    }
    subject = by_name.get("USUBJID") or by_name.get("SUBJID")
    step = SetAsideWhere(
        condition=Condition(clauses=(Clause(column=parameter.name, test="is", values=(chosen,)),)),
        keep=True,
    )
    others = ", ".join(f"{level} ({grouped(n)})" for level, n in counts.items())
    yield LayoutGuess(
        "parameters",
        f"{parameter.name} names {others}; {value.name} holds the time and {flag.name} says whether it "
        f"is censored, 0 meaning the event. {chosen} is kept; change the step to analyse another",
        (step,),
        (
            ("clock", Duration(column=value.name).model_dump()),
            ("unit", unit),
            ("outcome", flag.name),
            ("meanings", {code: m.model_dump() for code, m in meanings.items()}),
            ("subject", subject.name if subject is not None else None),
        ),
    )


def _counts_at_times(table: Table) -> Iterator[LayoutGuess]:
    times = _named(table, *TIME_WORDS, kind=NumberColumn)
    if len(times) != 1:
        return
    found = counts_at_times(table, times[0])
    if found is None:
        return
    step = found.step
    ends = {end: {"meaning": end} for end in step.counts.values()}
    yield LayoutGuess(
        "counts at times",
        f"{' and '.join(step.counts)} are whole numbers above 1: they count how many ended each way at "
        f"{times[0]}. {found.reason}",
        (step,),
        (
            ("clock", Duration(column=times[0]).model_dump()),
            ("unit", unit_in(table, times[0])),
            ("outcome", ENDED),
            ("meanings", {**ends, STILL: {"meaning": "censored"}}),
            ("count", HOW_MANY),
            ("subject", None),
        ),
    )


def _status_columns(table: Table) -> Iterator[LayoutGuess]:
    """One column of times, and several of 0, 1 or nothing that share no row."""
    numbers = [c for c in table.columns if isinstance(c, NumberColumn)]
    flags = [
        c
        for c in numbers
        if whole_numbers(c) and c.values[~c.missing].max() <= 2 and c.missing.any()
    ]
    times = [c for c in numbers if c not in flags and not c.missing.any()]
    if len(flags) < 2 or len(times) != 1 or table.size < 4:
        return
    held = np.sum([~c.missing for c in flags], axis=0)
    if (held == 1).mean() < 0.9:
        return
    names = {c.name: _without_stem(c.name, [f.name for f in flags]) for c in flags}
    yield LayoutGuess(
        "a status for each group",
        f"{', '.join(names)} hold 0 and 1 and are filled in different rows, beside the one column of "
        f"times {times[0].name}: each belongs to a group",
        (StackGroups(groups=names),),
        (
            ("clock", Duration(column=times[0].name).model_dump()),
            ("unit", unit_in(table, times[0].name)),
            ("outcome", "status"),
            ("meanings", {}),
        ),
    )


def _without_stem(name: str, names: list[str]) -> str:
    """What distinguishes a name from its fellows: "status_old" beside "status_new" is "old"."""
    start = 0
    while all(len(n) > start and n[start] == names[0][start] for n in names):
        start += 1
    while start and name[start - 1].isalnum():
        start -= 1
    return name[start:].strip(" _-.") or name


def _dated_records(table: Table) -> Iterator[LayoutGuess]:
    dates = [c for c in table.columns if isinstance(c, DateColumn)]
    kinds = [
        c for c in table.columns
        if isinstance(c, TextColumn) and 2 <= profile_of(c).distinct <= min(MAX_KINDS, 0.7 * table.size)
    ]  # fmt: skip
    if len(dates) != 1 or not kinds or table.size < 6:
        return
    for subject in table.columns[:3]:
        if isinstance(subject, DateColumn):
            continue
        key = np.where(dates[0].missing, -1, keys_of(table, [subject.name]))
        n = np.bincount(key[key >= 0]) if (key >= 0).any() else np.zeros(1)
        groups = n[n > 0]
        if groups.size < 3 or groups.mean() < 1.5:
            continue
        rated = [
            (_varies(table, key, c), any(w in c.name.lower() for w in DATED_KIND), c.name)
            for c in kinds
            if c is not subject
        ]
        if not rated or max(rated)[0] < 0.5:
            continue
        kind = max(rated, key=lambda r: (r[1], r[0]))[2]
        yield LayoutGuess(
            "dated records",
            f"{subject.name} has {groups.mean():.1f} rows on average, each with one date "
            f"({dates[0].name}) and a word for what happened ({kind})",
            (GatherRecords(subject=subject.name, date=dates[0].name, record=kind),),
            (
                ("clock", _clock_of(table.column(kind))),
                ("subject", subject.name),
                ("outcome", None),
                ("meanings", {}),
            ),
        )
        return


def _clock_of(kind: Column) -> dict[str, object]:
    """From the first record that sounds like a start to the first that sounds like an event.

    Where none sounds like a start the start stays open: being seen is no start.
    """
    assert isinstance(kind, TextColumn)
    levels = [level.strip() for level in kind.counts()]
    start = next((v for w in START_WORDS for v in levels if w in v.lower()), None)
    events = [v for v in levels if v != start and any(w in v.lower() for w in EVENT_WORDS)]
    return {
        "kind": "first of",
        "start": None if start is None else f"first {start}",
        "events": [{"column": f"first {v}", "name": v} for v in events],
        "last_contact": "last seen",
    }


def _varies(table: Table, key: np.ndarray, column: TextColumn) -> float:
    """The share of subjects with several rows in which a column has several values."""
    own = column.codes
    there = (key >= 0) & (own >= 0)
    levels = max(len(column.levels), 1)
    kinds = np.bincount(np.unique(key[there] * levels + own[there]) // levels)
    rows = np.bincount(key[there])
    several = rows > 1
    return float((kinds[: several.size][several] > 1).mean()) if several.any() else 0.0


def _periods(table: Table) -> Iterator[LayoutGuess]:
    """Several rows for each subject, each from an entry to an end that the next begins at."""
    # Names are sought first, each once: of many columns there are millions of pairs.
    pairs = (
        (table.column(start), table.column(end))
        for kind in (NumberColumn, DateColumn)
        for start, end in product(
            _named(table, "start", "begin", "from", "entry", "enter", kind=kind),
            _named(table, "stop", "end", "until", "to", "exit", kind=kind),
        )
        if start != end
    )
    for a, b in islice(pairs, 20):
        assert not isinstance(a, TextColumn)
        assert not isinstance(b, TextColumn)
        for subject in table.columns[:3]:
            if subject in (a, b) or isinstance(subject, DateColumn):
                continue
            key = keys_of(table, [subject.name])
            distinct = np.unique(key[key >= 0]).size
            if distinct == 0 or (key >= 0).sum() < 1.2 * distinct:
                continue
            x, y = (c.days if isinstance(c, DateColumn) else c.values for c in (a, b))
            order = np.lexsort((x, key))
            same = (key[order][1:] == key[order][:-1]) & (key[order][1:] >= 0)
            joined = np.isclose(x[order][1:], y[order][:-1])
            if not same.any() or joined[same].mean() < 0.7:
                continue
            if isinstance(a, DateColumn):
                yield _dated_periods(a.name, b.name, subject.name)
                return
            yield LayoutGuess(
                "periods",
                f"{subject.name} has several rows, and in "
                f"{share_of_rows(float(joined[same].mean()))} of them {a.name} is where {b.name} of the "
                "row before left off",
                (),
                (
                    ("clock", Duration(column=b.name).model_dump()),
                    ("late_entry", a.name),
                    ("subject", subject.name),
                    ("several_rows", True),
                ),
            )
            return


def _dated_periods(start: str, end: str, subject: str) -> LayoutGuess:
    first = f"first {start}"
    clock = BetweenDates(start=first, end=end)
    return LayoutGuess(
        "periods",
        f"{subject} has several rows, and {start} is where {end} of the row before left off; the clock "
        f"starts at each one's {first}",
        (FirstBySubject(subject=subject, column=start, into=first),),
        (
            ("clock", clock.model_dump()),
            ("late_entry", start),
            ("subject", subject),
            ("several_rows", True),
        ),
    )


def _visits(table: Table) -> Iterator[LayoutGuess]:
    """Visits, unless rows have an entry and an end of their own."""
    if next(_periods(table), None) is None:
        yield from visits(table)


def _outcomes(table: Table) -> Iterator[LayoutGuess]:
    """Several times, each with an outcome of its own name: one of them is followed."""
    left_open = {o.field: o.columns for o in proposal(table).left_open}
    times = left_open.get("clock.column", ())
    ends = left_open.get("outcome", ())
    pairs = [(t, e) for t in times for e in ends if _stem(t) & _stem(e)]
    if len(pairs) < 2 or len({t for t, _ in pairs}) < len(pairs):
        return
    for time, end in pairs:
        left = [pair for pair in pairs if pair != (time, end)]
        others = " and ".join(f"{t} with {e}" for t, e in left)
        waits = [
            OtherFollowUp(clock=Duration(column=t), unit=unit_in(table, t), outcome=e)
            for t, e in left
        ]
        yield LayoutGuess(
            "one of several outcomes",
            f"{time} goes with {end}. {others} waits, and can be followed in its place at any time",
            (),
            (
                ("clock", Duration(column=time).model_dump()),
                ("unit", unit_in(table, time)),
                ("outcome", end),
                ("meanings", {}),
                ("others", [other.model_dump() for other in waits]),
            ),
            f"{time} and {end}",
        )


def _stem(name: str) -> set[str]:
    """The words of a name that state which event it is the time or the outcome of."""
    return {w for w in words_of(name) if w not in UNIT_WORDS and w not in NO_STEM}


def _counts(table: Table) -> Iterator[LayoutGuess]:
    for name in _named(table, *COUNT_WORDS, kind=NumberColumn) + [
        c.name for c in table.columns if c.name.lower() in COUNT_NAMES
    ]:
        column = table.column(name)
        if (
            not whole_numbers(column)
            or not isinstance(column, NumberColumn)
            or column.values.max() <= 1
        ):
            continue
        if any(w in name.lower() for w in ("kg", "body")):
            continue
        total = int(np.nansum(column.values))
        found = proposal(table)
        spent = {*found.statement.spent, name}
        alone = found.statement.outcome is None and not could_be_outcome(table, spent)
        yield LayoutGuess(
            "counts",
            f"{name} holds whole numbers that add up to {grouped(total)}: each row may stand for so many "
            "identical subjects"
            + (", and as no column holds an outcome, all had the event" if alone else ""),
            (),
            (("count", name), *((("ended", "everyone"),) if alone else ())),
        )
        return
