"""A fitted model under check, with the residuals that several questions look at."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.model.fitting import FittedModel
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.shared.curve_form import CurveForm
from hourglass.analysis.shared.figure.description import Track
from hourglass.analysis.shared.sections import Section
from hourglass.analysis.shared.sentence import Slot
from hourglass.analysis.shared.verdict import Verdict
from hourglass.cohort.followup import Cohort
from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.people import copies_of_subjects
from hourglass.core.regression.residuals import AtEstimate, BySubject, at_estimate, by_subject
from hourglass.core.watch import Watch


@dataclass(frozen=True, eq=False, slots=True, weakref_slot=True, kw_only=True)
class Checked:
    """What is checked.

    Attributes:
        form: of curves, at the level that the model states.
        at: its risk sets and sums; ``people``: events seen and expected, by subject.
        row: (m,) the row number of each subject's last row; ``place``: (m,) its place in the table,
            ``fitted_row``: (m,) among the fitted rows; ``subject``: (n,) the subject of each of these.
    """

    cohort: Cohort
    asked: ModelStatement
    statement: CheckStatement
    fitted: FittedModel
    form: CurveForm
    at: AtEstimate
    people: BySubject
    subject: IntArray
    fitted_row: IntArray
    watch: Watch

    @property
    def row(self) -> IntArray:
        return self.fitted.design.numbers[self.fitted_row]

    @property
    def place(self) -> IntArray:
        return self.fitted.design.place[self.fitted_row]

    @property
    def linear(self) -> FloatArray:
        """(m,) the linear predictor of each subject's last row."""
        return self.fitted.fit.linear[self.fitted_row]

    @property
    def event(self) -> str:
        return self.fitted.design.event


def checked(
    cohort: Cohort,
    asked: ModelStatement,
    statement: CheckStatement,
    fitted: FittedModel,
    form: CurveForm,
    watch: Watch,
) -> Checked:
    """Residuals of a fitted model; ``form`` is that of the study's curves.

    Raises:
        NotEstimableError: where the model has none.
    """
    fitted.require_unpenalised()
    coded = fitted.design
    at = at_estimate(coded.data, coded.x, fitted.plain)
    people = by_subject(coded.data, at)
    subject, _ = copies_of_subjects(coded.data)
    last = np.zeros(people.copies.size, dtype=np.int64)
    order = np.argsort(coded.data.exit, kind="stable")
    last[subject[order]] = order
    form = form.at_level(asked.confidence)
    return Checked(
        cohort=cohort,
        asked=asked,
        statement=statement,
        fitted=fitted,
        form=form,
        at=at,
        people=people,
        subject=subject,
        fitted_row=last,
        watch=watch,
    )


@dataclass(frozen=True, slots=True)
class Told:
    """A verdict, and what it rests on."""

    verdict: Verdict
    words: str


@dataclass(frozen=True, slots=True)
class Answer:
    """What is shown of a question.

    Attributes:
        tracks: over time where ``timed``; else with axes of their own.
    """

    tracks: list[Track]
    sections: list[Section]
    note: str = ""
    timed: bool = False


@dataclass(frozen=True, slots=True)
class Question:
    """A question put to a model.

    Attributes:
        key: what it is called in a statement, and on the line of questions.
        asks: the statement in words and slots, after "Check the model: ".
        told: its verdict; ``answer``: what is shown of it.
    """

    key: str
    asks: Callable[[Cohort, ModelStatement, CheckStatement], list[str | Slot]]
    told: Callable[[Checked], Told]
    answer: Callable[[Checked], Answer]
