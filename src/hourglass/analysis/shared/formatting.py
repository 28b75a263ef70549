"""How numbers are worded (methods.md, section 10: How numbers are shown).

Rounding is half away from zero of the exact binary value, as in the browser; the unrounded value
decides which rule applies. ``tests/wording_cases.json`` puts the same cases to both.
"""

from collections.abc import Sequence
from decimal import ROUND_HALF_UP, Context, Decimal
from functools import cache

import inflect

from hourglass.analysis.shared.naming import level_percent, listed, plain
from hourglass.cohort.time_decimals import TimeDecimals
from hourglass.cohort.words import MINUS, NARROW_SPACE, grouped

# Numbers of findings and steps are worded a layer below, and values in names by ``naming``.
__all__ = ["MINUS", "grouped", "level_percent", "listed", "plain"]
NOT_REACHED = "not reached"
INFINITE = "infinite"
BLANK = "—"
ALPHA = 0.05
MAX_DECIMALS = 17
LARGEST_RATIO, SMALLEST_RATIO = 1e6, 1e-6
AS_GOOD_AS_1 = 1e-6
"""A ratio nearer to 1 than this is shown as 1."""
MAX_RATIO_DECIMALS = 4
MAX_COEFFICIENT_DECIMALS, DECIMALS_WITHOUT_ERROR = 8, 4
THOUSAND = 1000.0
_RAISED = str.maketrans("-0123456789", "⁻⁰¹²³⁴⁵⁶⁷⁸⁹")
_EXACT = Context(prec=400, rounding=ROUND_HALF_UP)


def rounded(value: float, decimals: int) -> str:
    """So many decimals; zero has no sign, a minus is U+2212, thousands are set apart by U+202F."""
    return _written(_places(Decimal(value), -decimals))


def _written(exact: Decimal) -> str:
    text = f"{abs(exact):,f}".replace(",", NARROW_SPACE)
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
    for decimals in range(3, MAX_DECIMALS):
        text = rounded(p, decimals)
        shown = Decimal(text)
        if shown != Decimal(repr(alpha)) and (shown < Decimal(alpha)) == (p < alpha):
            return text
    return rounded(p, 3)


def p_phrase(p: float | None) -> str:
    """ "p = 0.012", "p < 0.001"."""
    text = p_value(p)
    return f"p {text}" if text.startswith(("<", ">")) else f"p = {text}"


def exact_p(p: float | None) -> str:
    """ "p = 3.21456 × 10⁻⁷": six significant digits; nothing where there is no p."""
    if p is None:
        return ""
    digits, _, power = f"{p:.6g}".partition("e")
    return f"p = {digits} × 10{str(int(power)).translate(_RAISED)}" if power else f"p = {digits}"


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
    """A ratio without limits."""
    return ratios(value)[0]


def ratios(*values: float | None) -> list[str]:
    """A ratio and its limits: those from 0.1 on share decimals, which distinguish each from 1."""
    decimals = _ratio_decimals([v for v in values if v is not None and 0.1 <= v < LARGEST_RATIO])
    return [_one_ratio(value, decimals) for value in values]


def _ratio_decimals(values: list[float]) -> int:
    differ = [v for v in values if abs(v - 1) > AS_GOOD_AS_1]
    for decimals in range(2, MAX_RATIO_DECIMALS):
        if all(_places(Decimal(v), -decimals) != 1 for v in differ):
            return decimals
    return MAX_RATIO_DECIMALS


def _one_ratio(value: float | None, decimals: int) -> str:
    """In words at and near 0 and infinity; below 0.1 with three significant digits of its own."""
    if value is None:
        return BLANK
    if value == 0:
        return "zero"
    if value >= LARGEST_RATIO:
        return INFINITE if value == float("inf") else f"over {grouped(int(LARGEST_RATIO))}"
    if value < SMALLEST_RATIO:
        return "under 0.000001"
    if value >= 0.1:
        return rounded(value, decimals)
    exact = Decimal(value)
    three = _places(exact, exact.adjusted() - 2)
    # Rounding up may have given it a digit more: 0.09996 is 0.100.
    return f"{_places(three, three.adjusted() - 2):f}"


def coefficient(value: float | None, error: float | None) -> str:
    """A coefficient, or its error: the decimals that give the error three significant digits."""
    if value is None:
        return BLANK
    decimals = DECIMALS_WITHOUT_ERROR
    if error is not None and 0 < error < float("inf"):
        decimals = min(max(2 - Decimal(error).adjusted(), 0), MAX_COEFFICIENT_DECIMALS)
    return rounded(value, decimals)


def time(value: float | None, decimals: TimeDecimals) -> str:
    """A time that is a value of the data; absent is "not reached"."""
    return _time(value, decimals.data)


def computed_time(value: float | None, decimals: TimeDecimals) -> str:
    """A midpoint, a mean, a follow-up."""
    return _time(value, decimals.computed)


def _time(value: float | None, decimals: int) -> str:
    if value is None:
        return NOT_REACHED
    return INFINITE if value == float("inf") else rounded(value, decimals)


def times_apart(times: Sequence[float], decimals: TimeDecimals) -> list[str]:
    """Times of the data that are set against each other: with decimals that distinguish them."""
    different = len(set(times))
    for more in range(decimals.data, MAX_DECIMALS):
        shown = [rounded(t, more) for t in times]
        if len(set(shown)) == different:
            return shown
    return [rounded(t, MAX_DECIMALS) for t in times]


def person_time(value: float, decimals: TimeDecimals) -> str:
    """A sum of times: to the precision of the data, from a thousand on in whole units."""
    return rounded(value, decimals.data if value < THOUSAND else 0)


def statistic(value: float | None) -> str:
    """Two decimals."""
    return BLANK if value is None else rounded(value, 2)


def tested(name: str, statistic_: float | None, df: int, p: float | None) -> str:
    """A test in words: "log-rank χ² 8.72, 1 df, p = 0.003"."""
    return f"{name} χ² {statistic(statistic_)}, {df} df, {p_phrase(p)}"


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


def stated_time(time: float, unit: str) -> str:
    """A time as somebody stated it, with its unit: "1 month", "12 months"."""
    return f"{plain(time)} {singular(unit) if unit and time == 1 else unit}"


def were(n: int) -> str:
    """The verb after a number of things."""
    return "was" if n == 1 else "were"


def capital(text: str) -> str:
    """The beginning of a sentence; the rest keeps its letters: names are as they were given."""
    return text[:1].upper() + text[1:]


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
    """So many decimals, or powers of ten where those would show nothing."""
    return rounded(value, digits) if abs(value) < 1e9 else f"{value:.4g}"
