"""How numbers are worded (methods.md, section 7)."""

import math

NOT_REACHED = "not reached"
BLANK = "—"


def p_value(p: float | None) -> str:
    """Three decimals, "< 0.001" below."""
    if p is None:
        return BLANK
    return "< 0.001" if p < 0.001 else f"{p:.3f}"


def p_phrase(p: float | None) -> str:
    """ "p 0.012", "p < 0.001"."""
    return f"p {p_value(p)}"


def percent(share: float | None) -> str:
    """One decimal."""
    return BLANK if share is None else f"{100 * share:.1f}%"


def ratio(value: float | None) -> str:
    """Two decimals; three significant digits under 0.1."""
    if value is None:
        return BLANK
    if 0 < value < 0.1:
        digits = 2 - math.floor(math.log10(value))
        return f"{value:.{digits}f}" if digits <= 8 else f"{value:.2e}"
    return f"{value:.2f}" if value < 1e6 else f"{value:.2e}"


def time(value: float | None, digits: int) -> str:
    """At the precision of the data plus one; absent is "not reached"."""
    return NOT_REACHED if value is None else f"{value:.{digits}f}"


def plain(value: float) -> str:
    """A number without needless zeros: 12, 0.5."""
    return f"{value:.10g}"


def statistic(value: float | None) -> str:
    """Two decimals."""
    return BLANK if value is None else f"{value:.2f}"


def count(n: int, things: str) -> str:
    """ "1 row", "612 rows"; ``things`` is the plural."""
    if n == 1 and things.endswith("s"):
        return f"1 {things[:-1]}"
    return f"{n:,} {things}"


def listed(words: list[str]) -> str:
    """ "a", "a and b", "a, b and c"."""
    if len(words) < 2:
        return "".join(words)
    return ", ".join(words[:-1]) + " and " + words[-1]


def level_percent(level: float) -> str:
    """ "95%"."""
    return f"{plain(100 * level)}%"


def fixed(value: float, digits: int) -> str:
    """So many decimals, or powers of ten where those would say nothing."""
    return f"{value:.{digits}f}" if abs(value) < 1e9 else f"{value:.4g}"
