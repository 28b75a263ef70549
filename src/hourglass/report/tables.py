"""The report's tables: what is shown, and what is exported at full precision."""

import csv
import io
from dataclasses import dataclass

from hourglass.analysis import wording
from hourglass.analysis.check import CheckResult
from hourglass.analysis.compare import CompareResult
from hourglass.analysis.context import CohortSummary
from hourglass.analysis.curves import CurveReading, QuantileReading
from hourglass.analysis.estimate import EstimateResult
from hourglass.analysis.ledger import LedgerReading
from hourglass.analysis.model import ModelResult, RatioReading

Raw = str | int | float | None
DANGEROUS = ("=", "+", "-", "@", "\t", "\r")
"""A text cell that starts with one of these would be run as a formula by a spreadsheet."""


@dataclass(frozen=True, slots=True)
class Cell:
    """What is read, and the value behind it."""

    text: str
    raw: Raw


@dataclass(frozen=True, slots=True)
class ReportTable:
    """A table of the report: ``head`` for reading, ``keys`` for the columns of the CSV."""

    key: str
    title: str
    head: tuple[str, ...]
    keys: tuple[str, ...]
    rows: tuple[tuple[tuple[Cell, ...], tuple[Raw, ...]], ...]
    note: str = ""


def to_csv(table: ReportTable) -> str:
    """The table as comma-separated text at full precision, harmless to a spreadsheet."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow([harmless(key) for key in table.keys])
    for _, raw in table.rows:
        writer.writerow(["" if value is None else harmless(value) for value in raw])
    return out.getvalue()


def harmless(value: Raw) -> Raw:
    """Text that a spreadsheet would run as a formula gets an apostrophe in front."""
    if isinstance(value, str) and value.startswith(DANGEROUS):
        return "'" + value
    return value


def ledger_table(ledger: LedgerReading) -> ReportTable:
    """From the rows read to the rows analysed."""
    lines: list[tuple[str, int]] = [("read", ledger.read)]
    lines += [
        (f"set aside: {loss.why}", -loss.rows)
        if loss.becomes is None
        else (f"{loss.why}, rows", loss.becomes)
        for loss in ledger.lost
    ]
    lines += [("analysed", ledger.analysed or 0)]
    rows = tuple(
        ((Cell(label, label), Cell(f"{n:,}".replace("-", "−"), n)), (label, n))
        for label, n in lines
    )
    return ReportTable("rows", "Where the rows went", ("", "rows"), ("step", "rows"), rows)


def group_table(
    cohort: CohortSummary,
    estimate: EstimateResult | None,
    compare: CompareResult | None,
    times: tuple[float, ...],
) -> ReportTable:
    """Subjects, events, median and survival at chosen times: everyone, and each group."""
    unit, digits = cohort.unit, cohort.time_digits
    head = [
        "",
        cohort.rows_are,
        "events",
        f"median, {unit} (interval)",
        *(f"free at {wording.plain(t)}" for t in times),
    ]
    keys = ["group", "subjects", "events", "median", "median_lower", "median_upper"]
    for t in times:
        at = wording.plain(t)
        keys += [f"free_at_{at}", f"lower_at_{at}", f"upper_at_{at}", f"at_risk_at_{at}"]
    curves = [
        *([] if estimate is None else [estimate.curve]),
        *([] if compare is None else compare.curves),
    ]
    rows = tuple(_group_row(curve, digits) for curve in curves)
    moved = [f"{c.moved_on:,} from {c.label}" for c in curves if c.moved_on]
    note = f" {cohort.rows_are.capitalize()} who moved on: {wording.listed(moved)}."
    return ReportTable(
        "groups",
        "Groups",
        tuple(head),
        tuple(keys),
        rows,
        "Medians are over everyone followed. In brackets the pointwise intervals on the log–log "
        "scale; after the bar the number at risk at that time." + (note if moved else ""),
    )


def _group_row(curve: CurveReading, digits: int) -> tuple[tuple[Cell, ...], tuple[Raw, ...]]:
    median = next(q for q in curve.quartiles if q.q == 0.5)
    cells = [
        Cell(curve.label, curve.label),
        Cell(f"{curve.subjects:,}", curve.subjects),
        Cell(f"{curve.events:,}", curve.events),
        Cell(quantile_text(median, digits), median.time),
    ]
    raw: list[Raw] = [
        curve.label,
        curve.subjects,
        curve.events,
        median.time,
        median.lower,
        median.upper,
    ]
    for point in curve.points:
        text = "not followed so far"
        if point.survival is not None:
            text = wording.percent(point.survival)
            if point.lower is not None and point.upper is not None:
                text += (
                    f" ({wording.share_of_100(point.lower)} to {wording.share_of_100(point.upper)})"
                )
            text += f" | {point.at_risk:,}"
        cells.append(Cell(text, point.survival))
        raw += [point.survival, point.lower, point.upper, point.at_risk]
    return tuple(cells), tuple(raw)


def quantile_text(found: QuantileReading, digits: int) -> str:
    """A median with its interval, in words where a limit is not reached."""
    time = wording.time(found.time, digits)
    if found.lower is None and found.upper is None:
        return f"{time} (neither limit reached)"
    lower, upper = wording.time(found.lower, digits), wording.time(found.upper, digits)
    return f"{time} ({lower} to {upper})"


def ratio_table(model: ModelResult) -> ReportTable:
    """Hazard ratios, each on its own and adjusted for the others."""
    rows = []
    for term in model.terms:
        for c in term.coefficients:
            name = term.name if c.label == term.name else f"{term.name}: {c.label}"
            against = c.against if c.against.startswith("per ") else f"against {c.against}"
            cells = (
                Cell(name, name),
                Cell(against, against),
                Cell(ratio_text(c.alone), c.alone.ratio),
                Cell(wording.p_value(c.alone.p), c.alone.p),
                Cell(ratio_text(c.adjusted), c.adjusted.ratio),
                Cell(wording.p_value(c.adjusted.p), c.adjusted.p),
            )
            raw = (name, against, *_ratio_raw(c.alone), *_ratio_raw(c.adjusted))
            rows.append((cells, raw))
    figures = ("ratio", "lower", "upper", "p")
    return ReportTable(
        "ratios",
        "Hazard ratios",
        ("", "", "on its own (interval)", "p", "adjusted (interval)", "p"),
        ("term", "against", *(f"alone_{f}" for f in figures), *(f"adjusted_{f}" for f in figures)),
        tuple(rows),
        "Both columns come from the same rows. A hazard ratio compares rates at any moment among "
        "those still free of the event: it is not a ratio of shares.",
    )


def ratio_text(reading: RatioReading) -> str:
    """A ratio with its interval, or why there is none."""
    if reading.ratio is None:
        ends = ""
        if reading.lower is not None:
            ends = f"above {wording.ratio(reading.lower)}; "
        if reading.upper is not None:
            ends = f"below {wording.ratio(reading.upper)}; "
        return f"{ends}{reading.note}"
    return (
        f"{wording.ratio(reading.ratio)} "
        f"({wording.ratio(reading.lower)} to {wording.ratio(reading.upper)})"
    )


def _ratio_raw(reading: RatioReading) -> tuple[Raw, ...]:
    return (reading.ratio, reading.lower, reading.upper, reading.p)


def check_table(check: CheckResult) -> ReportTable:
    """The test of proportional hazards, a line a term and all together."""
    rows = []
    for term in check.terms:
        word = term.verdict + (f", {term.course}" if term.verdict in ("in doubt", "fails") else "")
        rows.append(_check_row(term.label, word, term.test.statistic, term.test.df, term.test.p))
    if check.together is not None:
        t = check.together
        rows.append(_check_row(t.name, "", t.statistic, t.df, t.p))
    return ReportTable(
        "checks",
        "Does each ratio stay the same over time?",
        ("", "", "χ²", "df", "p"),
        ("term", "verdict", "chi_squared", "df", "p"),
        tuple(rows),
        "Score test of a ratio that changes with time (Grambsch & Therneau 1994). A large p is no "
        "proof that a ratio is constant.",
    )


def _check_row(
    label: str, word: str, statistic: float | None, df: int, p: float | None
) -> tuple[tuple[Cell, ...], tuple[Raw, ...]]:
    shapes = {"holds": "● ", "in doubt": "◐ ", "fails": "○ "}
    shape = next((s for key, s in shapes.items() if word.startswith(key)), "")
    cells = (
        Cell(label, label),
        Cell(shape + word, word),
        Cell(wording.statistic(statistic), statistic),
        Cell(str(df) if df else wording.BLANK, df),
        Cell(wording.p_value(p), p),
    )
    return cells, (label, word, statistic, df, p)
