"""The words of the fields of Estimate's statement."""

from typing import Any

from hourglass.analysis.shared.curve_field_words import FORM_WORDS, GROUPED_WORDS
from hourglass.analysis.shared.field_words import FieldWords, Words, yes_as


def _groups(by: Any) -> str:
    return f"each group of {by}" if by else "all subjects"


ESTIMATE_WORDS: Words = {
    **GROUPED_WORDS,
    "by": FieldWords("Curves for", _groups),
    **FORM_WORDS,
    "times": FieldWords("Read at"),
    "limit": FieldWords("Restricted mean survival time to"),
    "start": FieldWords("Given survival to"),
    "bandwidth": FieldWords("Bandwidth of the smoothed hazard"),
    "ignoring": FieldWords("What ignoring censoring would have given", yes_as("shown")),
}
