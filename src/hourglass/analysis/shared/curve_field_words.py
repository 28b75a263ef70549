"""The words of the fields that several statements of curves share."""

from hourglass.analysis.catalogue.estimators import ESTIMATORS
from hourglass.analysis.catalogue.intervals import INTERVALS
from hourglass.analysis.catalogue.scales import INTERVAL_SCALES
from hourglass.analysis.shared.earlier_keys import EARLIER_KEYS
from hourglass.analysis.shared.field_words import FieldWords, Words, one_of_entries, percent

GROUPED_WORDS: Words = {
    "by": FieldWords("By"),
    "reference": FieldWords("Reference"),
    "crossed": FieldWords("Crossed with"),
    "thresholds": FieldWords("Thresholds"),
}
CONFIDENCE_WORDS: Words = {"confidence": FieldWords("Level of intervals", percent)}
FORM_WORDS: Words = {
    **CONFIDENCE_WORDS,
    "intervals": FieldWords("Intervals", one_of_entries(INTERVALS)),
    "scale": FieldWords("Scale of intervals", one_of_entries(INTERVAL_SCALES)),
    "estimator": FieldWords("Estimator", one_of_entries(ESTIMATORS, EARLIER_KEYS["estimator"])),
}
