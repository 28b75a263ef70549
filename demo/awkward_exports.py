"""Made-up exports in the ways people spoil them, each with the follow-up that it holds."""

import gzip
import io
import json
import zipfile
from collections.abc import Callable
from datetime import date, timedelta

import numpy as np
import pyarrow as pa
from pyarrow import parquet

from made_up import ROWS, Extract, Truth, ended, truth
from made_up import lines as as_lines

FIRST = date(2019, 3, 4)
SERIAL_DAY_ZERO = date(1899, 12, 30)


def _plain(t: Truth) -> list[str]:
    return [f"L{k + 1:03d},{t.days[k]},{ended(t, k)},{t.group[k]}" for k in range(t.days.size)]


def units_row(seed: int) -> Extract:
    """A line of units under the names."""
    t = truth(seed)
    data = as_lines("lamp,time,status,colour", ",days,,", *_plain(t))
    return Extract("units_row.csv", data, t)


def second_header(seed: int) -> Extract:
    """A line of labels under the names."""
    t = truth(seed)
    labels = (
        "Lamp identifier,Time until burnt out or last seen (days),State at the end,Colour of glass"
    )
    return Extract("second_header.csv", as_lines("lamp,time,status,colour", labels, *_plain(t)), t)


def groups_above(seed: int) -> Extract:
    """Names that repeat under a line of headings."""
    t, rng = truth(seed), np.random.default_rng(seed)
    lines = [",Baseline,,Last contact,", "lamp,volts,state,volts,state"]
    days = t.days
    lines = [",,Baseline,,Last contact,,", "lamp,colour,volts,state,volts,days,state"]
    for k in range(days.size):
        low, high = rng.integers(190, 240, 2)
        lines.append(f"L{k + 1:03d},{t.group[k]},{low},new,{high},{days[k]},{ended(t, k)}")
    return Extract("groups_above.csv", as_lines(*lines), t)


def inner_rows(seed: int) -> Extract:
    """The header again in the middle, subtotals, and footnotes between rows."""
    t = truth(seed)
    rows = _plain(t)
    body = [
        *rows[:20],
        f"Subtotal,{t.days[:20].sum()},,",
        *rows[20:40],
        "* days counted from the first switching on,,,",
        "lamp,time,status,colour",
        *rows[40:],
        f"Total,{t.days.sum()},,",
    ]
    return Extract("inner_rows.csv", as_lines("lamp,time,status,colour", *body), t)


def filled_once(seed: int) -> Extract:
    """The group named in the first row of its block only."""
    t = truth(seed)
    order = np.argsort(np.array(t.group), kind="stable")
    sorted_truth = Truth(t.days[order], t.event[order], tuple(t.group[k] for k in order))
    lines, last = [], ""
    for k in range(ROWS):
        group = sorted_truth.group[k]
        lines.append(
            f"{group if group != last else ''},L{k + 1:03d},{sorted_truth.days[k]},"
            f"{'dead' if sorted_truth.event[k] else 'alive'}"
        )
        last = group
    return Extract("filled_once.csv", as_lines("colour,lamp,time,status", *lines), sorted_truth)


def years_and_months(seed: int) -> Extract:
    """Times such as 3y 4m."""
    rng = np.random.default_rng(seed)
    months = 1 + rng.integers(0, 70, ROWS)
    base = truth(seed)
    lines = []
    for k in range(ROWS):
        years, left = divmod(int(months[k]), 12)
        shown = " ".join([f"{years}y"] * bool(years) + [f"{left}m"] * bool(left))
        lines.append(f"L{k + 1:03d},{shown},{'dead' if base.event[k] else 'alive'},{base.group[k]}")
    days = np.asarray(months)
    return Extract("years_and_months.csv", as_lines("lamp,time,status,colour", *lines),
                  Truth(days, base.event, base.group))  # fmt: skip


def plus_for_censored(seed: int) -> Extract:
    """Times such as 127+ for those still followed, and no column of outcomes."""
    t = truth(seed)
    lines = [
        f"L{k + 1:03d},{t.days[k]}{'' if t.event[k] else '+'},{t.group[k]}" for k in range(ROWS)
    ]
    return Extract("plus_for_censored.csv", as_lines("lamp,days,colour", *lines), t)


def hours_and_minutes(seed: int) -> Extract:
    """Times such as 127:45."""
    t = truth(seed)
    rng = np.random.default_rng(seed)
    minutes = 30 + rng.integers(0, 30_000, ROWS)
    lines = [
        f"L{k + 1:03d},{minutes[k] // 60}:{minutes[k] % 60:02d},{ended(t, k)},{t.group[k]}"
        for k in range(ROWS)
    ]
    return Extract("hours_and_minutes.csv", as_lines("lamp,time,status,colour", *lines),
                  Truth(np.asarray(minutes), t.event, t.group))  # fmt: skip


def intervals(seed: int) -> Extract:
    """Rows (start, stop] written in one cell, as 0-120."""
    t = truth(seed)
    lines = [f"L{k + 1:03d},0-{t.days[k]},{ended(t, k)},{t.group[k]}" for k in range(ROWS)]
    return Extract("intervals.csv", as_lines("lamp,interval,status,colour", *lines), t)


def crosses(seed: int) -> Extract:
    """A cross where the event was, nothing elsewhere."""
    t = truth(seed)
    lines = [
        f"L{k + 1:03d},{t.days[k]},{'x' if t.event[k] else ''},{t.group[k]}" for k in range(ROWS)
    ]
    return Extract("crosses.csv", as_lines("lamp,days,burnt out,colour", *lines), t)


def serials_among_dates(seed: int) -> Extract:
    """Some dates became the day numbers of a spreadsheet."""
    t, rng = truth(seed), np.random.default_rng(seed)
    lines = []
    for k in range(ROWS):
        start = FIRST + timedelta(days=int(rng.integers(0, 300)))
        end = start + timedelta(days=int(t.days[k]))
        shown = str((end - SERIAL_DAY_ZERO).days) if k % 5 == 2 else end.isoformat()
        lines.append(f"L{k + 1:03d},{start},{shown},{ended(t, k)},{t.group[k]}")
    data = as_lines("lamp,switched on,last seen,status,colour", *lines)
    return Extract("serials_among_dates.csv", data, t)


def named_months(seed: int) -> Extract:
    """Dates such as 2023-Jun-30, 3. März 2021 and 5 juin 2020."""
    t, rng = truth(seed), np.random.default_rng(seed)
    german = ["Jan.", "Februar", "März", "April", "Mai", "Juni", "Juli", "Aug.", "September", "Okt.",
              "November", "Dezember"]  # fmt: skip
    english = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"]
    french = ["janvier", "févr.", "mars", "avril", "mai", "juin", "juil.", "août", "sept.", "octobre",
              "nov.", "décembre"]  # fmt: skip
    lines = []
    for k in range(ROWS):
        start = FIRST + timedelta(days=int(rng.integers(0, 300)))
        end = start + timedelta(days=int(t.days[k]))
        own = f"{start.year}-{english[start.month - 1]}-{start.day:02d}"
        months = german if k % 2 else french
        last = f"{end.day}{'.' if k % 2 else ''} {months[end.month - 1]} {end.year}"
        lines.append(f"L{k + 1:03d},{own},{last},{ended(t, k)},{t.group[k]}")
    data = as_lines("lamp,switched on,last seen,status,colour", *lines)
    return Extract("named_months.csv", data, t)


def gzipped(seed: int) -> Extract:
    """One table, compressed."""
    t = truth(seed)
    data = gzip.compress(as_lines("lamp,time_days,status,colour", *_plain(t)), mtime=0)
    return Extract("gzipped.csv.gz", data, t)


def zipped(seed: int) -> Extract:
    """One table in an archive, beside what an operating system leaves there."""
    t, out = truth(seed), io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in (
            ("__MACOSX/._lamps.csv", b"\x00\x05\x16\x07"),
            ("export/lamps.csv", as_lines("lamp,time_days,status,colour", *_plain(t))),
        ):
            archive.writestr(zipfile.ZipInfo(name, (2021, 1, 1, 0, 0, 0)), data)
    return Extract("zipped.zip", out.getvalue(), t)


def lists_in_json(seed: int) -> Extract:
    """Records of which one value is a list and one a record."""
    t = truth(seed)
    records = [
        {
            "lamp": f"L{k + 1:03d}", "days": int(t.days[k]), "status": ended(t, k),
            "colour": t.group[k], "readings": [k, k + 1], "bench": {"row": k % 4},
        }
        for k in range(ROWS)
    ]  # fmt: skip
    return Extract("lists.json", json.dumps(records).encode(), t)


def lists_in_parquet(seed: int) -> Extract:
    """A column of lists in Parquet."""
    t, out = truth(seed), io.BytesIO()
    table = pa.table({
        "lamp": [f"L{k + 1:03d}" for k in range(ROWS)], "days": t.days,
        "status": ["dead" if e else "alive" for e in t.event], "colour": list(t.group),
        "readings": [[k, k + 1] for k in range(ROWS)],
    })  # fmt: skip
    parquet.write_table(table, out)
    return Extract("lists.parquet", out.getvalue(), t)


def two_columns_of_outcome(seed: int) -> Extract:
    """Whether it ended in one column, and of what in another."""
    t = truth(seed)
    lines = [
        f"L{k + 1:03d},{t.days[k]},{int(t.event[k])},"
        f"{('burnt', 'broken')[k % 3 == 0] if t.event[k] else ''},{t.group[k]}"
        for k in range(ROWS)
    ]
    return Extract("two_columns.csv", as_lines("lamp,days,ended,reason,colour", *lines), t)


def entered_twice(seed: int) -> Extract:
    """Subjects with two rows that differ in a cell or two, each dated."""
    t = truth(seed)
    lines = []
    for k in range(ROWS):
        ends = ended(t, k)
        if k % 12 == 3:
            lines.append(
                f"L{k + 1:03d},{max(int(t.days[k]) - 15, 1)},alive,{t.group[k]},2020-01-{k % 28 + 1:02d}"
            )
        lines.append(f"L{k + 1:03d},{t.days[k]},{ends},{t.group[k]},2021-02-{k % 28 + 1:02d}")
    data = as_lines("lamp,days,status,colour,entered on", *lines)
    return Extract("entered_twice.csv", data, t)


EXPORTS: dict[str, Callable[[int], Extract]] = {
    made.__name__: made
    for made in (
        units_row, second_header, groups_above, inner_rows, filled_once, years_and_months,
        plus_for_censored, hours_and_minutes, intervals, crosses, serials_among_dates, named_months,
        gzipped, zipped, lists_in_json, lists_in_parquet, two_columns_of_outcome, entered_twice,
    )
}  # fmt: skip
"""What a file is spoiled by, and how such a one is made from a seed."""
