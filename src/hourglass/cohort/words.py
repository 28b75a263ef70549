"""How numbers are written in the sentences of findings, steps and ledgers
(methods.md, section 10: How numbers are shown)."""

NARROW_SPACE = "\u202f"
MINUS = "−"


def grouped(n: int) -> str:
    """Digits in threes, set apart by a narrow space; a minus is U+2212."""
    return f"{n:,}".replace(",", NARROW_SPACE).replace("-", MINUS)
