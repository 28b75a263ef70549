"""Ratio over time: does each ratio stay the same (methods.md, section 6: Residuals and checks)."""

from dataclasses import dataclass

import numpy as np

from hourglass.analysis.catalogue.time_functions import TIME_FUNCTIONS
from hourglass.analysis.check.by_level import level_tracks
from hourglass.analysis.check.checked import Checked
from hourglass.analysis.check.courses import Course
from hourglass.analysis.check.figure import NOTE, course_track
from hourglass.analysis.check.question import Answer, Question, WordedVerdict
from hourglass.analysis.check.readouts import TermCheck
from hourglass.analysis.check.remedies import remedies
from hourglass.analysis.check.sections import check_sections
from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.check.weighed import PROPORTIONAL_HAZARDS, OverTimeNumbers
from hourglass.analysis.model.readouts import ChiSquared, chi_squared_readout
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.model.term_verdicts import TermVerdict, term_verdicts
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.figure.description import Track
from hourglass.analysis.shared.frozen_model import ratio_of
from hourglass.analysis.shared.sections import Action
from hourglass.analysis.shared.sentence import Slot
from hourglass.analysis.shared.slots import method_slot
from hourglass.analysis.shared.verdict import (
    Verdict,
    course,
    doubtful,
    failed_or_doubted,
    verdict,
    weakest,
)
from hourglass.cohort.followup import Cohort
from hourglass.core.comparison.chi_squared import Test
from hourglass.core.regression.proportionality import ProportionalityTest

LITTLE_CHANGE_BELOW = 1.25
"""A ratio that moves by less, from the first eighth of the events to the last, moves little."""
CHANGE_SELDOM_SEEN_BELOW_EVENTS = 40
"""With fewer events a change is seldom seen."""


@dataclass(frozen=True, slots=True, kw_only=True)
class OverTime:
    """The test of each term and of all together, in words, and the remedies of those in doubt."""

    terms: list[TermCheck]
    together: ChiSquared
    offered: list[Action]

    @property
    def verdict(self) -> Verdict:
        return verdict(weakest([t.test.p for t in self.terms]))


def _sentence_parts(
    cohort: Cohort, model_statement: ModelStatement, statement: CheckStatement
) -> list[str | Slot]:
    chosen = statement.time_function
    slot = method_slot("time_function", "Measure time as", TIME_FUNCTIONS, chosen)
    return ["does each ratio stay the same over time, with time measured as ", slot, "?"]


def over_time(checked: Checked, found: OverTimeNumbers) -> OverTime:
    """The test of every term, and how far its ratio moves."""
    design = checked.fitted.design
    terms, offered = [], list[Action]()
    for k, shown in enumerate(term_verdicts(design, found.tested)):
        own = [one for one in found.courses if design.columns[one.column].term == k]
        term = _term(checked, shown, own, found.tested, k)
        terms.append(term)
        if doubtful(shown.verdict):
            category = design.stated_terms[k].against_reference
            offered += remedies(checked.cohort, checked.model_statement, k, term, category=category)
    together = chi_squared_readout("all together", found.tested.together)
    return OverTime(terms=terms, together=together, offered=offered)


def _tracks(checked: Checked, found: OverTimeNumbers) -> list[Track]:
    """The course of every ratio, with its own verdict."""
    residuals = checked.residuals
    numbers = checked.fitted.design.numbers[residuals.row]
    tracks = []
    for one in found.courses:
        test = found.tested.column[one.column]
        single = verdict(test.p)
        text = _worded(single, course(one.smooth), test.blank)
        tracks.append(course_track(one, residuals, numbers, single, text))
    return tracks


def _term(
    checked: Checked, found: TermVerdict, own: list[Course], tested: ProportionalityTest, k: int
) -> TermCheck:
    moves, size = "", ""
    if own:
        strongest = own[int(np.argmin([_p(tested.column[one.column]) for one in own]))]
        moves, size = course(strongest.smooth), _size(checked, k, strongest, found.verdict)
    words = "; ".join(w for w in (_worded(found.verdict, moves, found.test.blank), size) if w)
    return TermCheck(
        label=found.label,
        name=checked.fitted.design.stated_terms[k].column,
        test=chi_squared_readout(found.label, found.test),
        verdict=found.verdict,
        words=words,
        course=moves,
    )


def _size(checked: Checked, k: int, of: Course, found: Verdict) -> str:
    """How far a term's ratio moves, in its unit, and whether the number of events lets that be seen."""
    smooth = of.smooth
    if smooth is None or smooth.y.size < 4 or found == "unknown":
        return ""
    eighth, unit = smooth.y.size // 8, checked.fitted.design.stated_terms[k].ratio_unit
    early, late = unit * smooth.y[eighth], unit * smooth.y[-1 - eighth]
    at_first, at_last = formatting.ratios(ratio_of(early), ratio_of(late))
    text = f"{at_first} early, {at_last} late"
    if doubtful(found) and abs(early - late) < np.log(LITTLE_CHANGE_BELOW):
        return f"{text}: a small change, seen because events are many"
    if not doubtful(found) and checked.fitted.fit.events < CHANGE_SELDOM_SEEN_BELOW_EVENTS:
        return f"{text}; {checked.fitted.fit.events} events seldom show a change"
    return text


def _p(test: Test) -> float:
    return 1.0 if test.p is None else test.p


def _worded(found: Verdict, move: str, blank: str | None) -> str:
    """A verdict in words: how a ratio in doubt moves, or why nothing can be shown."""
    if found == "unknown":
        return blank or "cannot be determined"
    return f"{found}, {move}" if doubtful(found) and move else found


def _verdict(checked: Checked, computed: OverTimeNumbers) -> WordedVerdict:
    found = over_time(checked, computed)
    against = [t.verdict for t in found.terms if doubtful(t.verdict)]
    text = "no ratio in doubt"
    if against:
        text = f"{failed_or_doubted(against)}, of {formatting.count(len(found.terms), 'terms')}"
    return WordedVerdict(found.verdict, text)


def _answer(checked: Checked, computed: OverTimeNumbers) -> Answer:
    found = over_time(checked, computed)
    note = NOTE.format(confidence=formatting.level_percent(checked.form.confidence))
    sections = check_sections(
        found.terms, found.together, list(computed.courses), computed.tested, found.offered
    )
    tracks = [*_tracks(checked, computed), *level_tracks(checked)]
    return Answer(tracks, sections, note, timed=True)


QUESTION = Question(
    PROPORTIONAL_HAZARDS, "proportional hazards", _sentence_parts, _verdict, _answer
)
