"""A fitted model under check, with the residuals that several questions look at."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from hourglass.analysis.model.fitting import FittedModel
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.shared.curve_form import CurveForm
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import once_for_each
from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.progress import ProgressCallback, no_progress
from hourglass.core.regression.proportionality import EventResiduals, event_residuals
from hourglass.core.regression.residuals import (
    AtEstimate,
    BySubject,
    at_estimate,
    by_subject,
    changes_without,
)
from hourglass.core.subjects import copies_of_subjects

if TYPE_CHECKING:  # the statement names the questions, which are put to what is checked
    from hourglass.analysis.check.statement import CheckStatement


@dataclass(frozen=True, eq=False, slots=True, weakref_slot=True, kw_only=True)
class Checked:
    """What is checked; residuals are worked out when they are first looked at.

    Attributes:
        form: of curves, at the level that the model states.
    """

    cohort: Cohort
    model_statement: ModelStatement
    statement: "CheckStatement"
    fitted: FittedModel
    form: CurveForm
    progress: ProgressCallback = no_progress

    @property
    def at(self) -> AtEstimate:
        """Its risk sets and sums.

        Raises:
            NotEstimableError: where the model has none.
        """
        return _at(self)

    @property
    def by_subject(self) -> BySubject:
        """Events seen and expected, by subject."""
        return _people(self)

    @property
    def residuals(self) -> EventResiduals:
        """Those of the events."""
        return _residuals(self)

    @property
    def alone(self) -> FloatArray:
        """(m, q) how far each subject alone moves the coefficients, to first order."""
        return _alone(self)

    @property
    def in_errors(self) -> FloatArray:
        """(q,) the standard errors of the coefficients."""
        return np.asarray(np.sqrt(np.diag(self.at.covariance)))

    @property
    def subject(self) -> IntArray:
        """(n,) the subject of each fitted row."""
        return _subjects(self)[0]

    @property
    def fitted_row(self) -> IntArray:
        """(m,) the place of each subject's last row among the fitted rows."""
        return _subjects(self)[1]

    @property
    def row(self) -> IntArray:
        """(m,) the row number of each subject's last row."""
        return self.fitted.design.numbers[self.fitted_row]

    @property
    def place(self) -> IntArray:
        """(m,) its place in the table."""
        return self.fitted.design.place[self.fitted_row]

    @property
    def linear(self) -> FloatArray:
        """(m,) the linear predictor of each subject's last row."""
        return self.fitted.fit.linear[self.fitted_row]

    @property
    def event(self) -> str:
        """What happens."""
        return self.fitted.design.event


def checked(
    cohort: Cohort,
    model_statement: ModelStatement,
    statement: "CheckStatement",
    fitted: FittedModel,
    form: CurveForm,
    progress: ProgressCallback = no_progress,
) -> Checked:
    """A fitted model, under check; ``form`` is that of the study's curves.

    Raises:
        NotEstimableError: where it has no residuals.
    """
    fitted.require_unpenalised()
    under = Checked(
        cohort=cohort,
        model_statement=model_statement,
        statement=statement,
        fitted=fitted,
        form=form.at_level(model_statement.confidence),
        progress=progress,
    )
    _at(under)
    return under


@once_for_each
def _at(checked: Checked) -> AtEstimate:
    coded = checked.fitted.design
    return at_estimate(coded.data, coded.x, checked.fitted.plain)


@once_for_each
def _people(checked: Checked) -> BySubject:
    return by_subject(checked.fitted.design.data, checked.at)


@once_for_each
def _residuals(checked: Checked) -> EventResiduals:
    coded = checked.fitted.design
    return event_residuals(coded.data, coded.x, checked.fitted.plain)


@once_for_each
def _subjects(checked: Checked) -> tuple[IntArray, IntArray]:
    """(n,) the subject of each fitted row, and (m,) the last row of each."""
    data = checked.fitted.design.data
    subject, copies = copies_of_subjects(data)
    last = np.zeros(copies.size, dtype=np.int64)
    order = np.argsort(data.exit, kind="stable")
    last[subject[order]] = order
    return subject, last


@once_for_each
def _alone(checked: Checked) -> FloatArray:
    changes = changes_without(checked.fitted.design.data, checked.at)
    size = checked.by_subject.copies.size
    sums = [np.bincount(checked.subject, c, size) for c in changes.T]
    return np.column_stack(sums).astype(np.float64)
