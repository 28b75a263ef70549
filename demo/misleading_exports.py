"""Made-up exports whose first reading gives a plausible curve that is not the truth."""

import io
import json
from collections.abc import Callable
from datetime import date, timedelta

import numpy as np
import pyarrow as pa
import xlsxwriter
from pyarrow import parquet

from made_up import ROWS, Extract, Truth, ended, truth
from made_up import lines as as_lines

FIRST = date(2019, 3, 4)
EPOCH = date(1960, 1, 1)


def _starts(seed: int) -> list[date]:
    rng = np.random.default_rng(seed + 1)
    return [FIRST + timedelta(days=int(k)) for k in rng.integers(0, 300, ROWS)]


def stays_beside_the_time(seed: int) -> Extract:
    """Columns that end in a unit beside the follow-up, whose name does not."""
    t, rng = truth(seed), np.random.default_rng(seed)
    rows = [
        f"{k},{rng.integers(1, 20)},{rng.integers(5, 90)},{rng.integers(1, 9)},{t.days[k]},{ended(t, k)},"
        f"{t.group[k]}"
        for k in range(ROWS)
    ]
    head = "hen_no,icu_days,distance_km,eggs_per_day,followup,status,colour"
    return Extract("stays_beside_the_time.csv", as_lines(head, *rows), t)


def points_for_thousands(seed: int) -> Extract:
    """Hours such as 1.087, beside weights such as 5,6."""
    t, rng = truth(seed), np.random.default_rng(seed)
    hours = t.days * 10 + 1_000
    rows = [
        f"L{k};{hours[k] // 1000}.{hours[k] % 1000:03d};{rng.integers(40, 90)},{k % 10};"
        f"{ended(t, k)};{t.group[k]}"
        for k in range(ROWS)
    ]
    data = as_lines("lamp;hours;weight;status;colour", *rows)
    return Extract("points_for_thousands.csv", data, Truth(hours, t.event, t.group))


def visits_in_rows(seed: int) -> Extract:
    """A row for each visit: who, on which day, in which state."""
    t, rng = truth(seed), np.random.default_rng(seed)
    rows = []
    for k in range(ROWS):
        days = np.unique([0, *rng.integers(1, t.days[k], 4), t.days[k]])
        rows += [
            f"P{k:02d},{day},{ended(t, k) if day == days[-1] else 'alive'},{t.group[k]}"
            for day in days
        ]
    return Extract("visits_in_rows.csv", as_lines("plant,day,state,colour", *rows), t)


def visits_in_columns(seed: int) -> Extract:
    """A pair of columns for each visit."""
    t, rng = truth(seed), np.random.default_rng(seed)
    rows = []
    for k in range(ROWS):
        days = np.sort(rng.choice(np.arange(1, t.days[k]), 2, replace=False))
        cells = [f"{day},alive" for day in days] + [f"{t.days[k]},{ended(t, k)}"]
        rows.append(f"P{k:02d},{t.group[k]},{','.join(cells)}")
    head = "plant,colour,v1 day,v1 state,v2 day,v2 state,v3 day,v3 state"
    return Extract("visits_in_columns.csv", as_lines(head, *rows), t)


def event_by_its_date(seed: int) -> Extract:
    """The last contact is after the event that only its date shows."""
    t, starts = truth(seed), _starts(seed)
    rows = []
    for k, start in enumerate(starts):
        end = start + timedelta(days=int(t.days[k]))
        last = end + timedelta(days=90) if t.event[k] else end
        rows.append(f"P{k:02d},{start},{last},{end if t.event[k] else ''},{t.group[k]}")
    head = "plant,enrolled,last contact,death date,colour"
    return Extract("event_by_its_date.csv", as_lines(head, *rows), t)


def long_identifiers(seed: int) -> Extract:
    """Subjects named by whole numbers that a float cannot distinguish."""
    t, out = truth(seed), io.BytesIO()
    table = {
        "subject": pa.array([2**53 + k for k in range(ROWS)]), "days": t.days,
        "status": [ended(t, k) for k in range(ROWS)], "colour": list(t.group),
    }  # fmt: skip
    parquet.write_table(pa.table(table), out)
    return Extract("long_identifiers.parquet", out.getvalue(), t)


def durations(seed: int) -> Extract:
    """Times that the file itself declares as durations."""
    t, out = truth(seed), io.BytesIO()
    table = {
        "lamp": [f"L{k}" for k in range(ROWS)], "time": pa.array(t.days * 86_400, pa.duration("s")),
        "status": [ended(t, k) for k in range(ROWS)], "colour": list(t.group),
    }  # fmt: skip
    parquet.write_table(pa.table(table), out)
    return Extract("durations.parquet", out.getvalue(), t)


def declared_dates(seed: int) -> Extract:
    """Numbers that the data set shows as dates."""
    t, starts = truth(seed), _starts(seed)
    shown = {"dataType": "integer", "displayFormat": "DATE9."}
    columns = [
        {"name": "ID", "dataType": "string"}, {"name": "STARTDT", **shown}, {"name": "LASTDT", **shown},
        {"name": "STATUS", "dataType": "string"}, {"name": "colour", "dataType": "string"},
    ]  # fmt: skip
    rows = [
        [
            f"P{k}",
            (start - EPOCH).days,
            (start - EPOCH).days + int(t.days[k]),
            ended(t, k),
            t.group[k],
        ]
        for k, start in enumerate(starts)
    ]
    made = {
        "datasetJSONVersion": "1.1.0",
        "records": ROWS,
        "name": "A",
        "columns": columns,
        "rows": rows,
    }
    return Extract("declared_dates.json", json.dumps(made).encode(), t)


def merged_groups(seed: int) -> Extract:
    """A workbook whose groups are merged cells."""
    t, out = truth(seed), io.BytesIO()
    order = np.argsort(np.array(t.group), kind="stable")
    found = Truth(t.days[order], t.event[order], tuple(t.group[k] for k in order))
    with xlsxwriter.Workbook(out, {"default_date_format": "yyyy-mm-dd"}) as book:
        book.set_properties({"created": FIRST})
        sheet = book.add_worksheet("Bench")
        sheet.write_row(0, 0, ["colour", "lamp", "days", "status"])
        for k in range(ROWS):
            sheet.write_row(1 + k, 1, [f"L{k}", int(found.days[k]), ended(found, k)])
        half = found.group.count("amber")
        sheet.merge_range(1, 0, half, 0, "amber")
        sheet.merge_range(half + 1, 0, ROWS, 0, "clear")
    return Extract("merged_groups.xlsx", out.getvalue(), found)


def several_dates_in_a_cell(seed: int) -> Extract:
    """The dates of all visits in one cell."""
    t, starts = truth(seed), _starts(seed)
    rows = []
    for k, start in enumerate(starts):
        between, end = start + timedelta(days=5), start + timedelta(days=int(t.days[k]))
        rows.append(f"P{k},{start},{between}; {end},{ended(t, k)},{t.group[k]}")
    head = "plant,planted,visits,status,colour"
    return Extract("several_dates_in_a_cell.csv", as_lines(head, *rows), t)


def short_years_first(seed: int) -> Extract:
    """Dates such as 19-03-04, the year first."""
    t, starts = truth(seed), _starts(seed)
    rows = []
    for k, start in enumerate(starts):
        end = start + timedelta(days=int(t.days[k]))
        rows.append(f"P{k},{start:%y-%m-%d},{end:%y-%m-%d},{ended(t, k)},{t.group[k]}")
    head = "plant,planted,last seen,status,colour"
    return Extract("short_years_first.csv", as_lines(head, *rows), t)


def still_going(seed: int) -> Extract:
    """A blank end where the follow-up went on until the file was made."""
    t, starts = truth(seed), _starts(seed)
    closing = max(start + timedelta(days=int(d)) for start, d in zip(starts, t.days, strict=True))
    rows, days = [], t.days.copy()
    for k, start in enumerate(starts):
        end = start + timedelta(days=int(t.days[k]))
        if not t.event[k]:
            days[k] = (closing - start).days
        rows.append(f"P{k},{start},{end if t.event[k] else ''},{int(t.event[k])},{t.group[k]}")
    head = "plant,planted,last seen,event,colour"
    longest = int(np.argmax(days))
    rows[longest] = (
        f"P{longest},{starts[longest]},{closing},{int(t.event[longest])},{t.group[longest]}"
    )
    days[longest] = (closing - starts[longest]).days
    return Extract("still_going.csv", as_lines(head, *rows), Truth(days, t.event, t.group))


def unquoted_decimal_commas(seed: int) -> Extract:
    """Days with a decimal comma in a file of commas."""
    t = truth(seed)
    rows = [f"L{k},{t.days[k]},{1 + k % 9},{ended(t, k)},{t.group[k]}" for k in range(ROWS)]
    tenths = np.array([t.days[k] * 10 + 1 + k % 9 for k in range(ROWS)])
    data = as_lines("lamp,days,status,colour", *rows)
    return Extract("unquoted_decimal_commas.csv", data, Truth(tenths, t.event, t.group))


def two_outcomes(seed: int) -> Extract:
    """Two times, each with an outcome of its own."""
    t, other = truth(seed), truth(seed + 100)
    rows = [
        f"P{k},{t.days[k]},{int(t.event[k])},{min(other.days[k], t.days[k])},{int(other.event[k])},"
        f"{t.group[k]}"
        for k in range(ROWS)
    ]
    head = "plant,os_days,os_status,pfs_days,pfs_status,colour"
    return Extract("two_outcomes.csv", as_lines(head, *rows), t)


def a_group_and_no_outcome(seed: int) -> Extract:
    """Times of failures alone, beside a group of two values."""
    t = truth(seed)
    rows = [f"P{k},{t.days[k]},{t.group[k]}" for k in range(ROWS)]
    every = Truth(t.days, np.ones(ROWS, dtype=bool), t.group)
    return Extract("a_group_and_no_outcome.csv", as_lines("pump,days,colour", *rows), every)


EXPORTS: dict[str, Callable[[int], Extract]] = {
    made.__name__: made
    for made in (
        stays_beside_the_time, points_for_thousands, visits_in_rows, visits_in_columns, event_by_its_date,
        long_identifiers, durations, declared_dates, merged_groups, several_dates_in_a_cell,
        short_years_first, still_going, unquoted_decimal_commas, two_outcomes, a_group_and_no_outcome,
    )
}  # fmt: skip
"""What misleads in a file, and how such a one is made from a seed."""
