"""Makes the two demo studies. Everything in them is invented; the seed makes them repeatable.

    python demo/generate.py            writes the files beside this script

The effects set here are shown in docs/demo.md, and a test recovers them from the cleaned file.
"""

import csv
import math
from datetime import date, timedelta
from pathlib import Path

import numpy as np

SEED = 20260305
LAMPS_SEED = 20260226
DAYS_PER_MONTH = 30.4375
CLOSING = date(2024, 6, 30)
FIRST_GRAFT = date(2016, 1, 11)
LAST_GRAFT = date(2021, 12, 15)

CENTRES = {
    "Aldermouth": 0.75,
    "Brackwell": 1.0,
    "Eskdene": 1.35,
    "Thornhaven": 0.9,
    "Wrenlow": 1.15,
}
EXTENDED_DROPS = 0.62
AGE_PER_10_YEARS = 0.94
DONOR_PER_DOUBLING = 0.60
DIABETES = 1.15
PRIOR_GRAFT = 1.60
EYE = 1.0
VESSELS_AT_START = {"none": 1.0, "1-2 quadrants": 2.6, "3-4 quadrants": 6.5}
VESSELS_FADE_MONTHS = 20.0
MONTHLY_RATE = 0.0125
COLUMNS = [
    "graft_no", "grafted_on", "last_seen", "outcome", "drops", "age", "vessels", "donor_cells",
    "diabetes", "prior_graft", "eye", "centre", "joined_on",
]  # fmt: skip


def rejection_month(rng: np.random.Generator, row: dict) -> float:
    """Draw a time to rejection by walking through the months, as the vessels' effect fades."""
    rate = (
        MONTHLY_RATE
        * CENTRES[row["centre"]]
        * (EXTENDED_DROPS if row["drops"] == "extended" else 1)
        * AGE_PER_10_YEARS ** ((row["age"] - 62) / 10)
        * DONOR_PER_DOUBLING ** math.log2(row["donor_cells"] / 2300)
        * (DIABETES if row["diabetes"] == "yes" else 1)
        * (PRIOR_GRAFT if row["prior_graft"] == "yes" else 1)
    )
    strength = math.log(VESSELS_AT_START[row["vessels"]])
    target, cumulative, month, step = rng.exponential(), 0.0, 0.0, 0.1
    while cumulative < target and month < 120:
        cumulative += rate * math.exp(strength * math.exp(-month / VESSELS_FADE_MONTHS)) * step
        month += step
    return month


def graft(rng: np.random.Generator) -> dict:
    """One graft with its covariates and its true course."""
    span = (LAST_GRAFT - FIRST_GRAFT).days
    row = {
        "grafted_on": FIRST_GRAFT + timedelta(days=int(rng.integers(0, span))),
        "drops": str(rng.choice(["standard", "extended"])),
        "age": int(np.clip(round(rng.normal(62, 12)), 24, 93)),
        "vessels": str(rng.choice(list(VESSELS_AT_START), p=[0.52, 0.31, 0.17])),
        "donor_cells": int(np.clip(round(2300 * 2 ** rng.normal(0, 0.30) / 10) * 10, 1300, 3800)),
        "diabetes": "yes" if rng.random() < 0.16 else "no",
        "prior_graft": "yes" if rng.random() < 0.21 else "no",
        "eye": str(rng.choice(["left", "right"])),
        "centre": str(rng.choice(list(CENTRES), p=[0.28, 0.24, 0.19, 0.17, 0.12])),
        "joined_on": None,
    }
    ends = {
        "R": rejection_month(rng, row),
        "D": rng.exponential(1 / (0.0028 * math.exp(0.06 * (row["age"] - 62)))),
        "L": rng.exponential(1 / 0.0045),
        "A": ((CLOSING - row["grafted_on"]).days + 0.5) / DAYS_PER_MONTH,
    }
    row["outcome"] = min(ends, key=lambda code: ends[code])
    days = max(1, math.ceil(ends[row["outcome"]] * DAYS_PER_MONTH))
    row["last_seen"] = min(row["grafted_on"] + timedelta(days=days), CLOSING)
    return row


def late_graft(rng: np.random.Generator) -> dict:
    """A graft that joined the cohort some time after grafting, and so had to last until then."""
    while True:
        row = graft(rng)
        joined = row["grafted_on"] + timedelta(days=int(rng.integers(60, 540)))
        if joined < row["last_seen"]:
            row["joined_on"] = joined
            return row


def larkmoor() -> list[dict]:
    """612 rows: 611 true grafts with planted faults, and one of them entered twice."""
    rng = np.random.default_rng(SEED)
    rows = [graft(rng) for _ in range(597)] + [late_graft(rng) for _ in range(14)]
    rows.sort(key=lambda row: row["grafted_on"])
    for number, row in enumerate(rows, start=1):
        row["graft_no"] = f"K-{number:04d}"
    plain = [i for i, row in enumerate(rows) if row["joined_on"] is None]
    chosen = [int(i) for i in rng.permutation(plain)]
    take = iter(chosen)
    for _ in range(6):  # ends before starts
        row = rows[next(take)]
        row["last_seen"] = row["grafted_on"] - timedelta(days=int(rng.integers(3, 200)))
    for _ in range(3):
        rows[next(take)]["outcome"] = ""
    for _ in range(17):
        rows[next(take)]["donor_cells"] = ""
    rows[next(take)]["age"] = 9
    extreme = rows[next(take)]
    extreme["donor_cells"] = extreme["donor_cells"] * 10
    for spelling in ["standard ", "Standard", " extended", "EXTENDED", "Extended ", "STANDARD"] * 2:
        i = next(k for k in take if rows[k]["drops"] == spelling.strip().lower())
        rows[i]["drops"] = spelling
    twice = chosen[-1]
    again = dict(rows[twice], last_seen=rows[twice]["last_seen"] - timedelta(days=31))
    again["outcome"] = "A"
    rows.insert(twice + 1, again)
    return rows


LAMPS = {
    "Ostrey": "410 520 520 640 700+ 760 880 880 960+ 1040 1200+ 1200+",
    "Vane": "520 640+ 760 880 960 1040 1120+ 1200+ 1200+ 1200+ 1200+ 1200+",
}


def harbour_lamps() -> list[dict]:
    """24 lamps, their hours, and whether they failed; + marks a lamp still burning."""
    rows = []
    for maker, hours in LAMPS.items():
        for text in hours.split():
            failed = "no" if text.endswith("+") else "yes"
            rows.append({"maker": maker, "hours": text.rstrip("+"), "failed": failed})
    order = np.random.default_rng(LAMPS_SEED).permutation(len(rows))
    return [{"lamp": f"L{k + 1:02d}", **rows[i]} for k, i in enumerate(order)]


def write(path: Path, columns: list[str], rows: list[dict]) -> None:
    """Write rows as comma-separated text with ISO dates."""
    with path.open("w", newline="", encoding="utf-8") as file:
        out = csv.DictWriter(file, columns, lineterminator="\n")
        out.writeheader()
        out.writerows({c: "" if row[c] is None else row[c] for c in columns} for row in rows)


def main() -> None:
    here = Path(__file__).parent
    write(here / "larkmoor_grafts.csv", COLUMNS, larkmoor())
    write(here / "harbour_lamps.csv", ["lamp", "maker", "hours", "failed"], harbour_lamps())


if __name__ == "__main__":
    main()
