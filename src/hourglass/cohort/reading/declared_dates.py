"""Dates that a Dataset-JSON file declares by how a number is to be shown: days or seconds since 1960."""

import re
from collections.abc import Mapping
from datetime import date, datetime, timedelta
from decimal import Decimal
from typing import Any, Literal

Counted = Literal["days", "seconds"]

FIRST = date(1960, 1, 1)
INSTANTS = re.compile(r"^(DATETIME|E8601DT|IS8601DT|B8601DT|DATEAMPM|MDYAMPM)", re.IGNORECASE)
DAYS = re.compile(
    r"^(DATE|DDMMYY|MMDDYY|YYMMDD|E8601DA|IS8601DA|B8601DA|WORDDAT|WEEKDAT|JULIAN|JULDAY|MONYY|YYMON)",
    re.IGNORECASE,
)
FARTHEST = 4_000_000
"""Days from the first that the calendar still has."""


def counted_as(column: Mapping[str, Any]) -> Counted | None:
    """What the numbers of a column count since 1960; None where it declares no dates."""
    shown = str(column.get("displayFormat") or "").strip()
    kind = str(column.get("dataType") or column.get("type") or "")
    if INSTANTS.match(shown) or kind == "datetime":
        return "seconds"
    return "days" if DAYS.match(shown) or kind == "date" else None


def as_date(value: Any, counted: Counted) -> Any:
    """A number as the date it stands for, written year first; anything else as it is."""
    if isinstance(value, bool) or not isinstance(value, int | float | Decimal):
        return value
    days, seconds = (float(value), 0.0) if counted == "days" else divmod(float(value), 86_400)
    if not abs(days) < FARTHEST or FIRST.toordinal() + days < 1:
        return value
    day = FIRST + timedelta(days=int(days))
    if not seconds:
        return day.isoformat()
    return (datetime(day.year, day.month, day.day) + timedelta(seconds=seconds)).isoformat(" ")
