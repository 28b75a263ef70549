"""What each ratio of a model says, in a sentence."""

from hourglass.analysis.model.fitting import FittedModel
from hourglass.analysis.model.readings import TermReading
from hourglass.analysis.model.term_readings import Told
from hourglass.analysis.model.told_ratios import said_of
from hourglass.analysis.shared import wording
from hourglass.cohort.followup import Cohort


def in_words(
    cohort: Cohort, fitted: FittedModel, told: Told, terms: list[TermReading], confidence: float
) -> list[str]:
    """A sentence for each ratio that there is."""
    others = ", other terms equal" if len(terms) > 1 else ""
    found = []
    for ratios, term in zip(told, terms, strict=True):
        for one, c in zip(ratios, term.coefficients, strict=True):
            if c.adjusted.ratio is None:
                continue
            said = said_of(one, fitted.design.event, cohort.rows_are, c.adjusted.shown)
            level = wording.level_percent(confidence)
            found.append(f"{said} ({level} interval {c.adjusted.interval}){others}.")
    return found
