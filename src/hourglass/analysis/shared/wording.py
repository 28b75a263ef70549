"""How numbers are worded (methods.md, section 10: How numbers are shown).

Rounding is half away from zero of the exact binary value, as in the browser; the unrounded value
decides which rule applies. ``tests/wording_cases.json`` puts the same cases to both.
"""

from decimal import ROUND_HALF_UP, Context, Decimal
from functools import cache

import inflect

from hourglass.analysis.shared.naming import level_percent, listed, plain
from hourglass.cohort.words import MINUS, grouped

# Numbers of findings and steps are worded a layer below, and values in names by ``naming``.
__all__ = ["MINUS", "grouped", "level_percent", "listed", "plain"]
NOT_REACHED = "not reached"
INFINITE = "infinite"
BLANK = "—"
ALPHA = 0.05
MOST_DECIMALS = 17
SAME = 1e-9
"""Share of a value within which a shorter number is the value itself."""
LARGEST_RATIO, SMALLEST_RATIO = 1e6, 1e-6
THOUSAND = 1000.0
_EXACT = Context(prec=400, rounding=ROUND_HALF_UP)


def rounded(value: float, decimals: int) -> str:
    """So many decimals; zero has no sign, a minus is U+2212."""
    return _written(_places(Decimal(value), -decimals))


def _written(exact: Decimal) -> str:
    text = f"{abs(exact):f}"
    return f"{MINUS}{text}" if exact < 0 else text


def _places(value: Decimal, exponent: int) -> Decimal:
    return value.quantize(Decimal(1).scaleb(exponent), context=_EXACT)


def p_value(p: float | None, alpha: float = ALPHA) -> str:
    """Three decimals, "< 0.001" below, "> 0.999" above; more where three would put p on or across α."""
    if p is None:
        return BLANK
    if p < 0.001:
        return "< 0.001"
    if p > 0.999:
        return "> 0.999"
    for decimals in range(3, MOST_DECIMALS):
        text = rounded(p, decimals)
        shown = Decimal(text)
        if shown != Decimal(repr(alpha)) and (shown < Decimal(alpha)) == (p < alpha):
            return text
    return rounded(p, 3)


def p_phrase(p: float | None) -> str:
    """ "p 0.012", "p < 0.001"."""
    return f"p {p_value(p)}"


def percent(share: float | None) -> str:
    """One decimal and the sign."""
    return BLANK if share is None else f"{share_of_100(share)}%"


def share_of_100(share: float) -> str:
    """A share in percent, without the sign: rounded to three decimals, then shifted."""
    if 0.9995 <= share < 1:  # the double next to 0.9995 lies above it
        return "> 99.9"
    if 0 < share < 0.0005:
        return "< 0.1"
    return rounded_percent(share)


def rounded_percent(share: float) -> str:
    """A share, or a difference of shares, rounded to three decimals and shifted."""
    return _written(_places(Decimal(share), -3).scaleb(2))


def ratio(value: float | None) -> str:
    """Two decimals; three significant digits under 0.1; in words at and near 0 and infinity."""
    if value is None:
        return BLANK
    if value == 0:
        return "zero"
    if value >= LARGEST_RATIO:
        return INFINITE if value == float("inf") else "over 1000000"
    if value < SMALLEST_RATIO:
        return "under 0.000001"
    if value >= 0.1:
        return rounded(value, 2)
    exact = Decimal(value)
    three = _places(exact, exact.adjusted() - 2)
    # Rounding up may have given it a digit more: 0.09996 is 0.100.
    return f"{_places(three, three.adjusted() - 2):f}"


def time(value: float | None, decimals: int) -> str:
    """A time of the data, with its decimals; absent is "not reached"."""
    if value is None:
        return NOT_REACHED
    return INFINITE if value == float("inf") else rounded(value, decimals)


def computed_time(value: float | None, decimals: int) -> str:
    """A midpoint, a mean: one decimal more than the data, unless the value is the shorter number."""
    if value is None or value == float("inf"):
        return time(value, decimals)
    short = rounded(value, decimals)
    plain_short = float(short.replace(MINUS, "-"))
    return short if abs(value - plain_short) <= SAME * abs(value) else rounded(value, decimals + 1)


def person_time(value: float, decimals: int) -> str:
    """A sum of times: to the precision of the data, from a thousand on in whole units."""
    if value < THOUSAND:
        return rounded(value, decimals)
    return grouped(int(rounded(value, 0)))


def statistic(value: float | None) -> str:
    """Two decimals."""
    return BLANK if value is None else rounded(value, 2)


def count(n: int, things: str) -> str:
    """ "1 row", "612 rows"; ``things`` is the plural, of English words or others."""
    if n != 1:
        return f"{grouped(n)} {things}"
    return f"1 {singular(things)}"


@cache
def singular(things: str) -> str:
    """The singular of an English plural; a word of another form is left as it is."""
    return str(_english().singular_noun(things) or things)


@cache
def _english() -> inflect.engine:
    return inflect.engine()


def were(n: int) -> str:
    """The verb after a number of things."""
    return "was" if n == 1 else "were"


def capital(said: str) -> str:
    """The beginning of a sentence; the rest keeps its letters: names are as they were given."""
    return said[:1].upper() + said[1:]


def interval(low: str, high: str) -> str:
    """ "12.3 to 45.6"."""
    return f"{low} to {high}"


def points(share: float | None) -> str:
    """A difference of shares in percentage points, with its sign."""
    if share is None:
        return BLANK
    text = rounded_percent(share)
    return text if text.startswith(MINUS) or not text.strip("0.") else f"+{text}"


def fixed(value: float, digits: int) -> str:
    """So many decimals, or powers of ten where those would say nothing."""
    return rounded(value, digits) if abs(value) < 1e9 else f"{value:.4g}"
