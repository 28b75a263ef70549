"""Working a formula out for every row at once; what is not defined is missing."""

import re
import time
from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import date
from typing import Literal as OneOf

import numpy as np
from numpy.typing import NDArray

from hourglass.cohort.formula.parse import COMPARISONS, parse
from hourglass.cohort.formula.tokens import FormulaError
from hourglass.cohort.formula.tree import ColumnName, Literal, Operation, Tree
from hourglass.cohort.table import (
    DAY,
    MICRO,
    Column,
    DateColumn,
    NumberColumn,
    Table,
    TextColumn,
    decimals_in,
    in_whole_units,
)
from hourglass.core.progress import ProgressCallback, no_progress

Kind = OneOf["number", "text", "date", "truth", "nothing"]
FARTHEST = 2_932_896
"""Days from 1970 beyond which the calendar has no date: the last is 9999-12-31."""
WRITTEN_DATE = re.compile(r"\d{4}-\d{2}-\d{2}", re.ASCII)
MAX_SECONDS, MAX_HELD = 20.0, 1 << 30
"""Seconds that a formula may take on all rows, and bytes of values that wait in it to be used."""
EPOCH = date(1970, 1, 1)
WORDS: dict[Kind, str] = {
    "number": "a number",
    "text": "a text",
    "date": "a date",
    "truth": "a condition",
    "nothing": "missing",
}


@dataclass(frozen=True, slots=True)
class Value:
    """What a part of a formula comes to.

    Attributes:
        data: (n,) or () floats, NaN where missing: numbers; days since 1970 for dates; 1 and 0
            for conditions; places in ``levels`` for texts.
    """

    kind: Kind
    data: NDArray[np.float64]
    levels: tuple[str, ...] = ()


def formula_column(
    name: str, formula: str, table: Table, progress: ProgressCallback = no_progress
) -> Column:
    """A new column by a formula. Conditions become the texts "yes" and "no".

    Raises:
        FormulaError: pointing at what is wrong.
    """
    tree = parse(formula)
    value = _value(tree, table, lambda share: progress(f"working out {name}", share))
    data = np.broadcast_to(value.data, (table.size,)).copy()
    data[~np.isfinite(data)] = np.nan
    match value.kind:
        case "number" | "nothing":
            return NumberColumn(name=name, values=data, decimals=decimals_in(data))
        case "date":
            return DateColumn(name=name, values=_dates(data))
        case "truth":
            codes = np.where(np.isnan(data), -1, data).astype(np.int32)
            return TextColumn(name=name, codes=codes, levels=("no", "yes"))
        case "text":
            codes = np.where(np.isnan(data), -1, data).astype(np.int32)
            return TextColumn(name=name, codes=codes, levels=value.levels)


def _dates(days: NDArray[np.float64]) -> NDArray[np.datetime64]:
    gone = np.isnan(days) | (np.abs(days) > FARTHEST)
    exact = np.where(gone, 0, days) * DAY * MICRO
    seconds = np.round(exact / MICRO) * MICRO
    # A number of days resolves no less than a microsecond or two: so near a second it is the second.
    instants = np.where(np.abs(exact - seconds) <= 2, seconds, np.round(exact))
    dates = instants.astype(np.int64).astype("datetime64[us]")
    dates[gone] = np.datetime64("NaT")
    return in_whole_units(dates)


def _value(tree: Tree, table: Table, reached: Callable[[float], None]) -> Value:
    """What a tree comes to: its parts first, however deep they lie, then what is made of them."""
    waiting: list[tuple[Tree, bool]] = [(tree, False)]
    found: list[Value] = []
    until = time.monotonic() + MAX_SECONDS
    while waiting:
        part, parts_known = waiting.pop()
        reached(part.start / max(tree.end, 1))
        if time.monotonic() > until:
            raise FormulaError(
                f"this takes longer than {MAX_SECONDS:.0f} seconds on so many rows: make columns of "
                "its parts",
                tree.start,
                tree.end,
            )
        if sum(value.data.nbytes for value in found) > MAX_HELD:
            raise FormulaError(
                "this is nested too deeply for so many rows: make columns of its parts",
                tree.start,
                tree.end,
            )
        if not isinstance(part, Operation):
            found.append(_leaf(part, table))
        elif not parts_known:
            waiting.append((part, True))
            waiting += [(inner, False) for inner in reversed(part.parts)]
        else:
            values = found[len(found) - len(part.parts) :]
            del found[len(found) - len(part.parts) :]
            with np.errstate(all="ignore"):
                found.append(_operation(part, values))
    (whole,) = found
    return whole


def _leaf(tree: Literal | ColumnName, table: Table) -> Value:
    if isinstance(tree, Literal):
        if tree.value is None:
            return Value("nothing", np.array(np.nan))
        if isinstance(tree.value, str):
            return Value("text", np.array(0.0), (tree.value,))
        return Value("number", np.array(tree.value))
    return _column(tree, table)


def _column(tree: ColumnName, table: Table) -> Value:
    if not table.has(tree.name):
        raise FormulaError(f"There is no column called “{tree.name}”", tree.start, tree.end)
    column = table.column(tree.name)
    if isinstance(column, NumberColumn):
        return Value("number", column.values)
    if isinstance(column, DateColumn):
        return Value("date", column.days)
    data = np.where(column.codes < 0, np.nan, column.codes.astype(np.float64))
    return Value("text", data, column.levels)


def _operation(tree: Operation, parts: list[Value]) -> Value:
    name = tree.name
    if name == "if":
        return _choose(tree, parts)
    if name in ("and", "or", "not"):
        return _logic(tree, parts)
    if name in ("missing", "present"):
        gone = np.isnan(parts[0].data)
        return Value("truth", (gone if name == "missing" else ~gone).astype(np.float64))
    if name in COMPARISONS:
        return _compare(tree, name, parts[0], parts[1])
    if name == "in":
        return _among(tree, parts)
    if name in ("+", "-"):
        return _add(tree, name, parts)
    if name in ("year", "month"):
        _need(tree, parts, 0, "date")
        return _calendar(name, parts[0])
    if name == "date":
        return _written_date(tree, parts[0])
    for k in range(len(parts)):
        _need(tree, parts, k, "number")
    return Value("number", _arithmetic(name, [part.data for part in parts]))


ARITHMETIC: dict[str, Callable[..., NDArray[np.float64]]] = {
    "*": np.multiply, "/": np.divide, "^": np.float_power, "minus": np.negative, "abs": np.abs,
    "log": np.log, "exp": np.exp, "sqrt": np.sqrt, "floor": np.floor,
}  # fmt: skip


def _arithmetic(name: str, data: list[NDArray[np.float64]]) -> NDArray[np.float64]:
    if name in ("min", "max"):
        found = data[0]
        for other in data[1:]:
            found = np.minimum(found, other) if name == "min" else np.maximum(found, other)
        return found
    if name == "round":
        scale = 10.0 ** np.clip(np.round(data[1]), -12, 12) if len(data) > 1 else np.array(1.0)
        return np.asarray(np.floor(data[0] * scale + 0.5) / scale)
    found = ARITHMETIC[name](*data)
    return np.where(np.isfinite(found), found, np.nan)


def _need(tree: Operation, parts: list[Value], place: int, kind: Kind) -> None:
    part = tree.parts[place]
    if parts[place].kind not in (kind, "nothing"):
        raise FormulaError(
            f"{WORDS[kind].capitalize()} is needed here, and this is {WORDS[parts[place].kind]}",
            part.start,
            part.end,
        )


def _add(tree: Operation, name: str, parts: list[Value]) -> Value:
    left, right = parts
    kinds = (left.kind, right.kind)
    if kinds == ("date", "date") and name == "-":
        return Value("number", left.data - right.data)
    days = ("date", "number") if name == "-" else ("date", "number", "number", "date")
    if kinds in (days[:2], days[2:]):
        return Value("date", left.data + right.data if name == "+" else left.data - right.data)
    if kinds == ("date", "date"):
        raise FormulaError("Two dates cannot be added", tree.start, tree.end)
    for k in range(2):
        _need(tree, parts, k, "number")
    return Value("number", left.data + right.data if name == "+" else left.data - right.data)


def _compare(tree: Operation, mark: str, left: Value, right: Value) -> Value:
    kinds = {left.kind, right.kind} - {"nothing"}
    if len(kinds) > 1:
        raise FormulaError(
            f"{WORDS[left.kind].capitalize()} cannot be compared with {WORDS[right.kind]}",
            tree.start,
            tree.end,
        )
    if kinds == {"text"} and mark not in ("=", "≠"):
        raise FormulaError("Texts can only be compared with = and ≠", tree.start, tree.end)
    if kinds == {"text"}:
        left, right = _same_levels(left, right)
    a, b = np.broadcast_arrays(left.data, right.data)
    holds = {
        "=": np.equal, "≠": np.not_equal, "<": np.less, "≤": np.less_equal,
        ">": np.greater, "≥": np.greater_equal,
    }[mark](a, b)  # fmt: skip
    return Value("truth", np.where(np.isnan(a) | np.isnan(b), np.nan, holds.astype(np.float64)))


def _among(tree: Operation, parts: list[Value]) -> Value:
    """Whether a value is one of several; those that are written out are sought all at once."""
    left, pairs = parts[0], list(zip(parts[1:], tree.parts[1:], strict=True))
    written = [part for part, of in pairs if isinstance(of, Literal) and part.kind != "nothing"]
    nobody = replace(left, data=np.array(np.nan), levels=())
    for part in written:  # kinds that cannot be compared are refused
        _compare(tree, "=", nobody, part)
    found = [
        _compare(tree, "=", left, part).data for part, of in pairs if not isinstance(of, Literal)
    ]
    if written:
        inside = _one_of(left, written)
        found.append(np.where(np.isnan(left.data), np.nan, inside.astype(np.float64)))
    nothing = np.full(left.data.shape, np.nan)
    return Value("truth", np.fmax.reduce(np.broadcast_arrays(nothing, *found)))


def _one_of(left: Value, written: list[Value]) -> NDArray[np.bool_]:
    if left.kind != "text":
        return np.isin(left.data, [float(part.data) for part in written])
    sought = {level for part in written for level in part.levels}
    hit = np.array([*(level in sought for level in left.levels), False])
    return np.asarray(
        hit[np.where(np.isnan(left.data), len(left.levels), left.data).astype(np.int64)]
    )


def _logic(tree: Operation, parts: list[Value]) -> Value:
    """Three-valued: what is decided by the known part is decided."""
    for k in range(len(parts)):
        _need(tree, parts, k, "truth")
    if tree.name == "not":
        return Value("truth", 1 - parts[0].data)
    a, b = np.broadcast_arrays(parts[0].data, parts[1].data)
    decides = 0.0 if tree.name == "and" else 1.0
    unknown = np.isnan(a) | np.isnan(b)
    decided = (a == decides) | (b == decides)
    return Value("truth", np.where(decided, decides, np.where(unknown, np.nan, 1 - decides)))


def _choose(tree: Operation, parts: list[Value]) -> Value:
    test, yes, no = parts
    _need(tree, parts, 0, "truth")
    kinds = {yes.kind, no.kind} - {"nothing"}
    if len(kinds) > 1:
        raise FormulaError(
            f"“then” gives {WORDS[yes.kind]} and “else” {WORDS[no.kind]}: both must be of one kind",
            tree.parts[1].start,
            tree.parts[2].end,
        )
    if kinds == {"text"}:
        yes, no = _same_levels(yes, no)
    data = np.where(np.isnan(test.data), np.nan, np.where(test.data == 1, yes.data, no.data))
    kind: Kind = kinds.pop() if kinds else "nothing"
    return Value(kind, data, yes.levels if kind == "text" else ())


def _same_levels(left: Value, right: Value) -> tuple[Value, Value]:
    levels = tuple(dict.fromkeys([*left.levels, *right.levels]))
    place = {level: k for k, level in enumerate(levels)}

    def moved(value: Value) -> Value:
        new = np.array([*(place[level] for level in value.levels), np.nan])
        known = ~np.isnan(value.data)
        codes = np.where(known, value.data, len(value.levels)).astype(np.int64)
        return Value(value.kind, new[codes], levels)

    return moved(left), moved(right)


def _calendar(name: str, value: Value) -> Value:
    gone = np.isnan(value.data) | (np.abs(value.data) > FARTHEST)
    days = np.floor(np.where(gone, 0, value.data)).astype("datetime64[D]")
    months = days.astype("datetime64[M]").astype(np.int64)
    found = months // 12 + 1970 if name == "year" else months % 12 + 1
    return Value("number", np.where(gone, np.nan, found.astype(np.float64)))


def _written_date(tree: Operation, value: Value) -> Value:
    part = tree.parts[0]
    written = part.value if isinstance(part, Literal) and isinstance(part.value, str) else ""
    try:
        if WRITTEN_DATE.fullmatch(written) is None:  # “now” and “2021” would be other days tomorrow
            raise ValueError
        day = date.fromisoformat(written)
    except ValueError:
        raise FormulaError('Write a date as date("2021-04-30")', part.start, part.end) from None
    return Value("date", np.array(float((day - EPOCH).days)))
