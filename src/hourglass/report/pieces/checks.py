"""The checks of the model."""

from typing import cast

from hourglass.analysis.check.result import CheckResult
from hourglass.analysis.shared.cell import Cell, Raw, words
from hourglass.analysis.shared.sections import test_cells
from hourglass.report.pieces.piece import Findings, Piece, Printed
from hourglass.report.pieces.sections import sections_printed
from hourglass.report.table_data import with_notes
from hourglass.report.tables import ReportRow, ReportTable

SHOWN = ("scale", "farthest", "influence", "concordance", "optimism", "calibration")
"""Sections of the question that is shown."""


def _checks(found: Findings) -> Printed:
    check = cast(CheckResult, found.results["check"])
    if check.blank is not None:
        return Printed(paragraphs=(check.blank,))
    shown = sections_printed("check", SHOWN)(found)
    return Printed(
        method=check.sentence.text,
        tables=(verdict_table(check), check_table(check), *shown.tables),
        note=shown.note,
    )


def verdict_table(check: CheckResult) -> ReportTable:
    """Every question put to the model, with its verdict and what it rests on."""
    rows = [
        ReportRow(
            (words(q.key), words(q.verdict, verdict=q.verdict), words(q.words)),
            (q.key, q.verdict, q.words),
        )
        for q in check.questions
    ]
    return ReportTable(
        key="questions",
        title="Questions put to the model",
        head=("", "verdict", ""),
        keys=("question", "verdict", "rests_on"),
        rows=tuple(rows),
    )


def check_table(check: CheckResult) -> ReportTable:
    """The test of proportional hazards, a line a term and all together."""
    lines = [(t.label, words(t.words, verdict=t.verdict), t.test) for t in check.terms]
    if check.together is not None:
        lines.append((check.together.name, words(""), check.together))
    shown: list[tuple[Cell, ...]] = []
    values: list[tuple[tuple[Raw, ...], str]] = []
    for label, said, test in lines:
        cells = test_cells(words(label), test.statistic, test.df, test.p)
        shown.append((cells[0], said, *cells[1:]))
        raw = (label, said.text or None, test.statistic, test.df, test.p)
        values.append((raw, f"chi_squared: {test.blank}" if test.blank else ""))
    data = with_notes(("term", "verdict", "chi_squared", "df", "p"), values)
    rows = [ReportRow(cells, raw) for cells, raw in zip(shown, data.rows, strict=True)]
    return ReportTable(
        key="checks",
        title="Test of proportional hazards",
        head=("", "", "χ²", "df", "p"),
        keys=data.keys,
        rows=tuple(rows),
        note="Score test of a ratio that changes with time (Grambsch & Therneau 1994). A large p is no "
        "proof that a ratio is constant.",
    )


PIECE = Piece(
    key="checks",
    title="Checks",
    words="checks",
    render=_checks,
    needs=("check",),
    parts=("check/optimism",),
    offer="Checks of the model",
)
