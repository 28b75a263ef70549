"""Who stands behind an event time of a model: the rows it is fitted to, at risk then."""

from collections.abc import Mapping

import numpy as np

from hourglass.analysis.model.design import follow_up_of
from hourglass.analysis.model.fitting import fit_parted
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.shared.declared import statement_of
from hourglass.analysis.shared.statement import StageStatement
from hourglass.analysis.shared.subject_workings import (
    FIGURE,
    Followed,
    SubjectsAt,
    subjects_workings,
)
from hourglass.analysis.shared.workings import ExplainedNumber, Workings
from hourglass.cohort.followup import Cohort


def _subjects(
    cohort: Cohort, statements: Mapping[str, StageStatement], about: SubjectsAt
) -> Workings:
    model = statement_of(statements, ModelStatement).hazards_model
    fitted = np.isin(cohort.table.numbers, fit_parted(cohort, model).design.numbers)
    data, event = follow_up_of(cohort, model.cause)
    return subjects_workings(Followed(cohort, data, event, np.where(fitted, 0, -1)), about)


SUBJECTS = ExplainedNumber(FIGURE, SubjectsAt, _subjects)
