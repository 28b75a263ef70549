"""The questions put to a model, in the order in which they are shown: nothing else lists them."""

from typing import Any

from hourglass.analysis.check import influence, missed_rows, overall_fit, ratio_over_time, scale
from hourglass.analysis.check.question import Question
from hourglass.analysis.check.weighed import WEIGHED

QUESTIONS: tuple[Question[Any], ...] = (
    ratio_over_time.QUESTION,
    scale.QUESTION,
    missed_rows.QUESTION,
    influence.QUESTION,
    overall_fit.QUESTION,
)
assert tuple(q.key for q in QUESTIONS) == tuple(WEIGHED)
