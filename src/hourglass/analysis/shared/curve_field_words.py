"""The words of the fields that several statements of curves share."""

from hourglass.analysis.shared.curve_words import ESTIMATOR_WORDS, INTERVAL_WORDS, SCALE_WORDS
from hourglass.analysis.shared.field_words import FieldWords, Words, one_of_words, percent

GROUPED_WORDS: Words = {
    "by": FieldWords("By"),
    "reference": FieldWords("Reference"),
    "crossed": FieldWords("Crossed with"),
    "thresholds": FieldWords("Thresholds"),
}
CONFIDENCE_WORDS: Words = {"confidence": FieldWords("Level of intervals", percent)}
FORM_WORDS: Words = {
    **CONFIDENCE_WORDS,
    "intervals": FieldWords(
        "Intervals", one_of_words({key: one.name for key, one in INTERVAL_WORDS.items()})
    ),
    "scale": FieldWords(
        "Scale of intervals", one_of_words({key: one.name for key, one in SCALE_WORDS.items()})
    ),
    "estimator": FieldWords(
        "Estimator", one_of_words({key: one.name for key, one in ESTIMATOR_WORDS.items()})
    ),
}
