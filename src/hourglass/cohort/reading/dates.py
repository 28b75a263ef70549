"""Written dates: in which order day and month stand, and which days they are.

A column that could be day-first or month-first is never guessed: the cells that decide are
named, and where none decides nobody does.
"""

from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
from numpy.typing import NDArray

from hourglass.cohort.table import days_or_seconds

Order = Literal["day first", "month first"]
DateDoubt = Literal["either order", "both orders", "not all dates"]

TIME = (
    r"(?:[T ]\s*(?P<H>\d{1,2}):(?P<M>\d{2})(?::(?P<S>\d{2})(?:[.,]\d+)?)?\s*(?P<half>[AaPp][Mm])?"
    r"\s*(?P<zone>Z|[+-]\d{2}:?\d{2})?)?$"
)
YEAR_FIRST = r"^(?P<y>\d{4})[-/.](?P<m>\d{1,2})[-/.](?P<d>\d{1,2})" + TIME
NUMBERED = r"^(?P<a>\d{1,2})[-/. ](?P<b>\d{1,2})[-/. ](?P<y>\d{4}|\d{2})" + TIME
DAY_NAMED = (
    r"^(?P<d>\d{1,2})(?:st|nd|rd|th|\.)?[- ./]*(?P<name>[A-Za-zäéûçÄ]{3,10})\.?[-, ./]*(?P<y>\d{4}|\d{2})"
    + TIME
)
NAMED_DAY = (
    r"^(?P<name>[A-Za-z]{3,9})\.?[- ]+(?P<d>\d{1,2})(?:st|nd|rd|th)?,?[- ]+(?P<y>\d{4}|\d{2})"
    + TIME
)
MONTHS = {
    name: k
    for k, names in enumerate(
        (
            "jan january januar janvier enero", "feb february februar février febrero",
            "mar march mär märz mars marzo", "apr april avril abril", "may mai mayo",
            "jun june juni juin junio", "jul july juli juillet julio", "aug august août agosto",
            "sep sept september septembre septiembre", "oct october okt oktober octobre octubre",
            "nov november novembre noviembre",
            "dec december dez dezember déc décembre dic diciembre",
        ),
        start=1,
    )
    for name in names.split()
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class DateCells:
    """What cells say as dates.

    Attributes:
        seconds: (n,) datetime64[s], NaT where a cell is no date read this way.
        day_first, month_first: (n,) True where the cell can only be read in that order.
        zoned: whether any cell names a time zone; ``short_years``: whether any year has two digits.
    """

    seconds: NDArray[np.datetime64]
    day_first: NDArray[np.bool_]
    month_first: NDArray[np.bool_]
    numbered: NDArray[np.bool_]
    zoned: bool
    short_years: bool

    @property
    def known(self) -> NDArray[np.bool_]:
        return ~np.isnat(self.seconds)

    def values(self) -> NDArray[np.datetime64]:
        """Days, or seconds if any cell has a time of day."""
        return days_or_seconds(self.seconds)


def date_cells(cells: Any, order: Order = "day first", century_from: int = 1931) -> DateCells:
    """Read cells (an Arrow array of trimmed strings, no nulls) as dates.

    Args:
        order: how to read a numbered date that could be either.
        century_from: a two-digit year is the first such year from here on.
    """
    n = len(cells)
    seconds = np.full(n, np.datetime64("NaT", "s"))
    none = np.zeros(n, dtype=bool)
    day_first, month_first, numbered = none.copy(), none.copy(), none.copy()
    zoned = short = False
    for regex in (YEAR_FIRST, NUMBERED, DAY_NAMED, NAMED_DAY):
        fits = pc.match_substring_regex(cells, regex).to_numpy(zero_copy_only=False)
        todo = np.flatnonzero(fits & np.isnat(seconds))
        if todo.size == 0:
            continue
        parts = pc.extract_regex(cells.take(pa.array(todo)), regex)
        year = _whole(parts, "y")
        two = pc.equal(pc.utf8_length(pc.struct_field(parts, "y")), 2).to_numpy(
            zero_copy_only=False
        )
        year = np.where(two, century_from + (year - century_from) % 100, year)
        short |= bool(two.any())
        if regex is NUMBERED:
            a, b = _whole(parts, "a"), _whole(parts, "b")
            day_first[todo], month_first[todo] = (a > 12) & (b <= 12), (b > 12) & (a <= 12)
            numbered[todo] = True
            first_is_day = np.where(a > 12, True, np.where(b > 12, False, order == "day first"))
            day, month = np.where(first_is_day, a, b), np.where(first_is_day, b, a)
        elif regex is YEAR_FIRST:
            day, month = _whole(parts, "d"), _whole(parts, "m")
        else:
            day, month = _whole(parts, "d"), _months(pc.struct_field(parts, "name"))
        seconds[todo] = _instants(year, month, day) + _clock(parts)
        zoned |= bool(pc.any(pc.not_equal(pc.struct_field(parts, "zone"), "")).as_py())
    return DateCells(seconds, day_first, month_first, numbered, zoned, short)


def doubt_of(found: DateCells) -> DateDoubt | None:
    """Why the cells cannot all be read as dates without asking, or None if they can."""
    if not found.known.all():
        return "not all dates"
    if found.day_first.any() and found.month_first.any():
        return "both orders"
    if found.numbered.any() and not found.day_first.any() and not found.month_first.any():
        return "either order"
    return None


def order_of(found: DateCells) -> Order:
    """The order that the deciding cells speak for."""
    return "month first" if found.month_first.any() else "day first"


def _instants(
    year: NDArray[np.int64], month: NDArray[np.int64], day: NDArray[np.int64]
) -> NDArray[np.datetime64]:
    """Midnights of the days, NaT for a day that the calendar does not have."""
    fine = (month >= 1) & (month <= 12) & (day >= 1)
    months = ((year - 1970) * 12 + np.where(fine, month, 1) - 1).astype("datetime64[M]")
    days = months.astype("datetime64[D]") + (day - 1)
    fine &= days.astype("datetime64[M]") == months
    return np.where(fine, days, np.datetime64("NaT")).astype("datetime64[s]")


def _clock(parts: Any) -> NDArray[np.timedelta64]:
    """Seconds since midnight in UTC; NaT for a time that no clock shows."""
    hour, minute, second = (_whole(parts, name) for name in "HMS")
    half = pc.utf8_lower(pc.struct_field(parts, "half")).to_numpy(zero_copy_only=False)
    wrong = (minute > 59) | (second > 60) | (hour > 24) | ((half != "") & (hour > 12))
    hour = np.where(half != "", hour % 12 + np.where(half == "pm", 12, 0), hour)
    zone = pc.struct_field(parts, "zone")
    digits = pc.replace_substring_regex(zone, r"[^\d]", "")
    offset = pc.cast(pc.if_else(pc.equal(digits, ""), "0", digits), pa.int64()).to_numpy(
        zero_copy_only=False
    )
    west = pc.starts_with(zone, "-").to_numpy(zero_copy_only=False)
    shift = (offset // 100 * 3600 + offset % 100 * 60) * np.where(west, -1, 1)
    total = (hour * 3600 + minute * 60 + second - shift).astype("timedelta64[s]")
    return np.where(wrong, np.timedelta64("NaT"), total)


def _whole(parts: Any, name: str) -> NDArray[np.int64]:
    digits = pc.struct_field(parts, name)
    return np.asarray(
        pc.cast(pc.if_else(pc.equal(digits, ""), "0", digits), pa.int64()).to_numpy(
            zero_copy_only=False
        )
    )


def _months(names: Any) -> NDArray[np.int64]:
    encoded = pc.utf8_lower(names).dictionary_encode()
    known = np.array([MONTHS.get(name, 0) for name in encoded.dictionary.to_pylist()] or [0])
    return np.asarray(known[encoded.indices.to_numpy(zero_copy_only=False)])
