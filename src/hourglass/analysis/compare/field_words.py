"""The words of the fields of Compare's statement."""

from typing import Any

from hourglass.analysis.catalogue.number_splits import NUMBER_SPLITS
from hourglass.analysis.catalogue.weights import WEIGHTS
from hourglass.analysis.compare.statement import ScreenedVariable
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.curve_field_words import CONFIDENCE_WORDS, GROUPED_WORDS
from hourglass.analysis.shared.earlier_keys import EARLIER_KEYS
from hourglass.analysis.shared.field_words import (
    FieldWords,
    Words,
    one_of_entries,
    one_of_words,
    unworded,
    yes_as,
)
from hourglass.cohort.words import listed


def _margin(margin: Any) -> str:
    if not margin:
        return ""
    return f"{formatting.plain(100 * margin['size'])} percentage points at {formatting.plain(margin['at'])}"


def _variables(variables: Any) -> str:
    stated = [ScreenedVariable.model_validate(one) for one in variables or ()]
    return listed(
        [
            f"{one.column} ({NUMBER_SPLITS[one.way].in_words(one.threshold)})"
            if one.split or one.threshold is not None
            else one.column
            for one in stated
        ]
    )


COMPARE_WORDS: Words = {
    **GROUPED_WORDS,
    "by": FieldWords("Comparison by"),
    **CONFIDENCE_WORDS,
    "each": FieldWords("Each variable in turn"),
    "variables": FieldWords("Variables tested", _variables),
    "order": FieldWords("Order of the variables", one_of_words({"p": "", "name": "by name"})),
    "contrast": FieldWords("Difference shown for"),
    "weight": FieldWords("Test", one_of_entries(WEIGHTS, EARLIER_KEYS["weight"])),
    "within": FieldWords("Strata"),
    "ordered": FieldWords("Order of the groups", yes_as("in their order")),
    "scores": FieldWords("Scores"),
    "pairs": FieldWords(
        "Pairs of groups",
        one_of_words({"none": "", "all": "all pairs", "reference": "each against the reference"}),
    ),
    "adjustment": FieldWords("Adjustment of p"),
    "margin": FieldWords("Not worse than by", _margin),
    "seed": FieldWords("Seed of what is drawn"),
    "tried": FieldWords("Thresholds tried", unworded),
}
