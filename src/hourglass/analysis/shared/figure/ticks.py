"""Ticks of an axis, from many to few: whoever draws takes the first list that fits."""

import math
from collections.abc import Callable, Iterable

import numpy as np

from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.frozen_model import FrozenModel

MAX_TICK_COUNTS = (40, 20, 12, 8, 5, 3, 2)
MONTHS = (1, 2, 3, 6, 12, 24, 36, 60, 120, 240)
_JUST_OVER = 1e-9
# Below this, the step between two ticks would no longer be a number with all its digits.
LEAST_SPAN = 1e-290


class Tick(FrozenModel):
    """A place on an axis and what it is called."""

    at: float
    label: str


def even_ticks(
    low: float,
    high: float,
    label: Callable[[float, int], str],
    *,
    months: bool = False,
    step: float | None = None,
) -> list[list[Tick]]:
    """Round places between two ends; times in months go by threes, sixes and twelves.

    Args:
        label: words a place, given the decimals that its step has.
        step: the step that somebody requested, in place of the program's own.
    """
    span = high - low
    if not span > LEAST_SPAN:
        return [[Tick(at=low, label=label(low, 0))]]
    if step is not None:
        return [_every(step, low, high, label)]
    found: list[list[Tick]] = []
    for most in MAX_TICK_COUNTS:
        own = _month_step(span, most) if months else None
        made = _every(_round_step(span, most) if own is None else own, low, high, label)
        if made and (not found or 1 < len(made) < len(found[-1])):
            found.append(made)
    return found


def ratio_ticks(low: float, high: float) -> list[list[Tick]]:
    """Ones, twos and fives of every power of ten; then ones and threes, ones, and every few powers."""
    powers = range(math.floor(math.log10(low)), math.ceil(math.log10(high)) + 1)
    found: list[list[Tick]] = []
    every = [(1, (1, 2, 5)), (1, (1, 3)), (1, (1,)), *((k, (1,)) for k in (2, 3, 5, 10, 20, 50))]
    for each, digits in every:
        # A power that is a multiple of each: 1 itself stays among them.
        places = (d * 10.0**p for p in powers if p % each == 0 for d in digits)
        made = [Tick(at=v, label=ratio_label(v)) for v in places if low <= v <= high]
        if made and (not found or len(made) < len(found[-1])):
            found.append(made)
    return found or [[Tick(at=low, label=ratio_label(low)), Tick(at=high, label=ratio_label(high))]]


def ratio_label(value: float) -> str:
    """A ratio at a tick: powers of ten where it is far from 1."""
    if 0.001 <= value < 10_000:
        return formatting.plain(float(f"{value:.3g}"))
    mantissa, _, power = f"{value:.0e}".partition("e")
    return f"{mantissa}e{int(power)}".replace("-", formatting.MINUS)


def _every(step: float, low: float, high: float, label: Callable[[float, int], str]) -> list[Tick]:
    decimals = max(0, -math.floor(math.log10(step) + _JUST_OVER) + _odd(step))
    first, last = math.ceil(low / step - _JUST_OVER), math.floor(high / step + _JUST_OVER)
    places = (round(k * step, decimals + 2) for k in range(first, last + 1))
    return [Tick(at=at, label=label(at, decimals)) for at in places]


def _odd(step: float) -> int:
    """1 where a step such as 2.5 has a digit more than its power of ten."""
    lead = step / 10 ** math.floor(math.log10(step) + _JUST_OVER)
    return int(abs(lead - round(lead)) > 0.01)


def _month_step(span: float, most: int) -> float | None:
    if span < MONTHS[0] * 2:
        return None
    return next((float(m) for m in MONTHS if span / m <= most), None)


def _round_step(span: float, most: int) -> float:
    power = 10.0 ** math.floor(math.log10(span / most))
    return next(m * power for m in (1, 2, 2.5, 5, 10) if span / (m * power) <= most)


def places(levels: Iterable[Iterable[Tick]]) -> list[float]:
    """Every place of every list, ascending."""
    return [float(v) for v in np.unique([tick.at for level in levels for tick in level])]
