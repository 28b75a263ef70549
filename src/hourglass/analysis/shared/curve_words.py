"""What estimators, interval scales and kinds of interval are called, in the sentence and the workings."""

from dataclasses import dataclass

from hourglass.analysis.shared.curve_form import BARS, INTERVALS, NO_INTERVAL, POINTWISE
from hourglass.core.curves.bands import EQUAL_PRECISION, HALL_WELLNER
from hourglass.core.curves.estimators import (
    ESTIMATORS,
    FROM_HAZARD,
    FROM_HAZARD_SPREAD,
    PRODUCT_LIMIT,
)
from hourglass.core.curves.scales import ARCSINE, INTERVAL_SCALES, LINEAR, LOG, LOG_LOG, LOGIT


@dataclass(frozen=True, slots=True)
class ChoiceWords:
    """A choice in words: its name in the sentence, and what it would do."""

    name: str
    note: str


ESTIMATOR_WORDS = {
    PRODUCT_LIMIT.key: ChoiceWords(
        "product limit",
        "Kaplan & Meier (1958): the product of the shares that pass each event time",
    ),
    FROM_HAZARD.key: ChoiceWords(
        "the cumulative hazard", "exp(−H), H the sum of events over the number at risk"
    ),
    FROM_HAZARD_SPREAD.key: ChoiceWords(
        "the cumulative hazard, tied events spread",
        "exp(−H), tied events taken one after the other (Fleming & Harrington 1984)",
    ),
}
SCALE_WORDS = {
    LOG_LOG.key: ChoiceWords("log–log", "keeps to 0 and 100% and covers well in small groups"),
    LINEAR.key: ChoiceWords("linear", "symmetric; may leave 0 to 100% and is then held to it"),
    LOG.key: ChoiceWords("log", "relative to the curve; may leave 100% and is then held to it"),
    LOGIT.key: ChoiceWords("logit", "by the odds of being free of the event"),
    ARCSINE.key: ChoiceWords("arcsine", "by the angle whose sine is the root of the curve"),
}
INTERVAL_WORDS = {
    POINTWISE: ChoiceWords("pointwise intervals", "for one time at a time"),
    HALL_WELLNER.key: ChoiceWords(
        "simultaneous bands (Hall & Wellner)",
        "the whole curve at once; wider late, narrower in the middle",
    ),
    EQUAL_PRECISION.key: ChoiceWords(
        "simultaneous bands (equal precision)",
        "the whole curve at once; a pointwise interval widened everywhere alike (Nair 1984)",
    ),
    BARS: ChoiceWords(
        "standard-error bars at the chosen times",
        "S ± 1 standard error, held to 0 and 100%: no interval, and narrower than one",
    ),
    NO_INTERVAL: ChoiceWords("no intervals drawn", "the curves alone"),
}
assert set(ESTIMATOR_WORDS) == {estimator.key for estimator in ESTIMATORS}
assert set(SCALE_WORDS) == {scale.key for scale in INTERVAL_SCALES}
assert set(INTERVAL_WORDS) == set(INTERVALS)
