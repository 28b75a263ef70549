"""The checks of the model."""

from typing import cast

from hourglass.analysis.check.run import CheckResult
from hourglass.analysis.shared.cell import words
from hourglass.analysis.shared.sections import test_cells
from hourglass.report.pieces.piece import Findings, Piece, Printed
from hourglass.report.tables import ReportRow, ReportTable


def _checks(found: Findings) -> Printed:
    check = cast(CheckResult, found.results["check"])
    if check.blank is not None:
        return Printed(paragraphs=(check.blank,))
    return Printed(method=check.sentence.text, tables=(check_table(check),))


def check_table(check: CheckResult) -> ReportTable:
    """The test of proportional hazards, a line a term and all together."""
    lines = [(t.label, words(t.words, verdict=t.verdict), t.test) for t in check.terms]
    if check.together is not None:
        lines.append((check.together.name, words(""), check.together))
    rows = []
    for label, said, test in lines:
        cells = test_cells(words(label), test.statistic, test.df, test.p)
        raw = (label, said.text, test.statistic, test.df, test.p)
        rows.append(ReportRow((cells[0], said, *cells[1:]), raw))
    return ReportTable(
        "checks",
        "Test of proportional hazards",
        ("", "", "χ²", "df", "p"),
        ("term", "verdict", "chi_squared", "df", "p"),
        tuple(rows),
        "Score test of a ratio that changes with time (Grambsch & Therneau 1994). A large p is no "
        "proof that a ratio is constant.",
    )


PIECE = Piece("checks", "Checks", "checks", _checks, needs=("check",), offer="Checks of the model")
