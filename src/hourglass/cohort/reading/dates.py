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

from hourglass.cohort.table import MICRO, in_whole_units

Order = Literal["day first", "month first", "year first"]
YearFirst = Literal["no", "may be", "only"]
DateDoubt = Literal["either order", "both orders", "not all dates", "some zones"]
Zone = str
"""What a cell without a zone is taken for: an offset such as "+02:00"; or AS_WRITTEN for all cells."""
AS_WRITTEN: Zone = "as written"

TIME = (
    r"(?:[T ]\s*(?P<H>\d{1,2}):(?P<M>\d{2})(?::(?P<S>\d{2})(?:[.,](?P<F>\d+))?)?\s*(?P<half>[AaPp][Mm])?"
    r"\s*(?P<zone>Z|[+-]\d{2}:?\d{2})?)?$"
)
YEAR_FIRST = r"^(?P<y>\d{4})[-/.](?P<m>\d{1,2})[-/.](?P<d>\d{1,2})" + TIME
NUMBERED = r"^(?P<a>\d{1,2})(?P<mark>[-/. ])(?P<b>\d{1,2})[-/. ](?P<y>\d{4}|\d{2})" + TIME
YEAR_NAMED = r"^(?P<y>\d{4})[-/. ](?P<name>[A-Za-zäéûçÄ]{3,10})\.?[-/. ](?P<d>\d{1,2})" + TIME
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
            "jan january januar janvier janv jän jänner enero ene",
            "feb february februar février fevrier févr fevr fév febrero",
            "mar march mär märz mrz mars marzo", "apr april avril avr abril abr", "may mai mayo",
            "jun june juni juin junio", "jul july juli juillet juil julio",
            "aug august août aout aoû agosto ago",
            "sep sept september septembre septiembre", "oct october okt oktober octobre octubre",
            "nov november novembre noviembre",
            "dec december dez dezember déc décembre dic diciembre",
        ),
        start=1,
    )
    for name in names.split()
}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class DateCells:
    """Cells as dates.

    Attributes:
        instants: (n,) datetime64[us] in UTC, NaT where a cell is no date read this way.
        day_first, month_first: (n,) True where the cell can only be read in that order.
        zoned: (n,) True where the cell names a time zone; ``zones`` are those named.
        short_years: whether any year has two digits.
        year_first: whether three numbers of two digits may, or can only, have the year first.
    """

    instants: NDArray[np.datetime64]
    day_first: NDArray[np.bool_]
    month_first: NDArray[np.bool_]
    numbered: NDArray[np.bool_]
    zoned: NDArray[np.bool_]
    zones: tuple[str, ...]
    short_years: bool
    year_first: YearFirst = "no"

    @property
    def known(self) -> NDArray[np.bool_]:
        return ~np.isnat(self.instants)

    @property
    def some_zoned(self) -> bool:
        """Whether some cells name a time zone and others do not."""
        return bool(self.zoned.any() and not self.zoned[self.known].all())

    def values(self) -> NDArray[np.datetime64]:
        """Days; seconds or microseconds if any cell has a time of day."""
        return in_whole_units(self.instants)


def date_cells(
    cells: Any, order: Order = "day first", century_from: int = 1931, zone: Zone = "+00:00"
) -> DateCells:
    """Read cells (an Arrow array of trimmed strings, no nulls) as dates.

    Args:
        order: how to read a numbered date that could be either.
        century_from: a two-digit year is the first such year from here on.
        zone: the offset of cells that name none; AS_WRITTEN passes over those that are named.
    """
    n = len(cells)
    instants = np.full(n, np.datetime64("NaT", "us"))
    none = np.zeros(n, dtype=bool)
    day_first, month_first, numbered, zoned = none.copy(), none.copy(), none.copy(), none.copy()
    zones: set[str] = set()
    short = False
    year_first: YearFirst = "no"
    for regex in (YEAR_FIRST, NUMBERED, YEAR_NAMED, DAY_NAMED, NAMED_DAY):
        fits = pc.match_substring_regex(cells, regex).to_numpy(zero_copy_only=False)
        todo = np.flatnonzero(fits & np.isnat(instants))
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
            last = _whole(parts, "y")
            year_first = _year_first(a, b, last, two, parts)
            if order == "year first":
                years = century_from + (a - century_from) % 100
                year, month, day = (
                    np.where(two, one, other)
                    for one, other in ((years, year), (b, month), (last, day))
                )
        elif regex is YEAR_FIRST:
            day, month = _whole(parts, "d"), _whole(parts, "m")
        else:
            day, month = _whole(parts, "d"), _months(pc.struct_field(parts, "name"))
        instants[todo] = _midnights(year, month, day) + _clock(parts, zone)
        named = pc.struct_field(parts, "zone")
        zoned[todo] = pc.not_equal(named, "").to_numpy(zero_copy_only=False)
        zones |= set(pc.unique(named).to_pylist()) - {""}
    zoned &= ~np.isnat(instants)
    return DateCells(
        instants=instants,
        day_first=day_first,
        month_first=month_first,
        numbered=numbered,
        zoned=zoned,
        zones=tuple(sorted(zones)),
        short_years=short,
        year_first=year_first,
    )


def _year_first(
    a: NDArray[np.int64],
    b: NDArray[np.int64],
    last: NDArray[np.int64],
    two: NDArray[np.bool_],
    parts: Any,
) -> YearFirst:
    """Whether numbers such as 19-03-12 may have the year first: none speaks against it, and the first do not
    spread as days do beside few years at the end."""
    points = pc.any(pc.equal(pc.struct_field(parts, "mark"), ".")).as_py()
    if not two.all() or points or ((b < 1) | (b > 12) | (last < 1) | (last > 31)).any():
        return "no"
    if (a > 31).any() or (a == 0).any():
        return "only"
    return "no" if np.unique(a).size >= 2 * np.unique(last).size else "may be"


def doubt_of(found: DateCells) -> DateDoubt | None:
    """Why the cells cannot all be read as dates without asking, or None if they can."""
    if not found.known.all():
        return "not all dates"
    if found.year_first == "may be":
        return "either order"
    if found.day_first.any() and found.month_first.any():
        return "both orders"
    if found.numbered.any() and not found.day_first.any() and not found.month_first.any():
        return "either order"
    if found.some_zoned:
        return "some zones"
    return None


def order_of(found: DateCells) -> Order:
    """The order that the deciding cells speak for."""
    if found.year_first == "only":
        return "year first"
    return "month first" if found.month_first.any() else "day first"


def _midnights(
    year: NDArray[np.int64], month: NDArray[np.int64], day: NDArray[np.int64]
) -> NDArray[np.datetime64]:
    """Midnights of the days, NaT for a day that the calendar does not have."""
    fine = (month >= 1) & (month <= 12) & (day >= 1)
    months = ((year - 1970) * 12 + np.where(fine, month, 1) - 1).astype("datetime64[M]")
    days = months.astype("datetime64[D]") + (day - 1)
    fine &= days.astype("datetime64[M]") == months
    return np.where(fine, days, np.datetime64("NaT")).astype("datetime64[us]")


def _clock(parts: Any, zone: Zone) -> NDArray[np.timedelta64]:
    """Microseconds since midnight in UTC; NaT for a time that no clock shows."""
    hour, minute, second = (_whole(parts, name) for name in "HMS")
    half = pc.utf8_lower(pc.struct_field(parts, "half")).to_numpy(zero_copy_only=False)
    wrong = (minute > 59) | (second > 60) | (hour > 24) | ((half != "") & (hour > 12))
    hour = np.where(half != "", hour % 12 + np.where(half == "pm", 12, 0), hour)
    if zone == AS_WRITTEN:
        shift = np.zeros(hour.size, dtype=np.int64)
    else:
        named = pc.struct_field(parts, "zone")
        shift = _shift(pc.if_else(pc.equal(named, ""), zone, named))
    total = (hour * 3600 + minute * 60 + second - shift) * MICRO + _fraction(parts)
    return np.where(wrong, np.timedelta64("NaT"), total.astype("timedelta64[us]"))


def _shift(zones: Any) -> NDArray[np.int64]:
    """Seconds that local time is ahead of UTC, for offsets such as +02:00, -0330 and Z."""
    digits = pc.replace_substring_regex(zones, r"[^\d]", "")
    offset = pc.cast(pc.if_else(pc.equal(digits, ""), "0", digits), pa.int64()).to_numpy(
        zero_copy_only=False
    )
    west = pc.starts_with(zones, "-").to_numpy(zero_copy_only=False)
    return np.asarray((offset // 100 * 3600 + offset % 100 * 60) * np.where(west, -1, 1))


def _fraction(parts: Any) -> NDArray[np.int64]:
    """Microseconds of the second's fraction; digits past the sixth are cut off."""
    six = pc.utf8_slice_codeunits(pc.utf8_rpad(pc.struct_field(parts, "F"), 6, "0"), 0, 6)
    return np.asarray(pc.cast(six, pa.int64()).to_numpy(zero_copy_only=False))


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
