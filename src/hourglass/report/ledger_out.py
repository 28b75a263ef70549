"""The row ledger as a figure and as text."""

from markupsafe import escape

from hourglass.analysis.prepare.ledger import LedgerView
from hourglass.analysis.shared import formatting

TITLE = "Rows read, set aside and analysed"
INK, HAIRLINE, QUIET = "#1F2B33", "#DCD4C1", "#5E6B70"
ROW, LEFT, BAR = 34, 20, 220


def ledger_lines(ledger: LedgerView) -> list[tuple[str, int]]:
    """Each line with the rows that are left after it."""
    left = ledger.read
    lines = [(f"{formatting.grouped(left)} read", left)]
    for loss in ledger.lost:
        if loss.becomes is not None:
            left = loss.becomes
            lines.append((f"{loss.why}: {formatting.grouped(left)} rows", left))
        else:
            left -= loss.rows
            lines.append((f"−{formatting.grouped(loss.rows)} {loss.why}", left))
    if ledger.analysed is None:
        lines.append(("not analysed yet", left))
    else:
        stands = (
            ""
            if ledger.standing_for is None
            else f", standing for {formatting.grouped(ledger.standing_for)} subjects"
        )
        lines.append((f"{formatting.grouped(ledger.analysed)} analysed{stands}", ledger.analysed))
    return lines


def ledger_text(ledger: LedgerView) -> str:
    """A line for each: what happened, and the rows left."""
    lines = ledger_lines(ledger)
    wide = max(len(f"{formatting.grouped(left)}") for _, left in lines)
    rows = [f"{formatting.grouped(left):>{wide}}  {words}" for words, left in lines]
    if ledger.ended_early:
        rows.append(
            f"{'':>{wide}}  ({formatting.grouped(ledger.ended_early)} rows followed less long, by decision)"
        )
    return f"{TITLE}\n" + "\n".join(rows) + "\n"


def ledger_svg(ledger: LedgerView) -> str:
    """Bars that shrink from the rows read to the rows analysed, each with its words."""
    lines = ledger_lines(ledger)
    most = max(left for _, left in lines) or 1
    longest = max(len(words) for words, _ in lines)
    width, height = LEFT * 2 + BAR + 20 + 8 * longest, 50 + ROW * len(lines)
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}" height="{height}" role="img" '
        f'aria-label="{TITLE}" font-family="Source Sans 3, sans-serif" font-size="14">',
        f'<text x="{LEFT}" y="26" font-weight="600" fill="{INK}">{TITLE}</text>',
    ]
    for k, (words, left) in enumerate(lines):
        y = 42 + k * ROW
        parts.append(
            f'<rect x="{LEFT}" y="{y}" width="{BAR * left / most:.1f}" height="22" fill="{INK}" '
            f'opacity="{1 - 0.55 * k / max(len(lines), 1):.2f}"/>'
            f'<text x="{LEFT + BAR + 16}" y="{y + 16}" fill="{INK}">{escape(words)}</text>'
        )
    return "".join(parts) + "</svg>"
