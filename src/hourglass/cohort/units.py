"""Units of time, mass and length as they are written into cells, and how they convert."""

import re
from collections.abc import Iterable
from functools import lru_cache

from hourglass.cohort.statement import DAYS_IN, Unit

IN_DAYS: dict[str, float] = {
    "seconds": 1 / 86_400,
    "minutes": 1 / 1_440,
    **{str(unit): days for unit, days in DAYS_IN.items()},
}
IN_GRAMS = {"µg": 1e-6, "mg": 1e-3, "g": 1.0, "kg": 1e3, "lb": 453.592_37}
IN_METRES = {"mm": 1e-3, "cm": 1e-2, "m": 1.0, "km": 1e3, "in": 0.0254, "ft": 0.3048}
SPELLINGS = {
    "seconds": "s sec secs second seconds",
    "minutes": "min mins minute minutes",
    "hours": "h hr hrs hour hours std stunden",
    "days": "d day days tag tage tagen jour jours",
    "weeks": "w wk wks week weeks woche wochen semaine semaines",
    "months": "mo mon mos mth mths month months monat monate monaten mois",
    "years": "y yr yrs year years a jahr jahre jahren an ans",
    "µg": "µg μg ug mcg",
    "mg": "mg",
    "g": "g gram grams",
    "kg": "kg kgs kilogram kilograms",
    "lb": "lb lbs pound pounds",
    "mm": "mm",
    "cm": "cm",
    "m": "m metre metres meter meters",
    "km": "km kms kilometre kilometres kilometer kilometers",
    "in": "in inch inches",
    "ft": "ft foot feet",
}
UNIT_OF = {word: unit for unit, words in SPELLINGS.items() for word in words.split()}
"""The unit that a word in a cell stands for."""
UNIT_WORDS: dict[str, Unit] = {
    "hour": "hours", "hours": "hours", "hrs": "hours", "h": "hours", "stunden": "hours",
    "minute": "minutes", "minutes": "minutes",
    "day": "days", "days": "days", "d": "days", "tage": "days", "jours": "days",
    "week": "weeks", "weeks": "weeks", "wks": "weeks", "wochen": "weeks",
    "month": "months", "months": "months", "mo": "months", "mths": "months", "monate": "months",
    "mois": "months",
    "year": "years", "years": "years", "yr": "years", "yrs": "years", "jahre": "years", "ans": "years",
    "cycle": "cycles", "cycles": "cycles", "zyklen": "cycles",
    "km": "kilometres", "kilometres": "kilometres", "kilometers": "kilometres",
    "mileage": "miles", "miles": "miles", "uses": "uses",
}  # fmt: skip
"""The unit of a clock that a word in a name stands for."""
FAMILIES = (IN_DAYS, IN_GRAMS, IN_METRES)


def unit_of(word: str) -> str:
    """The unit that a word stands for; the word itself where it is none of ours."""
    plain = word.strip().rstrip(".").casefold()
    return UNIT_OF.get(plain, word.strip())


def short_m(units: Iterable[str]) -> str:
    """What a bare “m” is short for beside other units: months beside years, weeks or days, minutes beside
    hours or seconds, else metres."""
    beside = set(units)
    if beside & {"years", "weeks", "days"}:
        return "months"
    return "minutes" if beside & {"hours", "seconds"} else "m"


def factor(unit: str, into: str) -> float | None:
    """How many of ``into`` one ``unit`` is; None where one does not convert into the other."""
    if unit == into:
        return 1.0
    for family in FAMILIES:
        if unit in family and into in family:
            return family[unit] / family[into]
    return None


@lru_cache(maxsize=20_000)
def words_of(name: str) -> tuple[str, ...]:
    """The words of a column's name: "followUp_days" is follow, up, days."""
    apart = re.sub(r"(?<=[a-z])(?=[A-Z])", " ", name)
    return tuple(word for word in re.split(r"[^a-zäöüß]+", apart.lower()) if word)


def clock_unit(name: str) -> Unit | None:
    """The unit of a clock that a word of a name stands for; None where no word does."""
    return next((UNIT_WORDS[word] for word in words_of(name) if word in UNIT_WORDS), None)
